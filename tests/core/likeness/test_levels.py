import pytest

from lean_parcel.core.likeness.levels import likeness_sentence, likeness_words


@pytest.mark.parametrize(
    ("likeness", "words"),
    [
        (100.0, "no visible change"),
        (90.0, "no visible change"),
        (89.99, "hard to spot"),
        (70.0, "visible if you look"),
        (50.0, "plain to see"),
        (49.9, "damaged"),
        (-12.0, "damaged"),
    ],
)
def test_a_likeness_has_plain_words_and_a_sentence(likeness: float, words: str) -> None:
    assert likeness_words(likeness) == words
    assert words in likeness_sentence(likeness)
