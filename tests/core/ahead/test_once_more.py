from dataclasses import replace
from itertools import product

import pytest

from lean_parcel.core.ahead.once_more import once_more
from lean_parcel.core.candidates.ranking import judged
from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.qualities import QUALITIES
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    EncoderSettings,
    JpegSettings,
    PassThrough,
    PngSettings,
    Settings,
    WebpSettings,
    slow_settings,
)
from lean_parcel.core.framing.place import Place
from tests.core.search.fake_encoder import fake_encoder
from tests.recorded import Recorded

LIMIT = Aim(place=Place(size="1000"), limit_bytes=60_000)
LIKENESS = replace(LIMIT, limit_bytes=None, likeness=60)
BOTH = replace(LIMIT, likeness=60)
AVIF = AvifSettings(quality=60, chroma="4:2:0")


def slowly(trial: Trial, saved: float, added: float) -> Measured:
    """What the fake encoder makes, with what slow settings save and add."""
    usual = fake_encoder(trial)
    settings = trial.settings
    if isinstance(settings, PassThrough) or settings != slow_settings(settings):
        return usual
    return Measured(
        size_bytes=round(usual.size_bytes * (1 - saved)), likeness=usual.likeness + added
    )


def at(settings: Settings) -> Trial:
    return Trial(settings=settings, width_px=1000, height_px=667)


def found_by(aim: Aim) -> tuple[Candidate, dict[Trial, Measured]]:
    """The best AVIF of the fake encoder under an aim, and both its neighbours."""
    known = {
        at(replace(AVIF, quality=q)): fake_encoder(at(replace(AVIF, quality=q))) for q in STEPS
    }
    candidates = [judged(trial, measured, aim) for trial, measured in known.items()]
    meeting = [each for each in candidates if each.meets_aim]
    enough = [each for each in meeting if aim.is_enough(each.measured.likeness)]
    found = enough[0] if enough else meeting[-1]
    return found, known


STEPS = QUALITIES["avif"]


def tried(
    found: Candidate, aim: Aim, known: dict[Trial, Measured], saved: float, added: float
) -> tuple[Candidate | None, list[Trial]]:
    search = once_more(found, aim, known)
    asked = []
    try:
        trial = next(search)
        while True:
            asked.append(trial)
            trial = search.send(slowly(trial, saved, added))
    except StopIteration as end:
        return end.value, asked


@pytest.mark.parametrize("saved", [0.0, 0.01, 0.03, 0.06, 0.11])
@pytest.mark.parametrize("added", [-0.5, 0.0, 0.4])
@pytest.mark.parametrize("aim", [LIMIT, LIKENESS, BOTH])
def test_what_takes_the_place_of_a_candidate_is_better_and_meets_the_aim(
    aim: Aim, saved: float, added: float
) -> None:
    found, known = found_by(aim)
    better, asked = tried(found, aim, known, saved, added)
    assert len(asked) <= 3
    assert all(trial.settings == slow_settings(trial.settings) for trial in asked)  # type: ignore[arg-type]
    if better is None:
        assert added < 0 or saved + added == 0
        return
    measured = better.measured
    assert aim.is_met_by(measured.size_bytes, measured.likeness)
    assert aim.likeness is None or aim.is_enough(measured.likeness)
    if aim.likeness is None:
        assert measured.likeness >= round(found.measured.likeness, 2)
    else:
        assert measured.size_bytes < found.measured.size_bytes


def test_what_slow_settings_save_is_spent_on_the_next_steps() -> None:
    found, known = found_by(LIMIT)
    better, asked = tried(found, LIMIT, known, 0.11, 0.0)
    assert better is not None
    assert better.trial in asked
    assert better.trial.settings.quality > found.trial.settings.quality  # type: ignore[union-attr]
    assert better.measured.size_bytes > 0.95 * LIMIT.limit_bytes


def test_at_most_three_steps_are_skipped_at_once() -> None:
    found, known = found_by(LIMIT)
    _, asked = tried(found, LIMIT, known, 0.6, 0.0)  # which would do for ten
    qualities = [trial.settings.quality for trial in asked]  # type: ignore[union-attr]
    at = STEPS.index(found.trial.settings.quality)  # type: ignore[union-attr]
    assert qualities[:2] == [STEPS[at], STEPS[at + 3]]


def test_what_slow_settings_add_is_spent_on_fewer_bytes() -> None:
    found, known = found_by(LIKENESS)
    better, _ = tried(found, LIKENESS, known, 0.0, 1.0)
    assert better is not None
    assert better.trial.settings.quality < found.trial.settings.quality  # type: ignore[union-attr]
    assert better.measured.likeness >= 60


def test_a_next_step_that_is_far_too_heavy_is_not_tried() -> None:
    found, known = found_by(LIMIT)
    quality = STEPS[STEPS.index(found.trial.settings.quality) + 1]  # type: ignore[union-attr]
    above = replace(found.trial, settings=replace(AVIF, quality=quality))
    known[above] = replace(known[above], size_bytes=90_000)
    _, asked = tried(found, LIMIT, known, 0.05, 0.1)
    assert [trial.settings.quality for trial in asked] == [found.trial.settings.quality]  # type: ignore[union-attr]


HAS_NO_MORE: list[Settings] = [
    JpegSettings(quality=60, chroma="4:2:0"),
    WebpSettings(quality=60),
    PngSettings(colours=57, effort=6),
    PassThrough(format="jpeg"),
]


@pytest.mark.parametrize("settings", HAS_NO_MORE)
def test_what_was_made_with_all_effort_is_not_tried_again(settings: EncoderSettings) -> None:
    found = judged(at(settings), Measured(size_bytes=59_500, likeness=70), LIMIT)
    assert tried(found, LIMIT, {}, 0, 0) == (None, [])


def test_a_knob_that_is_held_stays() -> None:
    found, known = found_by(LIMIT)
    aim = replace(LIMIT, held={"avif": {"speed": 6}})
    assert tried(found, aim, known, 0.1, 1) == (None, [])


@pytest.mark.parametrize("aim", [LIMIT, LIKENESS], ids=["limit", "likeness"])
def test_what_is_asked_for_of_every_format(aim: Aim, recorded: Recorded) -> None:
    settings = (
        JpegSettings(quality=70, chroma="4:2:0"),
        WebpSettings(quality=72, effort=4),
        AVIF,
        PngSettings(colours=64),
    )
    told = {}
    for each, (saved, added) in product(settings, ((0.0, 0.3), (0.05, 0.0), (0.1, -0.4))):
        found = judged(at(each), fake_encoder(at(each)), aim)
        better, asked = tried(found, aim, {found.trial: found.measured}, saved, added)
        told[f"{each.format}, saved {saved}, added {added}"] = {"better": better, "asked": asked}
    recorded(told)
