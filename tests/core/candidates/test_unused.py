import pytest

from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.candidates.unused import why_unused
from lean_parcel.core.encoding.settings import (
    JpegSettings,
    PassThrough,
    PngSettings,
    Settings,
    WebpSettings,
)

LIMIT_BYTES = 60_000


def trial(settings: Settings) -> Trial:
    return Trial(settings=settings, width_px=800, height_px=600)


def why(
    settings: Settings,
    size_bytes: int,
    made: dict[Settings, int] | None = None,
    likeness: float = 80,
) -> str:
    measured = Measured(size_bytes=size_bytes, likeness=likeness)
    candidate = Candidate(trial=trial(settings), measured=measured, meets_aim=True)
    known = {
        trial(each): Measured(size_bytes=size, likeness=80) for each, size in (made or {}).items()
    }
    return why_unused(candidate, known, LIMIT_BYTES)


def test_up_to_a_twentieth_may_be_left_without_a_word() -> None:
    assert why(JpegSettings(quality=70, chroma="4:2:0"), 57_000) == ""
    assert why(JpegSettings(quality=70, chroma="4:2:0"), 70_000) == ""


@pytest.mark.parametrize(
    ("settings", "above", "words"),
    [
        (
            JpegSettings(quality=70, chroma="4:2:0"),
            JpegSettings(quality=71, chroma="4:2:0"),
            "10.0 kB of the limit are left: the next step, quality 71, takes 61.0 kB.",
        ),
        (
            PngSettings(colours=64),
            PngSettings(colours=72),
            "10.0 kB of the limit are left: the next step, 72 colours, takes 61.0 kB.",
        ),
    ],
)
def test_a_next_step_that_does_not_fit_is_the_reason(
    settings: Settings, above: Settings, words: str
) -> None:
    assert why(settings, 50_000, {above: 61_000}) == words


def test_where_nothing_is_lost_nothing_is_to_be_gained() -> None:
    for settings in (
        PassThrough(format="jpeg"),
        WebpSettings(quality=75, lossless=True),
        PngSettings(colours=None),
    ):
        assert why(settings, 30_000).endswith("nothing is lost that they could bring back.")


def test_the_highest_quality_is_said() -> None:
    assert why(PngSettings(colours=256), 30_000).endswith("the quality is at its highest.")


def test_else_nothing_that_was_tried_was_better() -> None:
    words = why(WebpSettings(quality=70), 50_000, {WebpSettings(quality=71): 55_000})
    assert words.endswith("nothing that was tried used them better.")


def test_what_would_not_be_seen_is_not_missed() -> None:
    words = why(WebpSettings(quality=70), 50_000, likeness=90)
    assert words.endswith("what they could gain would not be seen.")
