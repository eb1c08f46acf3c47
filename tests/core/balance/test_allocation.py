"""Allocations against dynamic programming and against every combination there is."""

from itertools import product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lean_parcel.core.balance.allocation import (
    Allocation,
    Objective,
    Share,
    allocated,
    reachable_worst,
)
from lean_parcel.core.candidates.trial import Measured

MEASURED = st.builds(
    Measured, size_bytes=st.integers(1, 60), likeness=st.floats(0, 100, allow_nan=False)
)
SHARES = st.lists(
    st.builds(
        Share,
        options=st.lists(MEASURED, min_size=1, max_size=5).map(tuple),
        weight=st.sampled_from((0.5, 1.0, 2.0)),
        least_likeness=st.sampled_from((0.0, 0.0, 40.0, 70.0, 95.0)),
        most_bytes=st.sampled_from((None, None, 30)),
    ),
    min_size=1,
    max_size=4,
)


def share(*points: tuple[int, float], **rest: float) -> Share:
    options = tuple(Measured(size_bytes=size, likeness=likeness) for size, likeness in points)
    return Share(options=options, **rest)  # type: ignore[arg-type]


def total(shares: list[Share], chosen: tuple[int, ...]) -> float:
    return sum(
        each.weight * each.seen(each.options[index])
        for each, index in zip(shares, chosen, strict=True)
    )


def worst(shares: list[Share], chosen: tuple[int, ...]) -> float:
    return min(each.seen(each.options[index]) for each, index in zip(shares, chosen, strict=True))


def allowed(one: Share) -> list[int]:
    """The options that a photo may get, by the words of the rules."""
    by_size = sorted(range(len(one.options)), key=lambda i: one.options[i].size_bytes)
    most = one.most_bytes
    within = [i for i in by_size if most is None or one.options[i].size_bytes <= most]
    least_bytes = one.options[by_size[0]].size_bytes
    within = within or [i for i in by_size if one.options[i].size_bytes == least_bytes]
    reached = max(one.seen(one.options[i]) for i in within)
    least = min(one.least_likeness, reached)
    return [i for i in within if one.seen(one.options[i]) >= least]


def best_by_dynamic_programming(shares: list[Share], budget_bytes: int) -> float | None:
    """The best weighted sum for every number of bytes, photo by photo; None where nothing fits."""
    best: dict[int, float] = {0: 0.0}
    for one in shares:
        after: dict[int, float] = {}
        for spent, value in best.items():
            for index in allowed(one):
                size = spent + one.options[index].size_bytes
                gain = value + one.weight * one.seen(one.options[index])
                if size <= budget_bytes and gain > after.get(size, -1.0):
                    after[size] = gain
        best = after
    return max(best.values(), default=None)


@given(SHARES, st.integers(1, 200))
def test_the_sum_is_as_near_to_the_best_as_it_says(shares: list[Share], budget_bytes: int) -> None:
    found = allocated(shares, budget_bytes, "all")
    best = best_by_dynamic_programming(shares, budget_bytes)
    assert (best is None) == (found.missing_bytes > 0)
    assert_is_allowed(shares, found, budget_bytes)
    if best is not None:
        value = total(shares, found.chosen)
        assert best - found.gap - 1e-6 <= value <= best + 1e-6


@given(SHARES, st.integers(1, 200))
def test_the_worst_photo_is_as_good_as_it_can_be(shares: list[Share], budget_bytes: int) -> None:
    found = allocated(shares, budget_bytes, "worst")
    assert_is_allowed(shares, found, budget_bytes)
    every = [
        chosen
        for chosen in product(*(allowed(one) for one in shares))
        if sum(one.options[i].size_bytes for one, i in zip(shares, chosen, strict=True))
        <= budget_bytes
    ]
    if found.missing_bytes == 0:
        assert worst(shares, found.chosen) == max(worst(shares, chosen) for chosen in every)
    else:
        assert not every


def assert_is_allowed(shares: list[Share], found: Allocation, budget_bytes: int) -> None:
    sizes = [one.options[i].size_bytes for one, i in zip(shares, found.chosen, strict=True)]
    assert sum(sizes) == found.spent_bytes
    assert found.missing_bytes == max(0, found.spent_bytes - budget_bytes)
    for one, index in zip(shares, found.chosen, strict=True):
        assert index in allowed(one)


def test_on_concave_curves_filled_to_the_byte_nothing_is_lost() -> None:
    shares = [
        share((10, 40), (20, 60), (30, 70)),
        share((10, 50), (20, 56), (30, 58), weight=2),
        share((10, 30), (20, 80)),
    ]
    found = allocated(shares, 60, "all")
    assert (found.chosen, found.spent_bytes, found.gap) == ((1, 1, 1), 60, 0)


def test_what_is_left_is_spent_on_half_a_point_too() -> None:
    (index,) = allocated([share((10, 60), (15, 60.5), (20, 80))], 16, "all").chosen
    assert index == 1


def test_what_is_not_seen_is_not_paid_for() -> None:
    (index,) = allocated([share((10, 70), (20, 91), (30, 97))], 100, "all").chosen
    assert index == 1
    asked = share((10, 70), (20, 91), (30, 97), (40, 99), least_likeness=95)
    assert allocated([asked], 100, "all").chosen == (2,)
    modest = share((10, 70), (20, 81), (30, 97), enough=80)
    assert (
        allocated([modest], 100, "all").chosen == allocated([modest], 100, "worst").chosen == (1,)
    )


def test_a_budget_that_is_too_small_is_missed_by_what_is_needed() -> None:
    shares = [share((10, 40), (20, 75)), share((10, 50), (40, 75))]
    needed = [Share(options=one.options, least_likeness=75) for one in shares]
    found = allocated(needed, 50, "all")
    assert (found.chosen, found.spent_bytes, found.missing_bytes) == ((1, 1), 60, 10)
    assert reachable_worst(needed, 50) == 50
    assert reachable_worst(needed, 60) == 75


def test_a_photo_that_cannot_be_as_good_gets_its_best() -> None:
    shares = [share((10, 40), (20, 60), least_likeness=75), share((10, 80), (30, 85))]
    assert allocated(shares, 30, "worst").chosen == (1, 0)


@pytest.mark.parametrize("objective", ["all", "worst"])
def test_more_bytes_never_make_the_worst_or_the_sum_worse(objective: str) -> None:
    shares = [share((10, 20), (25, 50), (60, 75)), share((15, 30), (20, 70), (45, 88))]
    values = [
        total(shares, found.chosen) if objective == "all" else worst(shares, found.chosen)
        for budget in range(25, 120)
        for found in (allocated(shares, budget, "all" if objective == "all" else "worst"),)
    ]
    if objective == "worst":
        assert values == sorted(values)
    assert values[-1] == max(values)


@pytest.mark.parametrize(
    ("objective", "budget_bytes", "chosen"),
    [
        ("worst", 30, (0, 1)),  # the worst is 35, whatever the other one could have
        ("all", 30, (1, 0)),  # 120 in all, not 75
        ("worst", 40, (1, 1)),
        ("all", 40, (1, 1)),
    ],
)
def test_the_worst_photo_comes_first_or_all_count_alike(
    objective: Objective, budget_bytes: int, chosen: tuple[int, int]
) -> None:
    shares = [share((10, 40), (20, 90)), share((10, 30), (20, 35))]
    found = allocated(shares, budget_bytes, objective)
    assert found.chosen == chosen


def test_where_everything_can_be_had_nothing_more_could_be_gained() -> None:
    shares = [share((10, 40), (20, 80)), share((10, 30), (20, 35))]
    assert allocated(shares, 1_000, "all").gap == 0
