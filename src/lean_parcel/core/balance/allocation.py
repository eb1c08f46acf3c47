"""Sharing out a budget over photos, of each of which some encodes were measured.

The sum of likeness is a knapsack with one choice for each photo; it is filled along the convex
hulls of the photos' points by falling gain a byte, which is optimal for the bytes spent so far
(Shoham and Gersho, "Efficient bit allocation for an arbitrary set of quantizers", 1988), and then
as far as single steps still fit. What the best possible sum can be at most is known from the step
that did not fit. The worst photo is made as good as possible exactly, since only the likeness of
measured encodes can be its own; what is left is spent on the sum.
"""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from heapq import heapify, heappop, heappush
from typing import Literal

from lean_parcel.core.candidates.frontier import frontier
from lean_parcel.core.candidates.trial import Measured
from lean_parcel.core.likeness.levels import LEVELS

#: What bytes are spent for: that the worst photo looks best, or that all do together.
Objective = Literal["worst", "all"]
#: Above this likeness more bytes are not seen, so they count no more.
NO_MORE_SEEN = LEVELS[0].least


@dataclass(frozen=True, slots=True, kw_only=True)
class Share:
    """What a photo can get: its measured encodes, by how much it counts, no worse than
    `least_likeness` where it can be, and at most `most_bytes` where that is set."""

    options: tuple[Measured, ...]
    weight: float = 1.0
    least_likeness: float = 0.0
    most_bytes: int | None = None


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
    if objective == "worst":
        shares = _raised(shares, _best_worst(shares, budget_bytes))
    ladders = [ladder(share) for share in shares]
    chosen = [rising[0] for rising in ladders]
    spent = sum(_sizes(shares, chosen))
    if spent > budget_bytes:
        return Allocation(
            chosen=tuple(chosen), spent_bytes=spent, missing_bytes=spent - budget_bytes, gap=0.0
        )
    gap = _fill_along_hulls(shares, ladders, chosen, budget_bytes - spent)
    left = budget_bytes - sum(_sizes(shares, chosen))
    gap -= _fill_with_single_steps(shares, ladders, chosen, left)
    spent = sum(_sizes(shares, chosen))
    return Allocation(chosen=tuple(chosen), spent_bytes=spent, missing_bytes=0, gap=max(gap, 0.0))


def seen_likeness(measured: Measured) -> float:
    """The likeness of an encode as far as it counts."""
    return min(measured.likeness, NO_MORE_SEEN)


def reachable_worst(shares: Sequence[Share], budget_bytes: int) -> float:
    """The best likeness that no photo needs to be below within a budget, whatever each asks for at
    least; minus infinity where nothing fits."""
    return _best_worst([_without_least(share) for share in shares], budget_bytes)


def _without_least(share: Share) -> Share:
    return Share(options=share.options, weight=share.weight, most_bytes=share.most_bytes)


def _best_worst(shares: Sequence[Share], budget_bytes: int) -> float:
    """The highest likeness that every photo reaches within a budget, as far as it can, by halving
    over all that were measured."""
    levels = sorted({seen_likeness(each) for share in shares for each in share.options})
    low, high = -1, len(levels) - 1
    while low < high:
        middle = (low + high + 1) // 2
        least = _raised(shares, levels[middle])
        chosen = [ladder(share)[0] for share in least]
        if sum(_sizes(shares, chosen)) <= budget_bytes:
            low = middle
        else:
            high = middle - 1
    return levels[low] if low >= 0 else float("-inf")


def _raised(shares: Iterable[Share], least_likeness: float) -> list[Share]:
    return [
        Share(
            options=share.options,
            weight=share.weight,
            least_likeness=max(share.least_likeness, least_likeness),
            most_bytes=share.most_bytes,
        )
        for share in shares
    ]


