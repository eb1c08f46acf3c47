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
    """The search for a better candidate of the same pixels, given what was measured of others: a
    lighter one where it looks as it should, else one that looks better. None where there is none.
    Asks for three trials at most."""
    tried = yield from _with_all_effort(found, aim, known)
    best = ranked([found, *tried], aim)[0]
    return best if best is not found and best.meets_aim else None


def _with_all_effort(
    found: Candidate, aim: Aim, known: Mapping[Trial, Measured]
) -> TrialSearch[list[Candidate]]:
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
