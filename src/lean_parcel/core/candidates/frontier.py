"""The frontier of bytes against likeness: its points, the line that those of several formats make,
and the knee beyond which more bytes gain little."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from lean_parcel.core.arrays import F64
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
    lines = [
        ([math.log(p.size_bytes) for p in points], [p.likeness for p in points])
        for points in curves
        if points
    ]
    if not lines:
        return []
    knots = np.unique(np.concatenate([logs for logs, _ in lines]))
    values = np.array([np.interp(knots, *line, left=-np.inf) for line in lines])
    at = np.unique(np.concatenate([knots, *_crossings(knots, values)]))
    here = np.max([np.interp(at, *line, left=-np.inf) for line in lines], axis=0)
    before = np.max(
        [
            np.where(at > logs[0], np.interp(at, logs, likenesses), -np.inf)
            for logs, likenesses in lines
        ],
        axis=0,
    )
    return [
        LinePoint(size_bytes=math.exp(log), likeness=likeness)
        for log, low, high in zip(at.tolist(), before.tolist(), here.tolist(), strict=True)
        for likeness in dict.fromkeys((low, high))
        if likeness > -math.inf
    ]


def _crossings(knots: F64, values: F64) -> list[F64]:
    """Where lines cross between knots at which they have these values; minus infinity before a
    line begins."""
    found = []
    for one, other in combinations(values, 2):
        both = np.isfinite(one) & np.isfinite(other)
        at, apart = knots[both], (one[both] - other[both])
        changes = apart[:-1] * apart[1:] < 0
        left, right = apart[:-1][changes], apart[1:][changes]
        found.append(at[:-1][changes] + left / (left - right) * np.diff(at)[changes])
    return found


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
