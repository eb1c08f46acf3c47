"""The frontier of bytes against likeness: its points, the line that those of several formats make,
and the knee beyond which more bytes gain little."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations, zip_longest

import numpy as np

from lean_parcel.core.candidates.trial import Measured


@dataclass(frozen=True, slots=True, kw_only=True)
class Knee:
    """The point of diminishing returns, by its index, and the likeness that twice the bytes gain
    beyond it, on average up to the heaviest point of the frontier."""

    index: int
    gain_per_doubling: float


#: Less likeness than this for twice the bytes is little: less than a level of likeness.
_LITTLE = 10.0


def frontier(points: Sequence[Measured]) -> list[int]:
    """Indices of the points that no other beats in bytes and likeness both, by rising bytes."""
    order = sorted(range(len(points)), key=lambda i: (points[i].size_bytes, -points[i].likeness))
    best: list[int] = []
    for index in order:
        if not best or points[index].likeness > points[best[-1]].likeness:
            best.append(index)
    return best


@dataclass(frozen=True, slots=True, kw_only=True)
class LinePoint:
    """A point of a line between what was measured; its bytes need not be whole."""

    size_bytes: float
    likeness: float


def envelope(curves: Sequence[Sequence[Measured]]) -> list[LinePoint]:
    """The best of several curves for any bytes, as a line: each curve has the points of a frontier,
    between which likeness is taken to rise with the logarithm of bytes, as nearly it does. Where a
    curve begins above the others the line goes straight up."""
    lines = [_Line.through(points) for points in curves if points]
    knots = sorted({log for line in lines for log in line.logs})
    best: list[tuple[float, float]] = []
    for at, following in zip_longest(knots, knots[1:]):
        before = max((line.at(at) for line in lines if line.logs[0] < at), default=-math.inf)
        here = max(line.at(at) for line in lines if line.logs[0] <= at)
        best += [
            (at, likeness) for likeness in dict.fromkeys((before, here)) if likeness > -math.inf
        ]
        if following is not None:
            there = [line for line in lines if line.logs[0] <= at]
            crossings = _crossings(there, at, following)
            best += [(x, max(line.at(x) for line in there)) for x in crossings]
    return [LinePoint(size_bytes=math.exp(x), likeness=y) for x, y in best]


@dataclass(frozen=True, slots=True)
class _Line:
    """Likeness over the natural logarithm of bytes; beyond its last point it stays."""

    logs: list[float]
    likenesses: list[float]

    @classmethod
    def through(cls, points: Sequence[Measured]) -> "_Line":
        return cls(
            [math.log(point.size_bytes) for point in points],
            [point.likeness for point in points],
        )

    def at(self, log: float) -> float:
        return float(np.interp(log, self.logs, self.likenesses))


def _crossings(lines: Sequence[_Line], start: float, end: float) -> list[float]:
    """Where straight lines cross between two logarithms of bytes, rising."""
    found = set()
    for one, other in combinations(lines, 2):
        apart, apart_then = one.at(start) - other.at(start), one.at(end) - other.at(end)
        if apart * apart_then < 0:
            found.add(start + (end - start) * apart / (apart - apart_then))
    return sorted(found)


def knee(points: Sequence[Measured]) -> Knee | None:
    """Where the frontier bends most: the point farthest above the line between its ends, likeness
    over the logarithm of bytes, both from 0 to 1 (Satopää et al. 2011, "Finding a kneedle in a
    haystack"). None where fewer than four points show no bend, or more bytes still gain a lot."""
    best = frontier(points)
    if len(best) < 4:
        return None
    logs = [math.log2(points[i].size_bytes) for i in best]
    likenesses = [points[i].likeness for i in best]
    width, height = logs[-1] - logs[0], likenesses[-1] - likenesses[0]
    heights = [
        (likeness - likenesses[0]) / height - (log - logs[0]) / width
        for log, likeness in zip(logs, likenesses, strict=True)
    ]
    at = max(range(len(best)), key=heights.__getitem__)
    if heights[at] <= 0:
        return None
    gain = (likenesses[-1] - likenesses[at]) / (logs[-1] - logs[at])
    return Knee(index=best[at], gain_per_doubling=gain) if gain < _LITTLE else None
