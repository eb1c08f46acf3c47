"""What the photos of a page weigh together, and how long they take to arrive."""

from collections.abc import Iterable
from dataclasses import dataclass

from lean_parcel.core.packing.handed import HandedPhoto

#: Lines that pages are judged by, as megabits a second and the milliseconds of a round trip: a slow
#: mobile line, a fair one, a good one, and a home line. Our choice of round numbers.
LINES = ((0.4, 400), (1.6, 150), (9.0, 60), (50.0, 20))


@dataclass(frozen=True, slots=True, kw_only=True)
class LineTime:
    """How long bytes take on a line: a round trip for the question, then its full speed."""

    mbit_s: float
    seconds: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Fetched:
    """What is fetched of a photo in its page: by a browser of today, and by one without newer
    formats; and the bytes of the original that they stand for."""

    fetched_bytes: int
    old_browser_bytes: int
    original_bytes: int

    @classmethod
    def of(cls, photo: HandedPhoto, original_bytes: int) -> "Fetched":
        """Of a photo that is handed over."""
        return cls(
            fetched_bytes=photo.fetched.size_bytes,
            old_browser_bytes=photo.fetched_by_old.size_bytes,
            original_bytes=original_bytes,
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Totals:
    """What the photos of a page weigh together, and the time that takes.

    `left_bytes` of the budget is negative where it is overspent, and None without a budget.
    """

    fetched_bytes: int
    old_browser_bytes: int
    original_bytes: int
    left_bytes: int | None
    line_times: tuple[LineTime, ...]


def total(photos: Iterable[Fetched], budget_bytes: int | None) -> Totals:
    """Adds up what is fetched of photos."""
    photos = list(photos)
    fetched_bytes = sum(each.fetched_bytes for each in photos)
    return Totals(
        fetched_bytes=fetched_bytes,
        old_browser_bytes=sum(each.old_browser_bytes for each in photos),
        original_bytes=sum(each.original_bytes for each in photos),
        left_bytes=None if budget_bytes is None else budget_bytes - fetched_bytes,
        line_times=tuple(
            LineTime(mbit_s=mbit_s, seconds=_seconds(fetched_bytes, mbit_s, round_trip_ms))
            for mbit_s, round_trip_ms in LINES
        ),
    )


def _seconds(size_bytes: int, mbit_s: float, round_trip_ms: int) -> float:
    if not size_bytes:
        return 0.0
    return round_trip_ms / 1_000 + size_bytes * 8 / (mbit_s * 1_000_000)
