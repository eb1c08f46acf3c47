import pytest

from lean_parcel.core.page.totals import LINES, total


def test_totals_add_up_picks_and_the_time_they_take() -> None:
    totals = total([(50_000, 900_000), (150_000, 1_100_000)], 180_000)
    assert (totals.picked_bytes, totals.original_bytes) == (200_000, 2_000_000)
    assert totals.left_bytes == -20_000
    assert tuple(time.mbit_s for time in totals.line_times) == tuple(speed for speed, _ in LINES)
    assert totals.line_times[0].seconds == pytest.approx(4.4)  # 0.4 s there and back, then 1.6 Mbit


def test_a_page_without_picks_and_budget_weighs_nothing() -> None:
    totals = total([], None)
    assert (totals.picked_bytes, totals.left_bytes) == (0, None)
    assert {time.seconds for time in totals.line_times} == {0.0}
