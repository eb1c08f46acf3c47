"""Blind rounds: two pictures without names, A and B, anew in each round.

In a *check* one of them is the original, and is to be told from a candidate. In a *choice* both are
candidates, and the one nearer to the original is to be chosen.
"""

from dataclasses import dataclass, replace
from typing import Literal, get_args

import numpy as np

from lean_parcel.core.eye.chance import as_uneven, at_least

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
