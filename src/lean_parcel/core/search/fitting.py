"""Fitting a limit at a place: the best candidate of a mode at about a pixel count.

The largest step that fits is found at full effort: the step taken was measured to fit, and the next
one not to, or clearly expected not to. That one is tried with slightly fewer pixels too, and at
once where one encode tells well enough by how much it is too heavy: if that nearly fills the limit
and looks no worse than the step below is expected to, nothing else is encoded there.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.encoding.qualities import neighbour
from lean_parcel.core.encoding.settings import PassThrough
from lean_parcel.core.likeness.levels import NO_CHANGE
from lean_parcel.core.search.bracket import SizeBracket
from lean_parcel.core.search.ladder import PartTrial, Rung, trial_at
from lean_parcel.core.search.protocol import FormatSearch, TrialSearch
from lean_parcel.core.search.refining import fitting_rung
from lean_parcel.core.search.survey import Estimate, likeness_at

#: Encodes and drafts that a search spends, unless an encoder is unlike all others, and what a draft
#: of a part counts.
MOST_TRIALS, _OF_A_PART = 12, 0.5
#: How often a width is tried for a step, which may turn out too heavy.
_FILLINGS = 2
#: Where less of the limit than this is left, nothing more is tried to fill it.
LEAST_LEFT = 0.015
#: A step that is expected to exceed the limit by this factor does, and one by no more than that is
#: worth fewer pixels; what fills so much of the limit needs no further search.
_CLEARLY, SLIGHTLY, _NEARLY = 1.02, 1.25, 0.95
#: Pictures from here on take so long that less of a limit is enough, and what is left of it is
#: filled while somebody looks: five encodes of a banner of 2880 x 1200 px took a quarter of its
#: search. So much is enough of every second place of a picture that is drafted by a part.
_HEAVY_PX, _HEAVY_NEARLY = 2_500_000, 0.85
#: How much heavier than parts say a large picture may turn out, as the logarithm of the factor: the
#: root mean square error is 4 to 9 %. Its first encode that nearly fills the limit is enough, so it
#: should fit.
_CAUTION = 0.04


def found_at(
    place: Estimate, rungs: Sequence[Rung], limit_bytes: int, made: dict[Trial, Measured]
) -> TrialSearch[Candidate | None]:
    """The best candidate of a place, with as many pixels as it has, or slightly fewer or more; None
    where nothing fits."""
    place = yield from _begun(place, limit_bytes)
    is_heavy = rungs[0].width_px * rungs[0].height_px >= _HEAVY_PX
    nearly = _HEAVY_NEARLY if is_heavy else _NEARLY
    found = yield from _short_cut(place, rungs, limit_bytes, nearly)
    if found:
        return found
    found = yield from fitted(place, limit_bytes, place.scale.lowest_step, made, nearly)
    if found and not is_heavy:
        found = yield from filled_up(found, place.rung, rungs, limit_bytes, made)
    return found


def _begun(place: Estimate, limit_bytes: int) -> TrialSearch[Estimate]:
    """A place with its first encode, or one more than those that are known."""
    sizes, known = bracket_of(place, limit_bytes, place.scale.lowest_step)
    step = sizes.next_step()
    if step is None:
        return place
    measured = yield place.scale.trial(step, place.rung)
    return replace(place, known={**known, step: measured})


def _short_cut(
    place: Estimate, rungs: Sequence[Rung], limit_bytes: int, nearly: float
) -> TrialSearch[Candidate | None]:
    """The step that a place was begun with, where it is slightly too heavy, with as many pixels as
    fit; None where that does not fill the limit, or looks worse than the step below is expected
    to."""
    bracket, measured = bracket_of(place, limit_bytes, place.scale.lowest_step)
    step, heavy = next(reversed(place.known.items()))
    if bracket.first_above() != step or heavy.size_bytes > SLIGHTLY * limit_bytes:
        return None
    below = step - 1
    expected_bytes = bracket.expected_bytes(max(below, 0))
    rung = fitting_rung(place.rung, heavy, rungs, limit_bytes)
    if rung is None or below in measured or expected_bytes >= nearly * limit_bytes:
        return None
    trial = trial_at(place.scale.trial(step, place.rung).settings, rung)
    filled = yield trial
    is_full = nearly * limit_bytes <= filled.size_bytes <= limit_bytes
    promised = _promised(place, measured.values(), expected_bytes)
    is_better = below < place.scale.lowest_step or filled.likeness >= promised
    return judged(trial, filled, limit_bytes) if is_full and is_better else None


def fitted(
    place: Estimate,
    limit_bytes: int,
    lowest: int,
    made: dict[Trial, Measured],
    nearly: float = _NEARLY,
) -> TrialSearch[Candidate | None]:
    """The largest step of a place, from `lowest` on, that fits; None where none does. One that
    fills the limit `nearly` is enough once as much is spent as a search may, and of a large picture
    from the start; of that also one whose damage is not seen."""
    bracket, measured = bracket_of(place, limit_bytes, lowest)
    while (step := bracket.next_step()) is not None:
        is_full = _is_full(bracket, limit_bytes, nearly)
        if is_full and (
            place.scale.by_part or _is_settled(bracket, limit_bytes) or spent(made) >= MOST_TRIALS
        ):
            break
        best = measured.get(bracket.best) if bracket.best is not None else None
        if place.scale.by_part and best and best.likeness >= NO_CHANGE:
            break
        measured[step] = yield place.scale.trial(step, place.rung)
        bracket.add(step, measured[step].size_bytes)
    if bracket.best is None:
        return None
    trial = place.scale.trial(bracket.best, place.rung)
    return judged(trial, measured[bracket.best], limit_bytes)


def _is_full(bracket: SizeBracket, limit_bytes: int, nearly: float) -> bool:
    """Whether the largest step that was measured to fit fills the limit `nearly`."""
    best = bracket.best
    return best is not None and bracket.expected_bytes(best) >= nearly * limit_bytes


def _is_settled(bracket: SizeBracket, limit_bytes: int) -> bool:
    """Whether the step after the largest that was measured to fit clearly does not fit."""
    best = bracket.best
    if best is None or bracket.first_above() != best + 1:
        return False
    return bracket.expected_bytes(best + 1) >= _CLEARLY * limit_bytes


def filled_up(
    found: Candidate,
    rung: Rung,
    rungs: Sequence[Rung],
    limit_bytes: int,
    made: Mapping[Trial, Measured],
) -> FormatSearch:
    """A candidate that has the pixels of a rung, or one that uses more of the limit, if that looks
    better: the next step with as many pixels as fit, or the same step with more."""
    for trial in (_next_step(found.trial), found.trial):
        known = made.get(trial)
        at: Rung | None = rung
        for _ in range(_FILLINGS):
            is_left = found.measured.size_bytes <= (1 - LEAST_LEFT) * limit_bytes
            if known is None or at is None or not is_left or spent(made) >= MOST_TRIALS:
                break
            at = fitting_rung(at, known, rungs, limit_bytes)
            if at is None:
                break
            tried = trial_at(trial.settings, at)
            known = yield tried
            if known.size_bytes <= limit_bytes:
                if known.likeness > found.measured.likeness:
                    return judged(tried, known, limit_bytes)
                break
    return found


def better_of(
    first: Candidate, place: Estimate, limit_bytes: int, made: dict[Trial, Measured]
) -> FormatSearch:
    """A candidate, or the largest step of another place that fits, or of a large picture the first
    that nearly fills the limit, if that looks better; given up as soon as what was measured there
    promises no more likeness at the limit."""
    to_beat = first.measured
    bracket, measured = bracket_of(place, limit_bytes, place.scale.lowest_step)
    while (step := bracket.next_step()) is not None:
        measured[step] = yield place.scale.trial(step, place.rung)
        bracket.add(step, measured[step].size_bytes)
        fitting = [m.likeness for m in measured.values() if m.size_bytes <= limit_bytes]
        promised = max([_promised(place, measured.values(), limit_bytes), *fitting])
        if place.scale.by_part and _is_full(bracket, limit_bytes, _HEAVY_NEARLY):
            break
        if promised <= to_beat.likeness or spent(made) >= MOST_TRIALS:
            return first
    if bracket.best is None or measured[bracket.best].likeness <= to_beat.likeness:
        return first
    trial = place.scale.trial(bracket.best, place.rung)
    return judged(trial, measured[bracket.best], limit_bytes)


def bracket_of(
    place: Estimate, limit_bytes: int, lowest: int
) -> tuple[SizeBracket, dict[int, Measured]]:
    """A bracket over a place, and what was measured there before, by step."""
    measured = {step: each for step, each in place.known.items() if step >= lowest}
    sizes = {step: each.size_bytes for step, each in measured.items()}
    caution = _CAUTION if place.scale.by_part else 0.0
    return SizeBracket(place.log_sizes, limit_bytes, sizes, lowest, caution), measured


def _promised(place: Estimate, measured: Iterable[Measured], size_bytes: float) -> float:
    """The likeness to expect of a place at a size, from what was measured there."""
    log_size = math.log(size_bytes)
    nearest = sorted(measured, key=lambda each: abs(math.log(each.size_bytes) - log_size))
    return likeness_at(nearest, log_size, place.scale, place.rung)


def _next_step(trial: Trial) -> Trial:
    """The step after that of a trial; the trial itself at the last one."""
    settings = trial.settings
    assert not isinstance(settings, PassThrough)
    return replace(trial, settings=neighbour(settings, 1) or settings)


def judged(trial: Trial, measured: Measured, limit_bytes: int) -> Candidate:
    return Candidate(trial=trial, measured=measured, meets_aim=measured.size_bytes <= limit_bytes)


def spent(made: Iterable[Trial]) -> float:
    """What the trials so far count of `MOST_TRIALS`."""
    return sum(_OF_A_PART if isinstance(trial, PartTrial) else 1 for trial in made)
