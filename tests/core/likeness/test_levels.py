import pytest

from lean_parcel.core.likeness.levels import likeness_number, likeness_sentence, likeness_words


@pytest.mark.parametrize(
    ("likeness", "words"),
    [
        (100.0, "no visible change"),
        (90.0, "no visible change"),
        (89.99, "hard to spot"),
        (70.0, "visible if you look"),
        (50.0, "plain to see"),
        (49.9, "damaged"),
        (0.0, "damaged"),
        (-0.1, "beyond recognition"),
        (-112.0, "beyond recognition"),
    ],
)
def test_a_likeness_has_plain_words_and_a_sentence(likeness: float, words: str) -> None:
    assert likeness_words(likeness) == words
    assert words in likeness_sentence(likeness).lower()


@pytest.mark.parametrize(("likeness", "shown"), [(100.0, "100.0"), (0.04, "0.0"), (-80.0, "0.0")])
def test_a_likeness_is_shown_from_0_to_100(likeness: float, shown: str) -> None:
    assert likeness_number(likeness) == shown
