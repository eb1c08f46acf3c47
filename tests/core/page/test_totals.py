import pytest

from lean_parcel.core.page.totals import LINES, Fetched, total


def fetched(size_bytes: int, original_bytes: int) -> Fetched:
    return Fetched(
        fetched_bytes=size_bytes, old_browser_bytes=size_bytes + 1, original_bytes=original_bytes
    )


def test_totals_add_up_picks_and_the_time_they_take() -> None:
    totals = total([fetched(50_000, 900_000), fetched(150_000, 1_100_000)], 180_000)
    assert (totals.fetched_bytes, totals.original_bytes) == (200_000, 2_000_000)
    assert totals.old_browser_bytes == 200_002
    assert totals.left_bytes == -20_000
    assert tuple(time.mbit_s for time in totals.line_times) == tuple(speed for speed, _ in LINES)
    assert totals.line_times[0].seconds == pytest.approx(4.4)  # 0.4 s there and back, then 1.6 Mbit


def test_a_page_without_picks_and_budget_weighs_nothing() -> None:
    totals = total([], None)
    assert (totals.fetched_bytes, totals.left_bytes) == (0, None)
    assert {time.seconds for time in totals.line_times} == {0.0}
