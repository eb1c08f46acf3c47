"""Trying a candidate once more with the slowest settings, and spending what they save on the next
steps."""

import math
from collections.abc import Mapping
from dataclasses import replace

from lean_parcel.core.candidates.ranking import judged, ranked
from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.held import with_held
from lean_parcel.core.encoding.qualities import neighbour
from lean_parcel.core.encoding.settings import PassThrough, slow_settings
from lean_parcel.core.search.protocol import TrialSearch

#: What a step changes where that was not measured: bytes by this factor, likeness by this much.
_USUAL_FACTOR, _USUAL_LIKENESS = 1.04, 0.5
#: So many steps at most are skipped at once.
_MOST_STEPS = 3


def once_more(
    found: Candidate, aim: Aim, known: Mapping[Trial, Measured]
) -> TrialSearch[Candidate | None]:
    """The search for a better candidate of the same pixels, given what was measured of others; None
    where there is none. Asks for three trials at most."""
    trial = _slowly(found.trial, aim)
    if trial is None:
        return None
    best = first = judged(trial, (yield trial), aim)
    steps = _steps_to_spare(found, first.measured, aim, known)
    for away in range(steps, max(steps - 2, 0), -1):
        beyond = _slowly(_moved(found.trial, aim, away), aim)
        if beyond is None:
            continue
        candidate = judged(beyond, (yield beyond), aim)
        if candidate.meets_aim:
            best = candidate
            break
    in_order = ranked([found, first, best], aim)
    return in_order[0] if in_order[0] is not found and in_order[0].meets_aim else None


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
