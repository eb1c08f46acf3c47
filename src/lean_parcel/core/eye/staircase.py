"""An up-down staircase: the likeness at which a person stops noticing.

Two right answers in a row make the next one harder, a wrong one makes it easier; such a series
comes to rest where 70.7 % are right (Levitt, 1971). Steps halve at every second turn.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

_TURNS = 11
#: The first turns only find the neighbourhood.
_LEFT_OUT = 5
_MOST_ANSWERS = 80
#: Right answers in a row that end the way down from good.
_SURE = 4
#: Half of an interval that holds nineteen of twenty, by standard errors that are themselves
#: uncertain (Student's t for five degrees of freedom).
_SPREAD = 2.57


@dataclass(frozen=True, slots=True, kw_only=True)
class Threshold:
    """A likeness and its uncertainty: nineteen of twenty such intervals hold the true one."""

    likeness: float
    uncertainty: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Staircase:
    """A series over `levels`, likenesses that rise: the level that comes next, the step, how many
    answers were right in a row, which way it last went, and the levels at which it turned. From
    good it first descends, until the person surely notices."""

    levels: tuple[float, ...]
    at: int
    step: int
    right_in_a_row: int = 0
    way: int = 0
    turns: tuple[int, ...] = field(default=())
    answers: int = 0
    is_descending: bool = False

    @property
    def is_done(self) -> bool:
        """Whether it has turned often enough, or gone on for too long."""
        return len(self.turns) >= _TURNS or self.answers >= _MOST_ANSWERS

    def answered(self, *, is_right: bool) -> "Staircase":
        """With the answer at the present level."""
        if self.is_descending:
            return self._descended(is_right=is_right)
        if is_right and self.right_in_a_row == 0:
            return replace(self, right_in_a_row=1, answers=self.answers + 1)
        way = 1 if is_right else -1
        has_turned = self.way not in (0, way)
        halves = has_turned and len(self.turns) % 2 == 1
        step = max(1, self.step // 2) if halves else self.step
        return replace(
            self,
            at=min(max(self.at + way * step, 0), len(self.levels) - 1),
            step=step,
            right_in_a_row=0,
            way=way,
            turns=(*self.turns, self.at) if has_turned else self.turns,
            answers=self.answers + 1,
        )

    def _descended(self, *, is_right: bool) -> "Staircase":
        """A step down whatever the answer, until the person surely notices."""
        in_a_row = self.right_in_a_row + 1 if is_right else 0
        is_over = in_a_row >= _SURE or self.at == 0
        return replace(
            self,
            at=self.at if is_over else max(self.at - max(1, self.step // 2), 0),
            right_in_a_row=0 if is_over else in_a_row,
            answers=self.answers + 1,
            is_descending=not is_over,
        )

    @property
    def threshold(self) -> Threshold | None:
        """Where it has come to rest; None while it has not turned often enough."""
        counted = [self.levels[turn] for turn in self.turns[_LEFT_OUT:]]
        if len(counted) < 2:
            return None
        # Neighbouring turns are the two ends of one run, so half of them are independent.
        error = float(np.std(counted, ddof=1) / np.sqrt(len(counted) / 2))
        grid = float(np.mean(np.abs(np.diff(self.levels)))) / 2
        return Threshold(
            likeness=float(np.mean(counted)), uncertainty=_SPREAD * float(np.hypot(error, grid))
        )


def staircase(levels: Sequence[float], *, from_ruin: bool) -> Staircase:
    """A series that begins at the worst level, or at the best; `levels` are likenesses in any
    order, at least two that differ."""
    rising = tuple(sorted(set(levels)))
    start = 0 if from_ruin else len(rising) - 1
    step = max(1, len(rising) // 4)
    return Staircase(levels=rising, at=start, step=step, is_descending=not from_ruin)
