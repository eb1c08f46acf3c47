"""Blind rounds: two pictures without names, A and B, anew in each round.

In a *check* one of them is the original, and is to be told from a candidate. In a *choice* both are
candidates, and the one nearer to the original is to be chosen.
"""

from dataclasses import dataclass, replace
from math import comb
from typing import Literal, get_args

import numpy as np

ROUNDS = 10
Side = Literal["a", "b"]
SIDES: tuple[Side, ...] = get_args(Side)


@dataclass(frozen=True, slots=True, kw_only=True)
class Blind:
    """Rounds between a first and a second picture: whether the first is A in each, and whether it
    was chosen in those that were answered."""

    is_first_a: tuple[bool, ...]
    chose_first: tuple[bool, ...] = ()

    @property
    def round(self) -> int:
        """The number of the round to answer, from 0."""
        return len(self.chose_first)

    @property
    def is_done(self) -> bool:
        """Whether every round was answered."""
        return self.round == len(self.is_first_a)

    @property
    def times_first(self) -> int:
        """In how many rounds the first was chosen."""
        return sum(self.chose_first)

    @property
    def told_by_chance(self) -> float:
        """How likely a guess tells the first as often, 0 to 1."""
        return at_least(self.times_first, self.round)

    @property
    def preferred_by_chance(self) -> float:
        """How likely guesses prefer either of them as clearly, 0 to 1."""
        return as_uneven(self.times_first, self.round)

    def is_first(self, side: Side) -> bool:
        """Whether a side shows the first picture in the present round."""
        return self.is_first_a[self.round] == (side == "a")

    def answered(self, side: Side) -> "Blind":
        """With the choice of the present round."""
        return replace(self, chose_first=(*self.chose_first, self.is_first(side)))


def blind(chance: np.random.Generator, rounds: int = ROUNDS) -> Blind:
    """Rounds in which each side is as likely to be the first picture."""
    return Blind(is_first_a=tuple(bool(toss) for toss in chance.integers(0, 2, rounds)))


def at_least(right: int, rounds: int) -> float:
    """The probability that a guess is right in at least so many rounds, 0 to 1: the upper tail of a
    binomial distribution.

    >>> at_least(0, 10), at_least(9, 10)
    (1.0, 0.0107421875)
    """
    return float(sum(comb(rounds, k) for k in range(right, rounds + 1)) / 2**rounds)


def as_uneven(first: int, rounds: int) -> float:
    """The probability that guesses are spread at least as unevenly over two sides, 0 to 1."""
    most = max(first, rounds - first)
    return min(1.0, 2 * at_least(most, rounds))
