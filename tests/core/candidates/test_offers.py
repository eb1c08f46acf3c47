"""All that is said of measured encodes, as recorded."""

import pytest

from lean_parcel.core.candidates.close_call import close_call, offered
from lean_parcel.core.candidates.enough import next_level, rescue
from lean_parcel.core.candidates.frontier import envelope, frontier, knee
from lean_parcel.core.candidates.ranking import judged, ranked
from lean_parcel.core.candidates.summary import summarise
from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.candidates.unused import why_unused
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.qualities import QUALITIES, at_quality
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    EncoderSettings,
    JpegSettings,
    PngSettings,
    WebpSettings,
)
from lean_parcel.core.framing.place import Place
from tests.core.search.fake_encoder import fake_encoder
from tests.recorded import Recorded

WIDTHS = ((1000, 667), (750, 500), (500, 333))


USUAL: tuple[EncoderSettings, ...] = (
    JpegSettings(quality=80, chroma="4:2:0"),
    PngSettings(colours=64),
    WebpSettings(quality=80),
    AvifSettings(quality=80, chroma="4:2:0"),
)


def curve(usual: EncoderSettings) -> dict[Trial, Measured]:
    """Encodes of the known photo in a format, from ruin to no visible change."""
    qualities = QUALITIES[usual.format]
    steps = [qualities[round(share * (len(qualities) - 1))] for share in (0.1, 0.4, 0.7, 0.85, 1)]
    trials = [
        Trial(settings=at_quality(usual, step), width_px=width, height_px=height)
        for step in steps
        for width, height in WIDTHS
    ]
    return {trial: fake_encoder(trial) for trial in trials}


@pytest.mark.parametrize(
    ("limit_bytes", "likeness"), [(6_000, None), (30_000, None), (90_000, None), (90_000, 75.0)]
)
def test_what_is_offered(limit_bytes: int, likeness: float | None, recorded: Recorded) -> None:
    aim = Aim(place=Place(size="1000"), limit_bytes=limit_bytes, likeness=likeness)
    made = {usual.format: curve(usual) for usual in USUAL}
    judgements = [[judged(*each, aim) for each in of.items()] for of in made.values()]
    best = [ranked(of, aim)[0] for of in judgements]
    ranking = ranked(best, aim)
    call = close_call(ranking, aim)
    every = [list(of.values()) for of in made.values()]
    lines = [[points[i] for i in frontier(points)] for points in every]
    measured = [point for points in every for point in points]
    unused = [why_unused(each, made[format_of(each)], limit_bytes) for each in ranking]
    recorded(
        {
            "ranking": ranking,
            "transparent": [format_of(each) for each in ranked(best, aim, is_transparent=True)],
            "close": call,
            "offered": [format_of(each) for each in offered(ranking, call)],
            "summary": summarise(ranking, aim, 1000, 150_000),
            "unused": unused,
            "next level": next_level(measured, ranking[0].measured),
            "rescue": rescue(measured, limit_bytes),
            "knees": [knee(points) for points in every],
            "line": [[point.size_bytes, point.likeness] for point in envelope(lines)],
        }
    )


def format_of(candidate: Candidate) -> str:
    return candidate.trial.settings.format
