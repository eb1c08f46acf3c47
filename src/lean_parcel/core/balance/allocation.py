"""Sharing out a budget over photos, of each of which some encodes were measured.

The sum of likeness is a knapsack with one choice for each photo; it is filled along the convex
hulls of the photos' points by falling gain a byte, which is optimal for the bytes spent so far
(Shoham and Gersho, "Efficient bit allocation for an arbitrary set of quantizers", 1988), and then
as far as single steps still fit. What the best possible sum can be at most is known from the step
that did not fit. The worst photo is made as good as possible exactly, since only the likeness of
measured encodes can be its own; what is left is spent on the sum.
"""

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, replace
from heapq import heapify, heappop, heappush
from typing import Literal

from lean_parcel.core.candidates.frontier import frontier
from lean_parcel.core.candidates.trial import Measured
from lean_parcel.core.likeness.levels import NO_CHANGE

#: What bytes are spent for: that the worst photo looks best, or that all do together.
Objective = Literal["worst", "all"]
#: Above this likeness more bytes are not seen, so they count no more.
NO_MORE_SEEN = NO_CHANGE


@dataclass(frozen=True, slots=True, kw_only=True)
class Share:
    """What a photo can get: its measured encodes, by how much it counts, no worse than
    `least_likeness` where it can be, and at most `most_bytes` where that is set. More likeness
    than `enough` counts no more."""

    options: tuple[Measured, ...]
    weight: float = 1.0
    least_likeness: float = 0.0
    most_bytes: int | None = None
    enough: float = NO_MORE_SEEN

    @property
    def most_seen(self) -> float:
        """The likeness up to which it counts."""
        return max(self.enough, self.least_likeness)

    def seen(self, measured: Measured) -> float:
        """The likeness of an encode as far as it counts."""
        return min(measured.likeness, self.most_seen)


@dataclass(frozen=True, slots=True, kw_only=True)
class Allocation:
    """The index of each photo's encode, what they weigh together, by how many bytes the budget is
    missed (0 where it is kept), and by how much the weighted sum of likeness that counts could be
    higher at most."""

    chosen: tuple[int, ...]
    spent_bytes: int
    missing_bytes: int
    gap: float


def allocated(shares: Sequence[Share], budget_bytes: int, objective: Objective) -> Allocation:
    """Encodes for all photos within a budget; each photo has one at least.

    Where the budget is too small for what each photo needs at least, each gets just that, and the
    budget is missed.
    """
    rungs = [_rungs(share) for share in shares]
    if objective == "worst":
        worst = _best_worst(rungs, budget_bytes)
        rungs = [each.from_likeness(worst) for each in rungs]
    at = [0] * len(rungs)
    left = budget_bytes - _spent(rungs, at)
    if left < 0:
        return Allocation(
            chosen=_chosen(rungs, at),
            spent_bytes=budget_bytes - left,
            missing_bytes=-left,
            gap=0.0,
        )
    gap = _fill_along_hulls(shares, rungs, at, left)
    gap -= _fill_with_single_steps(shares, rungs, at, budget_bytes - _spent(rungs, at))
    return Allocation(
        chosen=_chosen(rungs, at),
        spent_bytes=_spent(rungs, at),
        missing_bytes=0,
        gap=max(gap, 0.0),
    )


def reachable_worst(shares: Sequence[Share], budget_bytes: int) -> float:
    """The best likeness that no photo needs to be below within a budget, whatever each asks for at
    least; minus infinity where nothing fits."""
    return _best_worst([_rungs(replace(share, least_likeness=0)) for share in shares], budget_bytes)


def ladder(share: Share) -> list[int]:
    """The encodes of a photo, whatever it asks for, by rising bytes, each better than the one
    before as far as likeness counts."""
    return _rising(share, range(len(share.options))).indices


@dataclass(frozen=True, slots=True)
class _Rungs:
    """The ladder of a photo: indices of its options, with their bytes and likeness, both rising."""

    indices: list[int]
    sizes_bytes: list[int]
    likenesses: list[float]

    def first_from(self, likeness: float) -> int:
        """The first rung that is as good, or the best there is."""
        return min(bisect_left(self.likenesses, likeness), len(self.likenesses) - 1)

    def from_likeness(self, likeness: float) -> "_Rungs":
        """Those that are as good, or the best there is."""
        at = self.first_from(likeness)
        return _Rungs(self.indices[at:], self.sizes_bytes[at:], self.likenesses[at:])


