import math
from collections.abc import Sequence

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from lean_parcel.core.candidates.frontier import LinePoint, envelope, frontier, knee
from lean_parcel.core.candidates.trial import Measured

POINTS = st.lists(
    st.builds(
        Measured, size_bytes=st.integers(1, 10**6), likeness=st.floats(-50, 100, allow_nan=False)
    ),
    max_size=30,
)


@given(POINTS)
def test_no_point_beats_one_of_the_frontier_and_all_others_are_beaten(
    points: list[Measured],
) -> None:
    best = set(frontier(points))
    for index, point in enumerate(points):
        beaten = any(
            other.size_bytes <= point.size_bytes
            and other.likeness >= point.likeness
            and (other.size_bytes, other.likeness) != (point.size_bytes, point.likeness)
            for other in points
        )
        twin = any(points[i] == point for i in best)
        assert (index in best or twin) != beaten


@given(POINTS)
def test_a_knee_lies_on_the_frontier_before_its_end(points: list[Measured]) -> None:
    found = knee(points)
    if found:
        best = frontier(points)
        assert found.index in best[1:-1]
        assert found.gain_per_doubling > 0


def test_the_knee_is_where_a_bent_curve_bends() -> None:
    steep = [Measured(size_bytes=2**i, likeness=20.0 * i) for i in range(1, 5)]
    flat = [Measured(size_bytes=2**i, likeness=80 + 1.5 * (i - 4)) for i in range(5, 12)]
    found = knee([*flat, *steep])
    assert found is not None
    assert ([*flat, *steep])[found.index] == steep[-1]
    assert math.isclose(found.gain_per_doubling, 1.5)


def test_a_bend_after_which_bytes_still_gain_a_lot_is_no_knee() -> None:
    steep = [Measured(size_bytes=2**i, likeness=30.0 * i - 60) for i in range(1, 5)]
    less = [Measured(size_bytes=2**i, likeness=60 + 11.0 * (i - 4)) for i in range(5, 8)]
    assert knee([*steep, *less]) is None


def test_a_straight_line_has_no_knee() -> None:
    assert knee([Measured(size_bytes=2**i, likeness=float(i)) for i in range(8)]) is None
    assert knee([]) is None


CURVES = st.lists(POINTS, max_size=4).map(
    lambda all_points: [[points[i] for i in frontier(points)] for points in all_points]
)


def value(line: Sequence[Measured | LinePoint], size_bytes: float) -> float:
    """Of a line at so many bytes, the highest where it goes straight up."""
    exact = [p.likeness for p in line if math.isclose(p.size_bytes, size_bytes, rel_tol=1e-9)]
    if exact:
        return max(exact)
    logs = [math.log(point.size_bytes) for point in line]
    return float(np.interp(math.log(size_bytes), logs, [point.likeness for point in line]))


@given(CURVES)
def test_a_line_over_curves_is_nowhere_below_one_and_everywhere_on_one(
    curves: list[list[Measured]],
) -> None:
    line = envelope(curves)
    sizes = [point.size_bytes for point in line]
    assert sizes == sorted(sizes)
    there = [curve for curve in curves if curve]
    for curve in there:
        for point in curve:
            assert value(line, point.size_bytes) >= point.likeness - 1e-6
    for point in line:
        begun = [curve for curve in there if curve[0].size_bytes <= point.size_bytes * (1 + 1e-9)]
        highest = max(value(curve, point.size_bytes) for curve in begun)
        assert point.likeness <= highest + 1e-6


def test_a_line_follows_the_better_curve_between_its_points() -> None:
    steady = [Measured(size_bytes=100, likeness=50), Measured(size_bytes=10_000, likeness=90)]
    late = [Measured(size_bytes=1_000, likeness=40), Measured(size_bytes=4_000, likeness=95)]
    line = envelope([steady, late])
    assert math.isclose(value(line, 100), 50)
    assert math.isclose(value(line, 1_000), 70)
    assert math.isclose(value(line, 4_000), 95)
    (crossing,) = [p for p in line if 1_001 < p.size_bytes < 3_999]
    assert math.isclose(value(steady, crossing.size_bytes), crossing.likeness)
    assert math.isclose(value(late, crossing.size_bytes), crossing.likeness)


def test_four_points_are_enough_for_a_bend_and_three_are_not() -> None:
    likenesses = (20.0, 70.0, 72.0, 73.0)
    points = [Measured(size_bytes=2**i, likeness=each) for i, each in enumerate(likenesses)]
    found = knee(points)
    assert found is not None
    assert found.index == 1
    assert knee(points[:3]) is None
