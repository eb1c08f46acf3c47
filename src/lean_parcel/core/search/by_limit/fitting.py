"""Fitting a limit at a place: the best candidate of a mode at about a pixel count.

The largest step that fits is found at full effort: the step taken was measured to fit, and the next
one not to, or clearly expected not to. That one is tried with slightly fewer pixels too, and at
once where one encode tells well enough by how much it is too heavy: if that nearly fills the limit
and looks no worse than the step below is expected to, nothing else is encoded there.
"""

import math
from collections.abc import Iterable
from dataclasses import replace

from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.encoding.qualities import neighbour
from lean_parcel.core.encoding.settings import PassThrough
from lean_parcel.core.likeness.levels import NO_CHANGE
from lean_parcel.core.search.bracket import SizeBracket
from lean_parcel.core.search.by_limit.limit_search import LimitSearch
from lean_parcel.core.search.by_limit.refining import fitting_rung
from lean_parcel.core.search.by_limit.survey import Estimate
from lean_parcel.core.search.damage_law import likeness_at
from lean_parcel.core.search.ladder import Rung, trial_at
from lean_parcel.core.search.protocol import FormatSearch, TrialSearch
from lean_parcel.core.search.scales import Scale

#: How often a width is tried for a step, which may turn out too heavy.
_FILLINGS = 2
#: Where less of the limit than this is left, nothing more is tried to fill it.
LEAST_LEFT = 0.015
#: A step that is expected to exceed the limit by this factor does, and one by no more than that is
#: worth fewer pixels.
_CLEARLY, SLIGHTLY = 1.02, 1.25
#: How much heavier than expected a step may turn out that was not measured, as a factor.
_UNSURE = 1.015


def found_at(place: Estimate, state: LimitSearch) -> TrialSearch[Candidate | None]:
    """The best candidate of a place, with as many pixels as it has, or slightly fewer or more; None
    where nothing fits."""
    place = yield from _begun(place, state)
    found = yield from _short_cut(place, state)
    if found:
        return found
    found = yield from fitted(place, state, place.scale.lowest_step)
    if found and state.rules.uses_rest:
        found = yield from filled_up(found, place.rung, state, _expected_next(place, state))
    return found


def _begun(place: Estimate, state: LimitSearch) -> TrialSearch[Estimate]:
    """A place with its first encode, or one more than those that are known, unless one of those is
    enough."""
    bracket, measured = _bracket_of(place, state, place.scale.lowest_step)
    best = None if bracket.best is None else measured[bracket.best]
    step = bracket.next_step()
    if step is None or (best and _is_enough(best, bracket, state)):
        return place
    return replace(place, known={**place.known, step: (yield place.scale.trial(step, place.rung))})


def _short_cut(place: Estimate, state: LimitSearch) -> TrialSearch[Candidate | None]:
    """The step that a place was begun with, where it is slightly too heavy, with as many pixels as
    fit; None where that does not fill the limit, or looks worse than the step below is expected
    to."""
    bracket, measured = _bracket_of(place, state, place.scale.lowest_step)
    step, heavy = next(reversed(place.known.items()))
    if bracket.first_above() != step or heavy.size_bytes > SLIGHTLY * state.limit_bytes:
        return None
    below, filling_bytes = step - 1, state.rules.filling * state.limit_bytes
    expected_bytes = bracket.expected_bytes(max(below, 0))
    rung = fitting_rung(place.rung, heavy, state)
    if rung is None or below in measured or expected_bytes >= filling_bytes:
        return None
    trial = trial_at(place.scale.trial(step, place.rung).settings, rung)
    filled = yield trial
    is_filling = filling_bytes <= filled.size_bytes <= state.limit_bytes
    promised = _promised(place, measured.values(), expected_bytes)
    is_better = below < place.scale.lowest_step or filled.likeness >= promised
    return state.judged(trial, filled) if is_filling and is_better else None


def fitted(place: Estimate, state: LimitSearch, lowest: int) -> TrialSearch[Candidate | None]:
    """The largest step of a place, from `lowest` on, that fits; None where none does. One that
    fills the limit is enough if the next clearly does not fit, or if no trials are left; and where
    the first is taken, one of which any of that is true, or that has no visible change."""
    bracket, measured = _bracket_of(place, state, lowest)
    while (step := bracket.next_step()) is not None:
        best = None if bracket.best is None else measured[bracket.best]
        if best and _is_enough(best, bracket, state):
            break
        measured[step] = yield place.scale.trial(step, place.rung)
        bracket.add(step, measured[step].size_bytes)
    if bracket.best is None:
        return None
    return state.judged(place.scale.trial(bracket.best, place.rung), measured[bracket.best])


