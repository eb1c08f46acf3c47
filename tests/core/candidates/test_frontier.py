import math

from hypothesis import given
from hypothesis import strategies as st

from lean_parcel.core.candidates.frontier import frontier, knee
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
