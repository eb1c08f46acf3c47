from dataclasses import replace

from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.candidates.winner import with_winner
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.settings import AvifSettings, JpegSettings, PassThrough, Settings
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.findings import Finding

AIM = Aim(place=Place(size="300"), limit_bytes=60_000)
FINDINGS = (
    Finding(topic="character", title="A photo", note=""),
    Finding(topic="advice", title="Begin with WebP", note=""),
)


def candidate(settings: Settings, size_bytes: int, likeness: float, *, fits: bool) -> Candidate:
    return Candidate(
        trial=Trial(settings=settings, width_px=300, height_px=200),
        measured=Measured(size_bytes=size_bytes, likeness=likeness),
        meets_aim=fits,
    )


AVIF = candidate(AvifSettings(quality=60, chroma="4:2:0"), 59_000, 82.04, fits=True)
JPEG = candidate(JpegSettings(quality=60, chroma="4:2:0"), 58_000, 76.5, fits=True)


def test_the_measured_winner_takes_the_place_of_the_advice() -> None:
    kept, won = with_winner(FINDINGS, [AVIF, JPEG], AIM)
    assert kept == FINDINGS[0]
    assert (won.topic, won.title) == ("advice", "AVIF looks best here")
    assert won.note == "Measured: likeness 82.0, against JPEG 76.5."
    _, lightest = with_winner(FINDINGS, [JPEG], replace(AIM, likeness=75.0))
    assert (lightest.title, lightest.note) == ("JPEG is lightest here", "Measured: 58.0 kB.")


def test_without_a_winner_the_advice_stays() -> None:
    original = candidate(PassThrough(format="jpeg"), 9_000, 100, fits=True)
    over = replace(AVIF, meets_aim=False)
    assert with_winner(FINDINGS, [], AIM) == FINDINGS
    assert with_winner(FINDINGS, [original, over], AIM) == FINDINGS
