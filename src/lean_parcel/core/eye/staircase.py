"""An up-down staircase: it asks at the likenesses around which a person stops noticing.

Two right answers in a row make the next one harder, a wrong one makes it easier; such a series
stays about where 70.7 % are right (Levitt, 1971). Steps halve at every second turn. Where noticing
ends is told by all answers; see `psychometric`.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from lean_parcel.core.eye.psychometric import Threshold, threshold_of

_TURNS = 15
#: With fewer turns than these a person noticed everywhere, or nowhere.
_LEAST_TURNS = 3
_MOST_ANSWERS = 80
#: Right answers in a row that end the way down from good.
_SURE = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Staircase:
    """A series over `levels`, likenesses that rise: the level that comes next, the step, how many
    answers were right in a row, which way it last went, how often it turned, and all answers, each
    with its likeness and whether it was right. From good it first descends, until the person surely
    notices."""

    levels: tuple[float, ...]
    at: int
    step: int
    right_in_a_row: int = 0
    way: int = 0
    turns: int = 0
    given: tuple[tuple[float, bool], ...] = field(default=())
    is_descending: bool = False

    @property
    def is_done(self) -> bool:
        """Whether it has turned often enough, or gone on for too long."""
        return self.turns >= _TURNS or self.answers >= _MOST_ANSWERS

    @property
    def answers(self) -> int:
        """How many answers were given."""
        return len(self.given)

    def answered(self, *, is_right: bool) -> "Staircase":
        """With the answer at the present level."""
        taken = replace(self, given=(*self.given, (self.levels[self.at], is_right)))
        return taken._moved(is_right=is_right)

    def _moved(self, *, is_right: bool) -> "Staircase":
        if self.is_descending:
            return self._descended(is_right=is_right)
        if is_right and self.right_in_a_row == 0:
            return replace(self, right_in_a_row=1)
        way = 1 if is_right else -1
        has_turned = self.way not in (0, way)
        halves = has_turned and self.turns % 2 == 1
        step = max(1, self.step // 2) if halves else self.step
        return replace(
            self,
            at=min(max(self.at + way * step, 0), len(self.levels) - 1),
            step=step,
            right_in_a_row=0,
            way=way,
            turns=self.turns + has_turned,
        )

    def _descended(self, *, is_right: bool) -> "Staircase":
        """A step down whatever the answer, until the person surely notices."""
        in_a_row = self.right_in_a_row + 1 if is_right else 0
        is_over = in_a_row >= _SURE or self.at == 0
        return replace(
            self,
            at=self.at if is_over else max(self.at - max(1, self.step // 2), 0),
            right_in_a_row=0 if is_over else in_a_row,
            is_descending=not is_over,
        )

    @property
    def threshold(self) -> Threshold | None:
        """Where noticing ends; None while it has not turned often enough."""
        if self.turns < _LEAST_TURNS:
            return None
        return threshold_of(self.given, self.levels)


def staircase(levels: Sequence[float], *, from_ruin: bool) -> Staircase:
    """A series that begins at the worst level, or at the best; `levels` are likenesses in any
    order, at least two that differ."""
    rising = tuple(sorted(set(levels)))
    start = 0 if from_ruin else len(rising) - 1
    step = max(1, len(rising) // 4)
    return Staircase(levels=rising, at=start, step=step, is_descending=not from_ruin)
