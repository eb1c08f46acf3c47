import pytest

from lean_parcel.core.candidates.enough import next_level, rescue
from lean_parcel.core.candidates.trial import Measured


def points(*pairs: tuple[int, float]) -> list[Measured]:
    return [Measured(size_bytes=size, likeness=likeness) for size, likeness in pairs]


def test_what_would_be_enough_was_measured_or_is_an_estimate() -> None:
    line = points((10_000, 40), (20_000, 60), (40_000, 75))
    between = next_level(line, line[1])
    assert between is not None
    assert between.is_estimate
    assert 27_000 < between.limit_bytes < 35_000
    close = [*line, *points((37_000, 69))]
    measured = next_level(close, line[1])
    assert measured is not None
    assert (measured.words, measured.limit_bytes, measured.is_estimate) == (
        "visible if you look",
        40_000,
        False,
    )
    estimate = next_level(line, line[2])
    assert estimate is not None
    assert estimate.is_estimate
    # Damage falls from 40 to 25 as bytes double, by a power of 0.68, and has to fall to 20.
    assert estimate.limit_bytes == pytest.approx(40_000 * (25 / 20) ** (1 / 0.678), abs=150)


def test_there_is_nothing_above_the_highest_level_and_no_wild_guess() -> None:
    top = Measured(size_bytes=10, likeness=95)
    assert next_level([top], top) is None
    far = points((10_000, -300), (90_000, -200))
    assert next_level(far, far[1]) is None
    assert next_level(far[:1], far[0]) is None


def test_a_limit_that_ruins_a_picture_is_told_with_one_that_would_do() -> None:
    ruined = points((9_000, -10), (20_000, 5), (58_000, 41))
    enough = rescue(ruined, 60_000)
    assert enough is not None
    assert (enough.words, enough.is_estimate) == ("visible if you look", True)
    assert 110_000 < enough.limit_bytes < 400_000
    known = rescue([*ruined, *points((150_000, 72))], 60_000)
    assert known is not None
    assert 130_000 < known.limit_bytes < 150_000


def test_a_limit_that_does_is_not_spoken_of() -> None:
    assert rescue(points((9_000, 30), (40_000, 71)), 60_000) is None
    assert rescue([], 60_000) is None
    assert rescue(points((90_000, 20)), 60_000) is None


def test_what_has_no_damage_at_all_counts_as_half_a_point_of_it() -> None:
    """Nothing could be estimated from a damage of zero."""

    def enough(best: float) -> int:
        line = points((10_000, 60), (80_000, best))
        between = next_level(line, line[0])
        assert between is not None
        assert between.is_estimate
        return between.limit_bytes

    assert enough(100.0) == enough(99.8) == enough(99.5)
    assert enough(99.5) < enough(99.0)
