from dataclasses import replace

import pytest

from lean_parcel.core.candidates.summary import summarise
from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    JpegSettings,
    PassThrough,
    Settings,
    WebpSettings,
)
from lean_parcel.core.framing.place import Place

FULL_PX = 1000
AIM = Aim(place=Place(size=str(FULL_PX)), limit_bytes=60_000)
JPEG = JpegSettings(quality=70, chroma="4:2:0")
WEBP = WebpSettings(quality=70)
AVIF = AvifSettings(quality=70, chroma="4:2:0")


def candidate(settings: Settings, width_px: int, *, fits: bool = True) -> Candidate:
    trial = Trial(settings=settings, width_px=width_px, height_px=width_px)
    measured = Measured(size_bytes=50_000, likeness=80)
    return Candidate(trial=trial, measured=measured, meets_aim=fits)


@pytest.mark.parametrize(
    ("candidates", "words"),
    [
        ([candidate(AVIF, 1000), candidate(WEBP, 1000)], "AVIF at full pixels wins."),
        (
            [candidate(AVIF, 1000), candidate(JPEG, 750)],
            "AVIF at full pixels wins. To look their best within the limit, these send fewer:"
            " JPEG (75 % of the width).",
        ),
        (
            [candidate(WEBP, 500), candidate(JPEG, 1000, fits=False)],
            "WebP at 50 % of the width wins. JPEG cannot fit.",
        ),
        ([candidate(JPEG, 1000, fits=False)], ""),
        ([], ""),
    ],
)
def test_the_summary_in_words(candidates: list[Candidate], words: str) -> None:
    assert summarise(candidates, AIM, FULL_PX, 900_000) == words


def test_under_the_aim_of_a_likeness_no_limit_is_spoken_of() -> None:
    aim = replace(AIM, limit_bytes=None, likeness=75.0)
    found = [candidate(AVIF, 1000), candidate(WEBP, 750), candidate(JPEG, 1000, fits=False)]
    assert summarise(found, aim, FULL_PX, 900_000) == (
        "AVIF at full pixels wins. To look that alike in the fewest bytes, these send fewer:"
        " WebP (75 % of the width). JPEG cannot look that alike."
    )


def test_an_original_that_is_lighter_is_said() -> None:
    assert "The original is lighter still, at 40.0 kB." in summarise(
        [candidate(AVIF, 1000)], AIM, FULL_PX, 40_000
    )


def test_an_original_that_can_be_passed_through_is_named_first() -> None:
    original = candidate(PassThrough(format="jpeg"), 1000)
    first = "Keep the original: at 50.0 kB it fits its place as it came, and nothing is lost."
    assert summarise([original], AIM, FULL_PX, 40_000) == first
    words = summarise([original, candidate(AVIF, 1000)], AIM, FULL_PX, 40_000)
    assert words.startswith(f"{first} AVIF at full pixels comes next.")
