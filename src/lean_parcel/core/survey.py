"""The survey before a fit: which mode and pixel count of a format are worth encoding well.

A draft is a cheap encode of the same kind: the same quality, less effort, and so some more bytes.
How two modes compare at equal bytes is nearly the same in drafts as in earnest, at a fraction of
the time. So each mode is drafted at the limit at full pixels, then the best of them with fewer and
fewer pixels, until that no longer improves; where one draft landed says where the next begins.
Pixel counts whose ceiling is below what was found are not encoded at all.
"""

import math
from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass

from lean_parcel.core.scales import Scale
from lean_parcel.core.steps import Steps
from lean_parcel.core.trial import Measured, Rung, Subject, trial_at

#: Drafts of one mode and pixel count, and how near to the limit one is near enough, as the
#: logarithm of the factor.
_MOST_DRAFTS = 3
_NEAR = 0.12
#: Likeness that e times the bytes gain, where one draft is all that is known; and within which
#: range two drafts may say otherwise.
_USUAL_SLOPE, _SLOPES = 12.0, (1.0, 30.0)
#: How much flatter or steeper than the known curve two drafts may say that the bytes rise.
_BENDS = (0.5, 2.0)


@dataclass(frozen=True, slots=True)
class Estimate:
    """What a mode is expected to come to at a limit and a pixel count: its `likeness`, minus
    infinity where nothing worth a look fits; and the natural logarithm of the bytes of each of its
    steps, rising, as the drafts have corrected it."""

    scale: Scale
    rung: Rung
    likeness: float
    log_sizes: list[float]


def survey(scales: Sequence[Scale], subject: Subject, limit_bytes: int) -> Steps[list[Estimate]]:
    """Estimates of all modes and pixel counts that were drafted, the most promising first."""
    found: list[Estimate] = []
    best = -math.inf
    shift = 0.0
    for rung in subject.rungs:
        if rung.ceiling <= best:
            break
        here: list[Estimate] = []
        for scale in scales:
            estimate, shift = yield from _drafted(scale, rung, limit_bytes, shift)
            here.append(estimate)
        found += here
        leader = max(here, key=lambda estimate: estimate.likeness)
        if leader.likeness > -math.inf:
            if leader.likeness <= best:
                break
            best, scales = leader.likeness, [leader.scale]
    return sorted(found, key=lambda estimate: -estimate.likeness)


def _drafted(
    scale: Scale, rung: Rung, limit_bytes: int, shift: float
) -> Steps[tuple[Estimate, float]]:
    """A mode at one pixel count: a draft where the limit is expected, or some until one is near.

    `shift` is by how much the photo's drafts are heavier than the scale's known curve, as the
    logarithm of the factor: as the draft before had it, and back as this one has it.
    """
    lowest, log_limit = scale.lowest_worth_a_look, math.log(limit_bytes)
    curve = scale.log_sizes(rung.probe_size_bytes)
    expected = [value + shift for value in curve]
    drafts: dict[int, Measured] = {}
    nearest: list[int] = []
    while len(drafts) < _MOST_DRAFTS:
        step = max(lowest, bisect_right(expected, log_limit) - 1)
        if step in drafts:
            break
        (drafts[step],) = yield (trial_at(scale.draft(scale.qualities[step]), rung),)
        logs = {step: math.log(draft.size_bytes) for step, draft in drafts.items()}
        nearest = sorted(logs, key=lambda step: abs(logs[step] - log_limit))
        expected = _bent(curve, logs, nearest)
        if abs(logs[step] - log_limit) <= _NEAR:
            break
    log_sizes = [value - scale.draft_excess for value in expected]
    spent = min(log_limit, expected[-1])
    likeness = min(rung.ceiling, at_bytes([drafts[step] for step in nearest], spent))
    if log_sizes[lowest] > log_limit:
        likeness = -math.inf
    estimate = Estimate(scale=scale, rung=rung, likeness=likeness, log_sizes=log_sizes)
    return estimate, expected[nearest[0]] - curve[nearest[0]]


def _bent(curve: Sequence[float], logs: dict[int, float], nearest: Sequence[int]) -> list[float]:
    """The known curve through the nearest draft, and as steep as between the two nearest."""
    anchor, *others = nearest
    slope = 1.0
    if others and curve[others[0]] != curve[anchor]:
        low, high = _BENDS
        rise = logs[others[0]] - logs[anchor]
        slope = min(max(rise / (curve[others[0]] - curve[anchor]), low), high)
    return [logs[anchor] + slope * (value - curve[anchor]) for value in curve]


def at_bytes(nearest: Sequence[Measured], log_size: float) -> float:
    """The likeness to expect at as many bytes, as their logarithm: from the nearest measurement
    along the line through the next."""
    near, *others = nearest
    room = log_size - math.log(near.size_bytes)
    slope = _USUAL_SLOPE
    if others and others[0].size_bytes != near.size_bytes:
        run = math.log(others[0].size_bytes / near.size_bytes)
        low, high = _SLOPES
        slope = min(max((others[0].likeness - near.likeness) / run, low), high)
    return near.likeness + slope * room
