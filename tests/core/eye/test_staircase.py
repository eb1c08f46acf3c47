"""Where the staircase asks next, step by step."""

from itertools import pairwise

from lean_parcel.core.eye.staircase import staircase

LEVELS = range(16)


def test_it_goes_up_after_two_right_answers_and_down_after_one_wrong() -> None:
    series = staircase(LEVELS, from_ruin=True)
    asked = [series.at]
    for is_right in (True, True, True, True, False, True, False, True, True):
        series = series.answered(is_right=is_right)
        asked.append(series.at)
    # Up by four twice; a turn; down again after one right answer alone; up by half as much.
    assert asked == [0, 0, 4, 4, 8, 4, 4, 0, 0, 2]


def test_steps_halve_at_every_second_turn() -> None:
    series = staircase(LEVELS, from_ruin=True)
    steps = [series.step]
    for _ in range(4):
        series = series.answered(is_right=True).answered(is_right=True)
        steps.append(series.step)
        series = series.answered(is_right=False)
        steps.append(series.step)
    assert steps == [4, 4, 4, 2, 2, 1, 1, 1, 1]
    assert series.turns == 7


def test_from_good_it_descends_by_half_steps_until_noticing_is_sure() -> None:
    series = staircase(LEVELS, from_ruin=False)
    asked = [series.at]
    for is_right in (False, True, True, False, True, True, True):
        series = series.answered(is_right=is_right)
        asked.append(series.at)
        assert series.is_descending
    assert [before - after for before, after in pairwise(asked)] == [2, 2, 2, 2, 2, 2, 2]
    series = series.answered(is_right=True)  # the fourth in a row
    assert not series.is_descending
    assert (series.at, series.turns) == (1, 0)


def test_three_turns_tell_a_threshold_and_two_do_not() -> None:
    series = staircase(LEVELS, from_ruin=True).answered(is_right=True).answered(is_right=True)
    told = []
    for is_right in (False, True, True, False):
        series = series.answered(is_right=is_right)
        told.append((series.turns, series.threshold is not None))
    assert told == [(1, False), (1, False), (2, False), (3, True)]


def test_it_ends_after_fifteen_turns_or_eighty_answers() -> None:
    turning = staircase(LEVELS, from_ruin=True)
    while not turning.is_done:
        turning = turning.answered(is_right=True).answered(is_right=True).answered(is_right=False)
    assert turning.turns == 15
    noticing = staircase(LEVELS, from_ruin=True)
    for _ in range(79):
        noticing = noticing.answered(is_right=True)
    assert not noticing.is_done
    assert noticing.answered(is_right=True).is_done
