"""Simulated observers of known threshold: what they can see is found, and no more."""

import math

import numpy as np
import pytest

from lean_parcel.core.eye.blind import ROUNDS, Blind, as_uneven, at_least, blind
from lean_parcel.core.eye.psychometric import SEEN_SHARE, Threshold, threshold_of
from lean_parcel.core.eye.staircase import staircase


@pytest.mark.parametrize(
    ("right", "rounds", "probability"),
    [(10, 10, 1 / 1024), (9, 10, 11 / 1024), (5, 10, 638 / 1024), (0, 10, 1.0), (0, 0, 1.0)],
)
def test_chance_is_binomial(right: int, rounds: int, probability: float) -> None:
    assert at_least(right, rounds) == pytest.approx(probability)


def test_uneven_either_way_is_twice_as_likely() -> None:
    assert as_uneven(10, 10) == as_uneven(0, 10) == pytest.approx(2 / 1024)
    assert as_uneven(5, 10) == 1.0


def by_an_observer(rounds: Blind, chance: np.random.Generator, tells: float) -> Blind:
    """Answers by somebody who tells the first in a share of rounds, and guesses in the others."""
    while not rounds.is_done:
        knows = chance.random() < tells
        side = "a" if rounds.is_first("a") else "b"
        guess = "a" if chance.integers(2) else "b"
        rounds = rounds.answered(side if knows else guess)  # type: ignore[arg-type]
    return rounds


def test_a_ruined_candidate_is_always_told_and_an_identical_one_by_chance() -> None:
    chance = np.random.default_rng(4)
    ruined = by_an_observer(blind(chance), chance, tells=1)
    assert (ruined.times_first, ruined.told_by_chance) == (ROUNDS, pytest.approx(1 / 1024))
    same = [by_an_observer(blind(chance), chance, tells=0) for _ in range(400)]
    assert np.mean([one.times_first for one in same]) == pytest.approx(ROUNDS / 2, abs=0.3)
    alarms = sum(one.told_by_chance < 0.05 for one in same) / len(same)
    assert alarms <= 0.05 + 0.02


def test_sides_are_tossed_anew_and_a_seed_repeats_them() -> None:
    sides = [blind(np.random.default_rng(seed)).is_first_a for seed in (1, 1, 2)]
    assert sides[0] == sides[1] != sides[2]
    tosses = blind(np.random.default_rng(9), 4_000).is_first_a
    assert 0.46 < np.mean(tosses) < 0.54


def test_a_preference_is_told_with_its_probability() -> None:
    chance = np.random.default_rng(5)
    clear = by_an_observer(blind(chance), chance, tells=1)
    assert clear.preferred_by_chance == pytest.approx(2 / 1024)


LEVELS = tuple(np.linspace(30, 98, 24))


def series(ends_at: float, slope: float, seed: int, *, from_ruin: bool) -> Threshold | None:
    """A series by an observer who still sees the difference in one round of four at `ends_at`, and
    presses a wrong key in one of a hundred."""
    chance = np.random.default_rng(seed)
    middle = ends_at - slope * math.log((1 - SEEN_SHARE) / SEEN_SHARE)
    stairs = staircase(LEVELS, from_ruin=from_ruin)
    while not stairs.is_done:
        likeness = stairs.levels[stairs.at]
        seen = 1 / (1 + math.exp((likeness - middle) / slope))
        stairs = stairs.answered(is_right=bool(chance.random() < 0.5 + 0.49 * seen))
    return stairs.threshold


@pytest.mark.parametrize("from_ruin", [True, False], ids=["from ruin", "from good"])
@pytest.mark.parametrize("slope", [1.5, 4.0, 10.0])
def test_where_noticing_ends_is_recovered_at_any_slope(slope: float, *, from_ruin: bool) -> None:
    true = [(55.0, 65.0, 75.0)[seed % 3] for seed in range(60)]
    found = [series(end, slope, seed, from_ruin=from_ruin) for seed, end in enumerate(true)]
    both = [(one, end) for one, end in zip(found, true, strict=True) if one]
    assert len(both) >= 56
    within = [abs(one.likeness - end) <= one.uncertainty for one, end in both]
    assert np.mean(within) >= 0.9
    assert abs(np.mean([one.likeness - end for one, end in both])) < 5
    assert np.mean([one.uncertainty for one, _ in both]) < 25


def test_more_answers_leave_less_uncertain() -> None:
    chance = np.random.default_rng(8)
    widths = []
    for rounds in (20, 100, 500):
        levels = chance.uniform(40, 95, rounds)
        seen = 1 / (1 + np.exp((levels - 65) / 4))
        rights = chance.random(rounds) < 0.5 + 0.5 * seen
        answers = [(float(x), bool(right)) for x, right in zip(levels, rights, strict=True)]
        found = threshold_of(answers, LEVELS)
        widths.append(found.uncertainty)
    assert widths == sorted(widths, reverse=True)
    assert abs(found.likeness - (65 + 4 * math.log(3))) <= found.uncertainty < 6


def test_a_series_that_never_turns_has_no_threshold() -> None:
    stairs = staircase(LEVELS, from_ruin=True)
    while not stairs.is_done:
        stairs = stairs.answered(is_right=True)
    assert stairs.threshold is None
    assert stairs.at == len(LEVELS) - 1
