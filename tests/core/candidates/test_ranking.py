from dataclasses import replace

from lean_parcel.core.candidates.ranking import judged, ranked
from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.settings import JpegSettings, PngSettings, WebpSettings
from lean_parcel.core.framing.place import Place

AIM = Aim(place=Place(size="10"), limit_bytes=1_000)
LIKENESS_AIM = replace(AIM, limit_bytes=None, likeness=80.0)
WEBP, PNG = WebpSettings(quality=9), PngSettings(colours=9)
JPEG = JpegSettings(quality=9, chroma="4:2:0")


def candidate(
    likeness: float,
    size_bytes: int,
    settings: WebpSettings | PngSettings | JpegSettings = WEBP,
    aim: Aim = AIM,
) -> Candidate:
    trial = Trial(settings=settings, width_px=10, height_px=10)
    return judged(trial, Measured(size_bytes=size_bytes, likeness=likeness), aim)


def test_under_a_limit_likeness_goes_first_then_bytes_and_those_over_come_last() -> None:
    best, equal = candidate(80.001, 900), candidate(80.004, 901, PNG)
    worse = candidate(70, 100)
    over, far_over = candidate(99, 1_200), candidate(99.5, 2_000, PNG)
    order = ranked([far_over, worse, over, equal, best], AIM)
    assert order == [best, equal, worse, over, far_over]


def test_under_a_likeness_the_lightest_goes_first_and_those_below_come_last() -> None:
    light, heavy = (candidate(81, size, aim=LIKENESS_AIM) for size in (500, 90_000))
    near, far = (candidate(likeness, 100, aim=LIKENESS_AIM) for likeness in (79.9, 40))
    assert ranked([far, heavy, near, light], LIKENESS_AIM) == [light, heavy, near, far]


def test_under_both_what_looks_so_goes_first_by_bytes_and_then_what_fits_by_likeness() -> None:
    both = replace(AIM, likeness=80.0)
    light, heavy = (
        candidate(likeness, size, aim=both) for likeness, size in ((81, 500), (99, 900))
    )
    near, far = (candidate(likeness, 100, aim=both) for likeness in (79.9, 40))
    over, far_over = candidate(70, 1_200, aim=both), candidate(99, 2_000, aim=both)
    order = [light, heavy, near, far, over, far_over]
    assert ranked(order[::-1], both) == order


def test_what_fills_transparency_comes_after_what_keeps_it() -> None:
    for aim in (AIM, LIKENESS_AIM):
        jpeg, weaker = candidate(99, 400, JPEG, aim), candidate(85, 900, WEBP, aim)
        assert ranked([jpeg, weaker], aim, is_transparent=True) == [weaker, jpeg]
        assert ranked([jpeg, weaker], aim) == [jpeg, weaker]