def ladder(share: Share) -> list[int]:
    """The encodes that a photo may get, by rising bytes, each better than the one before: from the
    lightest that it needs at least, or that comes nearest to it."""
    most_bytes = share.most_bytes
    within = [
        index
        for index, each in enumerate(share.options)
        if most_bytes is None or each.size_bytes <= most_bytes
    ] or [min(range(len(share.options)), key=lambda index: share.options[index].size_bytes)]
    seen = [
        Measured(size_bytes=share.options[i].size_bytes, likeness=seen_likeness(share.options[i]))
        for i in within
    ]
    rising = frontier(seen)
    least = min(share.least_likeness, seen[rising[-1]].likeness)
    return [within[index] for index in rising if seen[index].likeness >= least]


def _sizes(shares: Sequence[Share], chosen: Sequence[int]) -> Iterator[int]:
    for share, index in zip(shares, chosen, strict=True):
        yield share.options[index].size_bytes


def _fill_along_hulls(
    shares: Sequence[Share], ladders: Sequence[list[int]], chosen: list[int], left_bytes: int
) -> float:
    """Takes the steps of all hulls by falling gain a byte, until one does not fit; returns by how
    much more could be gained with what is left."""
    hulls = [_hull(share, rising) for share, rising in zip(shares, ladders, strict=True)]
    at = [0] * len(shares)
    steps = [
        _step(shares, hulls, at, photo) for photo in range(len(shares)) if len(hulls[photo]) > 1
    ]
    heapify(steps)
    while steps:
        slope, photo, added = heappop(steps)
        if added > left_bytes:
            return -slope * left_bytes
        left_bytes -= added
        at[photo] += 1
        chosen[photo] = hulls[photo][at[photo]]
        if at[photo] + 1 < len(hulls[photo]):
            heappush(steps, _step(shares, hulls, at, photo))
    return 0.0


def _step(
    shares: Sequence[Share], hulls: Sequence[list[int]], at: Sequence[int], photo: int
) -> tuple[float, int, int]:
    """The next step of a photo along its hull: its gain a byte, negative for a heap, and bytes."""
    share, hull = shares[photo], hulls[photo]
    before, after = (share.options[hull[at[photo] + i]] for i in (0, 1))
    added = after.size_bytes - before.size_bytes
    return -share.weight * (seen_likeness(after) - seen_likeness(before)) / added, photo, added


def _hull(share: Share, rising: Sequence[int]) -> list[int]:
    """The upper convex hull of a ladder (Andrew's monotone chain)."""
    hull: list[int] = []
    for index in rising:
        while len(hull) > 1 and not _is_above(share, hull[-2], hull[-1], index):
            hull.pop()
        hull.append(index)
    return hull


def _is_above(share: Share, first: int, middle: int, last: int) -> bool:
    """Whether the middle one of three encodes lies above the line between the others."""
    a, b, c = (share.options[index] for index in (first, middle, last))
    rise, run = seen_likeness(c) - seen_likeness(a), c.size_bytes - a.size_bytes
    return (seen_likeness(b) - seen_likeness(a)) * run > rise * (b.size_bytes - a.size_bytes)


def _fill_with_single_steps(
    shares: Sequence[Share], ladders: Sequence[list[int]], chosen: list[int], left_bytes: int
) -> float:
    """Exchanges encodes for heavier ones, the one that gains most first, while any fits in what is
    left; returns what was gained."""
    gained = 0.0
    while True:
        best = max(
            (
                (share.weight * (seen_likeness(option) - seen_likeness(now)), photo, index)
                for photo, (share, rising) in enumerate(zip(shares, ladders, strict=True))
                for now in (share.options[chosen[photo]],)
                for index in rising
                for option in (share.options[index],)
                if 0 < option.size_bytes - now.size_bytes <= left_bytes
            ),
            default=(0.0, 0, 0),
        )
        gain, photo, index = best
        if gain <= 0:
            return gained
        options = shares[photo].options
        left_bytes -= options[index].size_bytes - options[chosen[photo]].size_bytes
        chosen[photo] = index
        gained += gain