def _rungs(share: Share) -> _Rungs:
    """From the lightest that a photo needs at least, or that comes nearest to it."""
    sizes = [each.size_bytes for each in share.options]
    most_bytes = max(sizes) if share.most_bytes is None else max(share.most_bytes, min(sizes))
    within = [index for index, size_bytes in enumerate(sizes) if size_bytes <= most_bytes]
    return _rising(share, within).from_likeness(share.least_likeness)


def _rising(share: Share, within: Sequence[int]) -> _Rungs:
    seen = [
        Measured(size_bytes=share.options[i].size_bytes, likeness=share.seen(share.options[i]))
        for i in within
    ]
    rising = frontier(seen)
    return _Rungs(
        [within[index] for index in rising],
        [seen[index].size_bytes for index in rising],
        [seen[index].likeness for index in rising],
    )


def _best_worst(rungs: Sequence[_Rungs], budget_bytes: int) -> float:
    """The highest likeness that every photo reaches within a budget, as far as it can, by halving
    over all that were measured."""
    levels = sorted({likeness for each in rungs for likeness in each.likenesses})
    low, high = -1, len(levels) - 1
    while low < high:
        middle = (low + high + 1) // 2
        if _spent(rungs, [each.first_from(levels[middle]) for each in rungs]) <= budget_bytes:
            low = middle
        else:
            high = middle - 1
    return levels[low] if low >= 0 else float("-inf")


def _spent(rungs: Sequence[_Rungs], at: Sequence[int]) -> int:
    return sum(each.sizes_bytes[i] for each, i in zip(rungs, at, strict=True))


def _chosen(rungs: Sequence[_Rungs], at: Sequence[int]) -> tuple[int, ...]:
    return tuple(each.indices[i] for each, i in zip(rungs, at, strict=True))


def _fill_along_hulls(
    shares: Sequence[Share], rungs: Sequence[_Rungs], at: list[int], left_bytes: int
) -> float:
    """Takes the steps of all hulls by falling gain a byte, until one does not fit; returns by how
    much more could be gained with what is left."""
    hulls = [_hull(each) for each in rungs]
    on_hull = [0] * len(rungs)

    def step(photo: int) -> tuple[float, int, int] | None:
        """The next step of a photo: its gain a byte, negative for a heap, and its bytes."""
        if on_hull[photo] + 1 == len(hulls[photo]):
            return None
        here, there = hulls[photo][on_hull[photo] : on_hull[photo] + 2]
        of_photo = rungs[photo]
        added = of_photo.sizes_bytes[there] - of_photo.sizes_bytes[here]
        gained = of_photo.likenesses[there] - of_photo.likenesses[here]
        return -shares[photo].weight * gained / added, photo, added

    steps = [each for each in map(step, range(len(rungs))) if each]
    heapify(steps)
    while steps:
        slope, photo, added = heappop(steps)
        if added > left_bytes:
            return -slope * left_bytes
        left_bytes -= added
        on_hull[photo] += 1
        at[photo] = hulls[photo][on_hull[photo]]
        if following := step(photo):
            heappush(steps, following)
    return 0.0


def _hull(rungs: _Rungs) -> list[int]:
    """The upper convex hull of a ladder (Andrew's monotone chain)."""
    hull: list[int] = []
    for rung in range(len(rungs.indices)):
        while len(hull) > 1 and not _is_above(rungs, hull[-2], hull[-1], rung):
            hull.pop()
        hull.append(rung)
    return hull


def _is_above(rungs: _Rungs, first: int, middle: int, last: int) -> bool:
    """Whether the middle one of three rungs lies above the line between the others."""
    sizes, likenesses = rungs.sizes_bytes, rungs.likenesses
    rise, run = likenesses[last] - likenesses[first], sizes[last] - sizes[first]
    return (likenesses[middle] - likenesses[first]) * run > rise * (sizes[middle] - sizes[first])


def _fill_with_single_steps(
    shares: Sequence[Share], rungs: Sequence[_Rungs], at: list[int], left_bytes: int
) -> float:
    """Exchanges encodes for heavier ones, the one that gains most first, while any fits in what is
    left; returns what was gained."""
    gained = 0.0
    while True:
        best, photo, to = 0.0, 0, 0
        for number, (share, each) in enumerate(zip(shares, rungs, strict=True)):
            most = bisect_right(each.sizes_bytes, each.sizes_bytes[at[number]] + left_bytes) - 1
            gain = share.weight * (each.likenesses[most] - each.likenesses[at[number]])
            if gain > best:
                best, photo, to = gain, number, most
        if best <= 0:
            return gained
        left_bytes -= rungs[photo].sizes_bytes[to] - rungs[photo].sizes_bytes[at[photo]]
        at[photo] = to
        gained += best
