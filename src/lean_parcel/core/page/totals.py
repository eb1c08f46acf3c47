"""What the photos of a page weigh together, and how long they take to arrive."""

from collections.abc import Iterable
from dataclasses import dataclass

#: Lines that pages are judged by, as megabits a second and the milliseconds of a round trip: a slow
#: mobile line, a fair one, a good one, and a home line. Our choice of round numbers.
LINES = ((0.4, 400), (1.6, 150), (9.0, 60), (50.0, 20))


@dataclass(frozen=True, slots=True, kw_only=True)
class LineTime:
    """How long bytes take on a line: a round trip for the question, then its full speed."""

    mbit_s: float
    seconds: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Totals:
    """Bytes of the picks and of the originals that they stand for, and the time the picks take.

    `left_bytes` of the budget is negative where it is overspent, and None without a budget.
    """

    picked_bytes: int
    original_bytes: int
    left_bytes: int | None
    line_times: tuple[LineTime, ...]


def total(sizes_bytes: Iterable[tuple[int, int]], budget_bytes: int | None) -> Totals:
    """Adds up pairs of a pick's bytes and its original's."""
    pairs = list(sizes_bytes)
    picked_bytes = sum(picked for picked, _ in pairs)
    return Totals(
        picked_bytes=picked_bytes,
        original_bytes=sum(original for _, original in pairs),
        left_bytes=None if budget_bytes is None else budget_bytes - picked_bytes,
        line_times=tuple(
            LineTime(mbit_s=mbit_s, seconds=_seconds(picked_bytes, mbit_s, round_trip_ms))
            for mbit_s, round_trip_ms in LINES
        ),
    )


def _seconds(size_bytes: int, mbit_s: float, round_trip_ms: int) -> float:
    if not size_bytes:
        return 0.0
    return round_trip_ms / 1_000 + size_bytes * 8 / (mbit_s * 1_000_000)