def _is_enough(best: Measured, bracket: SizeBracket, state: LimitSearch) -> bool:
    """Whether the largest step that was measured to fit is taken without a look at the next."""
    is_filling = best.size_bytes >= state.rules.filling * state.limit_bytes
    if state.rules.takes_first:
        return is_filling or _is_settled(bracket, state) or best.likeness >= NO_CHANGE
    return is_filling and (_is_settled(bracket, state) or state.left() <= 0)


def measured_at(scale: Scale, rung: Rung, state: LimitSearch) -> dict[int, Measured]:
    """All encodes of a mode at a pixel count, by step."""
    steps = {scale.trial(step, rung): step for step in range(len(scale.qualities))}
    return {steps[trial]: each for trial, each in state.made.items() if trial in steps}


def _expected_next(place: Estimate, state: LimitSearch) -> Measured | None:
    """What the step after the largest that fits may come to, where the first that fits is taken and
    the next was not measured."""
    known = measured_at(place.scale, place.rung, state)
    bracket, _ = _bracket_of(replace(place, known=known), state, place.scale.lowest_step)
    heavy = bracket.first_above()
    if not state.rules.takes_first or bracket.best is None or heavy is None or heavy in known:
        return None
    most_bytes = round(bracket.expected_bytes(heavy) * _UNSURE)
    return replace(known[bracket.best], size_bytes=most_bytes)


def _has_bytes(bracket: SizeBracket, least_bytes: float) -> bool:
    """Whether the largest step that was measured to fit has so many bytes."""
    best = bracket.best
    return best is not None and bracket.expected_bytes(best) >= least_bytes


def _is_settled(bracket: SizeBracket, state: LimitSearch) -> bool:
    """Whether the step after the largest that was measured to fit clearly does not fit."""
    best = bracket.best
    if best is None or bracket.first_above() != best + 1:
        return False
    return bracket.expected_bytes(best + 1) >= _CLEARLY * state.limit_bytes


def filled_up(
    found: Candidate, rung: Rung, state: LimitSearch, expected: Measured | None = None
) -> FormatSearch:
    """A candidate that has the pixels of a rung, or one that uses more of the limit, if that looks
    better: the next step with as many pixels as fit, or the same step with more. What is `expected`
    of the next step counts where that was not measured."""
    for trial in (_next_step(found.trial), found.trial):
        known = state.made.get(trial, expected)
        at: Rung | None = rung
        for _ in range(_FILLINGS):
            is_left = found.measured.size_bytes <= (1 - LEAST_LEFT) * state.limit_bytes
            if known is None or at is None or not is_left or state.left() <= 0:
                break
            at = fitting_rung(at, known, state)
            if at is None:
                break
            tried = trial_at(trial.settings, at)
            known = yield tried
            if known.size_bytes <= state.limit_bytes:
                if known.likeness > found.measured.likeness:
                    return state.judged(tried, known)
                break
    return found


def better_of(first: Candidate, place: Estimate, state: LimitSearch) -> FormatSearch:
    """A candidate, or the largest step of another place that fits, or the first there that fills
    the limit, if that looks better; given up as soon as what was measured there promises no more
    likeness at the limit."""
    to_beat = first.measured
    filling_bytes = state.rules.filling_elsewhere * state.limit_bytes
    bracket, measured = _bracket_of(place, state, place.scale.lowest_step)
    while (step := bracket.next_step()) is not None:
        measured[step] = yield place.scale.trial(step, place.rung)
        bracket.add(step, measured[step].size_bytes)
        if _has_bytes(bracket, filling_bytes):
            break
        fitting = [m.likeness for m in measured.values() if m.size_bytes <= state.limit_bytes]
        promised = max([_promised(place, measured.values(), state.limit_bytes), *fitting])
        if promised <= to_beat.likeness or state.left() <= 0:
            return first
    if bracket.best is None or measured[bracket.best].likeness <= to_beat.likeness:
        return first
    return state.judged(place.scale.trial(bracket.best, place.rung), measured[bracket.best])


def _bracket_of(
    place: Estimate, state: LimitSearch, lowest: int
) -> tuple[SizeBracket, dict[int, Measured]]:
    """A bracket over a place, and what was measured there before, by step."""
    measured = {step: each for step, each in place.known.items() if step >= lowest}
    sizes = {step: each.size_bytes for step, each in measured.items()}
    bracket = SizeBracket(place.log_sizes, state.limit_bytes, sizes, lowest, state.rules.caution)
    return bracket, measured


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
