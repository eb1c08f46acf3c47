"""The frontier of bytes against likeness: its points, and the knee beyond which more bytes gain
little."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

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
