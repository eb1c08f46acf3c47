"""Trying a candidate once more with the slowest settings, and spending what they save on the next
steps; and what is left of a limit then, on a step or pixels more."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace

from lean_parcel.core.candidates.ranking import judged, ranked
from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.held import with_held
from lean_parcel.core.encoding.qualities import neighbour
from lean_parcel.core.encoding.settings import PassThrough, slow_settings
from lean_parcel.core.search.by_limit.fitting import LEAST_LEFT, SLIGHTLY, filled_up
from lean_parcel.core.search.by_limit.limit_search import LimitSearch
from lean_parcel.core.search.ladder import Rung, rung_between
from lean_parcel.core.search.protocol import TrialSearch

#: What a step changes where that was not measured: bytes by this factor, likeness by this much.
_USUAL_FACTOR, _USUAL_LIKENESS = 1.04, 0.5
#: So many steps at most are skipped at once.
_MOST_STEPS = 3


def once_more(
    found: Candidate, aim: Aim, rungs: Sequence[Rung], known: Mapping[Trial, Measured]
) -> TrialSearch[Candidate | None]:
    """The search for a better candidate, given what was measured of others; None where there is
    none. Asks for eight trials at most."""
    tried = yield from _with_all_effort(found, aim, known)
    if aim.limit_bytes and not aim.is_enough(found.measured.likeness):
        usual = _known(found.trial, 1, known) or found.measured
        best = ranked([found, *tried], aim)[0]
        is_there = aim.is_enough(best.measured.likeness)
        if usual.size_bytes <= SLIGHTLY * aim.limit_bytes and not is_there:
            tried += yield from _with_the_rest(best, aim.limit_bytes, aim, rungs)
    best = ranked([found, *tried], aim)[0]
    return best if best is not found and best.meets_aim else None


def _with_all_effort(
    found: Candidate, aim: Aim, known: Mapping[Trial, Measured]
) -> TrialSearch[list[Candidate]]:
    """Candidates of the same pixels with the slowest settings: lighter ones where it looks as it
    should, else better ones."""
    trial = _slowly(found.trial, aim)
    if trial is None:
        return []
    is_enough = aim.is_enough(found.measured.likeness)
    direction = -1 if is_enough else 1
    tried = [judged(trial, (yield trial), aim)]
    steps = _steps_to_spare(found, tried[0].measured, aim, known)
    for away in range(steps, max(steps - 2, 0), -1):
        beyond = _slowly(_moved(found.trial, direction * away), aim)
        if beyond is None:
            continue
        tried.append(judged(beyond, (yield beyond), aim))
        looks = tried[-1].measured.likeness
        if tried[-1].meets_aim and (not is_enough or aim.is_enough(looks)):
            break
    return tried


def _with_the_rest(
    best: Candidate, limit_bytes: int, aim: Aim, rungs: Sequence[Rung]
) -> TrialSearch[list[Candidate]]:
    """The next step, and where that does not fit, what uses the rest of the limit otherwise."""
    above = _moved(best.trial, 1)
    is_full = best.measured.size_bytes > (1 - LEAST_LEFT) * limit_bytes
    if is_full or above is None or not best.meets_aim:
        return []
    above = _slowly(above, aim) or above
    beyond = judged(above, (yield above), aim)
    if beyond.meets_aim:
        return [beyond]
    made = {best.trial: best.measured, above: beyond.measured}
    state = LimitSearch(limit_bytes=limit_bytes, rungs=rungs, made=made)
    rung = rung_between(rungs, best.trial.width_px)
    return [(yield from filled_up(best, rung, state))]


def _slowly(trial: Trial | None, aim: Aim) -> Trial | None:
    """A trial with the slowest settings that are allowed; None where it has them."""
    if trial is None or isinstance(trial.settings, PassThrough):
        return None
    slow = with_held(slow_settings(trial.settings), aim.held)
    return None if slow == trial.settings else replace(trial, settings=slow)


def _moved(trial: Trial, steps: int) -> Trial | None:
    """A trial so many steps of quality up, or down; None where there are none."""
    settings = trial.settings
    for _ in range(abs(steps)):
        if isinstance(settings, PassThrough):
            return None
        beside = neighbour(settings, 1 if steps > 0 else -1)
        if beside is None:
            return None
        settings = beside
    return replace(trial, settings=settings)


def _steps_to_spare(
    found: Candidate, slow: Measured, aim: Aim, known: Mapping[Trial, Measured]
) -> int:
    """How many steps further the slow settings are expected to do what is aimed for still."""
    steps = 0.0
    if aim.likeness is not None and aim.is_enough(found.measured.likeness):
        step, measured = _USUAL_LIKENESS, _known(found.trial, -1, known)
        if measured and measured.likeness < found.measured.likeness:
            step = found.measured.likeness - measured.likeness
        steps = (slow.likeness - aim.likeness) / step
    elif aim.limit_bytes is not None:
        log_step, measured = math.log(_USUAL_FACTOR), _known(found.trial, 1, known)
        if measured and measured.size_bytes > found.measured.size_bytes:
            log_step = math.log(measured.size_bytes / found.measured.size_bytes)
        steps = math.log(aim.limit_bytes / slow.size_bytes) / log_step
    return min(max(math.floor(steps), 0), _MOST_STEPS)


def _known(trial: Trial, steps: int, known: Mapping[Trial, Measured]) -> Measured | None:
    """What was measured so many steps away."""
    beside = _moved(trial, steps)
    return known.get(beside) if beside else None
