"""How many bytes would be enough for more likeness, measured or estimated.

An estimate extends the frontier by the law that damage, which is what likeness lacks to 100, falls
as a power of the bytes; the power is that of the frontier's own end. How far off it is stands in
docs/metrics.md.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from lean_parcel.core.candidates.frontier import frontier
from lean_parcel.core.candidates.trial import Measured
from lean_parcel.core.likeness.levels import LEVELS, VISIBLE_IF_YOU_LOOK

#: An estimate of more than this many times the bytes that were measured is not given.
_FURTHEST, _FURTHEST_FROM_RUIN = 4, 30
#: Powers that were measured on photos; see docs/metrics.md.
_LEAST_POWER, _MOST_POWER = 0.3, 0.96
#: The frontier's end is judged against a point of at most this share of its bytes.
_SHORTER = 0.75
#: Between two points that are no further apart than this nothing is estimated.
_CLOSE = 1.1
_LEAST_DAMAGE = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class Enough:
    """The bytes that would be enough for a level of likeness; an estimate where no encode has
    reached it yet."""

    words: str
    limit_bytes: int
    is_estimate: bool


def next_level(points: Sequence[Measured], best: Measured) -> Enough | None:
    """What would lift the best candidate to the next level of likeness. None at the highest level,
    or where nothing rises."""
    above = [level for level in LEVELS if level.least > best.likeness]
    if not above:
        return None
    return _enough(points, above[-1].least, above[-1].words, _FURTHEST)


def rescue(points: Sequence[Measured], limit_bytes: int) -> Enough | None:
    """What would be enough where the limit ruins a picture: where of all that was measured within
    it nothing is better than plain to see. None where it does not, or nothing is known."""
    within = [point for point in points if point.size_bytes <= limit_bytes]
    if not within or max(point.likeness for point in within) >= VISIBLE_IF_YOU_LOOK.least:
        return None
    level = VISIBLE_IF_YOU_LOOK
    return _enough(points, level.least, level.words, _FURTHEST_FROM_RUIN)


def _enough(
    points: Sequence[Measured], likeness: float, words: str, furthest: float
) -> Enough | None:
    line = [points[index] for index in frontier(points)]
    reached = next((i for i, point in enumerate(line) if point.likeness >= likeness), None)
    if reached is not None:
        return _between(line[:reached], line[reached], likeness, words)
    high = line[-1]
    shorter = [point for point in line[:-1] if point.size_bytes <= _SHORTER * high.size_bytes]
    if not shorter:
        return None
    needed = high.size_bytes * (_damage(high) / (100 - likeness)) ** (1 / _power(shorter[-1], high))
    if needed > furthest * high.size_bytes:
        return None
    return Enough(words=words, limit_bytes=_rounded_up(needed), is_estimate=True)


def _between(below: Sequence[Measured], reached: Measured, likeness: float, words: str) -> Enough:
    """What was measured, where nothing much lighter can do; else an estimate between the two."""
    if not below or reached.size_bytes <= _CLOSE * below[-1].size_bytes:
        return Enough(words=words, limit_bytes=_rounded_up(reached.size_bytes), is_estimate=False)
    low = below[-1]
    share = math.log(_damage(low) / (100 - likeness)) / math.log(_damage(low) / _damage(reached))
    between = low.size_bytes * (reached.size_bytes / low.size_bytes) ** share
    return Enough(words=words, limit_bytes=_rounded_up(between), is_estimate=True)


def _damage(point: Measured) -> float:
    return max(100 - point.likeness, _LEAST_DAMAGE)


def _power(low: Measured, high: Measured) -> float:
    power = math.log(_damage(low) / _damage(high)) / math.log(high.size_bytes / low.size_bytes)
    return min(max(power, _LEAST_POWER), _MOST_POWER)


def _rounded_up(size_bytes: float) -> int:
    return math.ceil(size_bytes / 100) * 100
