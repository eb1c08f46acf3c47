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
    usual = known.get(_moved(found.trial, aim, 1) or found.trial, found.measured)
    if aim.likeness is None and usual.size_bytes <= SLIGHTLY * aim.limit_bytes:
        best = ranked([found, *tried], aim)[0]
        tried += yield from _with_the_rest(best, aim, rungs)
    best = ranked([found, *tried], aim)[0]
    return best if best is not found and best.meets_aim else None


def _with_all_effort(
    found: Candidate, aim: Aim, known: Mapping[Trial, Measured]
) -> TrialSearch[list[Candidate]]:
    """Candidates of the same pixels with the slowest settings."""
    trial = _slowly(found.trial, aim)
    if trial is None:
        return []
    tried = [judged(trial, (yield trial), aim)]
    steps = _steps_to_spare(found, tried[0].measured, aim, known)
    for away in range(steps, max(steps - 2, 0), -1):
        beyond = _slowly(_moved(found.trial, aim, away), aim)
        if beyond is None:
            continue
        tried.append(judged(beyond, (yield beyond), aim))
        if tried[-1].meets_aim:
            break
    return tried


def _with_the_rest(
    best: Candidate, aim: Aim, rungs: Sequence[Rung]
) -> TrialSearch[list[Candidate]]:
    """The next step, and where that does not fit, what uses the rest of the limit otherwise."""
    above = _moved(best.trial, aim, 1)
    is_full = best.measured.size_bytes > (1 - LEAST_LEFT) * aim.limit_bytes
    if is_full or above is None or not best.meets_aim:
        return []
    above = _slowly(above, aim) or above
    beyond = judged(above, (yield above), aim)
    if beyond.meets_aim:
        return [beyond]
    made = {best.trial: best.measured, above: beyond.measured}
    state = LimitSearch(limit_bytes=aim.limit_bytes, rungs=rungs, made=made)
    rung = rung_between(rungs, best.trial.width_px)
    return [(yield from filled_up(best, rung, state))]


def _slowly(trial: Trial | None, aim: Aim) -> Trial | None:
    """A trial with the slowest settings that are allowed; None where it has them."""
    if trial is None or isinstance(trial.settings, PassThrough):
        return None
    slow = with_held(slow_settings(trial.settings), aim.held)
    return None if slow == trial.settings else replace(trial, settings=slow)


def _moved(trial: Trial, aim: Aim, steps: int) -> Trial | None:
    """A trial so many steps towards what is aimed for: a better file, or a lighter one."""
    settings = trial.settings
    for _ in range(steps):
        beside = None
        if not isinstance(settings, PassThrough):
            beside = neighbour(settings, 1 if aim.likeness is None else -1)
        if beside is None:
            return None
        settings = beside
    return replace(trial, settings=settings)


def _steps_to_spare(
    found: Candidate, slow: Measured, aim: Aim, known: Mapping[Trial, Measured]
) -> int:
    """How many steps further the slow settings are expected to meet the aim still."""
    beside = _moved(found.trial, aim, 1)
    measured = known.get(beside) if beside else None
    if aim.likeness is None:
        log_step = math.log(_USUAL_FACTOR)
        if measured and measured.size_bytes > found.measured.size_bytes:
            log_step = math.log(measured.size_bytes / found.measured.size_bytes)
        steps = math.log(aim.limit_bytes / slow.size_bytes) / log_step
    else:
        step = _USUAL_LIKENESS
        if measured and measured.likeness < found.measured.likeness:
            step = found.measured.likeness - measured.likeness
        steps = (slow.likeness - aim.likeness) / step
    return min(max(math.floor(steps), 0), _MOST_STEPS)
