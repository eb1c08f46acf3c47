"""Brackets around the step of a scale where a measured value crosses a target: the largest step
that fits a limit, and the lowest that reaches a likeness.

A bracket says which step to measure next, is given what was measured, and ends when two neighbours
enclose the target. A model only chooses what to measure; after PATIENCE measurements bisection
takes over, so the result never depends on the model. No step is asked for twice.
"""

import math
from collections.abc import Mapping, Sequence
from types import MappingProxyType

import numpy as np

from lean_parcel.core.errors import UsageError

#: Where no step was measured before.
NOTHING: Mapping[int, int] = MappingProxyType({})
#: Measurements that a model may choose before bisection takes over.
PATIENCE = 6
#: How much flatter or steeper than the known curve two measurements may say that bytes rise.
_SIZE_SLOPES = (0.4, 2.5)
#: Likeness gained by a hundredth of a scale, where only one point is known, and how much flatter or
#: steeper than that measurements may say that it rises.
_LIKENESS_SLOPE = 0.7
_LIKENESS_SLOPES = (0.5, 4.0)
#: Where on a scale a likeness is expected before anything is measured, as a share of its length.
_LIKENESSES, _SHARES = (0, 50, 70, 80, 90, 100), (0.05, 0.35, 0.6, 0.75, 0.92, 1.0)


class SizeBracket:
    """The largest step whose size fits a limit.

    `log_sizes` is the expected natural logarithm of the bytes of each step, rising; `known` has the
    bytes of steps that were measured before; steps below `lowest` are never taken. Where one that
    fits is worth more than the largest, steps are chosen with `caution`, as the logarithm of the
    factor by which the first may turn out heavier; the others by half as much. Sizes are close
    to an exponential of the step, so the model is that curve, corrected by what is measured:
    shifted by the measurement nearest to the limit, and scaled by the slope to the other end of the
    bracket (the secant method, in the curve's own measure).
    """

    def __init__(
        self,
        log_sizes: Sequence[float],
        limit_bytes: int,
        known: Mapping[int, int] = NOTHING,
        lowest: int = 0,
        caution: float = 0.0,
    ) -> None:
        if limit_bytes < 1:
            raise UsageError("A limit is at least one byte.", "invalid_size")
        self._log_sizes = log_sizes
        self._limit_bytes = limit_bytes
        self._lowest = lowest
        self._caution = caution
        self._below, self._above = lowest - 1, len(log_sizes)
        #: The natural logarithm of the bytes of each step that was measured.
        self._measured: dict[int, float] = {}
        for step, size_bytes in known.items():
            self.add(step, size_bytes)

    def add(self, step: int, size_bytes: int) -> None:
        """Takes in the size of a step. Where sizes do not rise, the largest step that fits counts,
        and the lowest above it that does not."""
        self._measured[step] = math.log(max(size_bytes, 1))
        log_limit = math.log(self._limit_bytes)
        fitting = (step for step, log_size in self._measured.items() if log_size <= log_limit)
        self._below = max(self._below, *fitting, self._lowest - 1)
        above = (step for step in self._measured if step > self._below)
        self._above = min(above, default=len(self._log_sizes))

    def next_step(self) -> int | None:
        """The step to measure next; None at the end."""
        if self._above - self._below <= 1:
            return None
        if len(self._measured) < PATIENCE:
            return self._expected_step()
        return (self._below + self._above) // 2

    @property
    def best(self) -> int | None:
        """The largest step that was measured to fit, at the end; the next was measured not to, or
        there is none. None where the lowest does not fit."""
        return self._below if self._below >= self._lowest else None

    def expected_bytes(self, step: int) -> float:
        """The bytes of a step, as measured or as the corrected curve expects."""
        return math.exp(self._measured.get(step, self._corrected()[step]))

    def first_above(self) -> int | None:
        """The lowest step that does not fit, as measured or as the corrected curve expects; None
        where all are expected to fit."""
        steps = range(self._below + 1, len(self._log_sizes))
        return next((s for s in steps if self.expected_bytes(s) > self._limit_bytes), None)

    def _expected_step(self) -> int:
        """The largest step inside the bracket that the corrected curve expects to fit; without any
        measurement the step that is expected nearest to the limit, since one measurement below and
        one above it then end the search most often."""
        log_sizes, log_limit = self._corrected(), math.log(self._limit_bytes)
        if not self._measured:
            steps, log_aim = range(self._lowest, len(log_sizes)), log_limit - self._caution
            return min(steps, key=lambda step: abs(log_sizes[step] - log_aim))
        inside, log_aim = range(self._above - 1, self._below, -1), log_limit - self._caution / 2
        return next((s for s in inside if log_sizes[s] <= log_aim), self._below + 1)

    def _corrected(self) -> Sequence[float]:
        """The known curve through the measurement nearest to the limit."""
        if not self._measured:
            return self._log_sizes
        log_limit = math.log(self._limit_bytes)
        anchor = min(self._measured, key=lambda step: abs(self._measured[step] - log_limit))
        slope, at_anchor = self._slope(anchor), self._measured[anchor]
        return [at_anchor + slope * (each - self._log_sizes[anchor]) for each in self._log_sizes]

    def _slope(self, anchor: int) -> float:
        """How much steeper than the known curve the sizes rise, from the anchor to the other end of
        the bracket, or to the measurement nearest to it."""
        measured, log_sizes = self._measured, self._log_sizes
        others = [s for s in (self._below, self._above) if s in measured and s != anchor]
        others = others or [step for step in measured if step != anchor]
        if not others:
            return 1.0
        other = min(others, key=lambda step: abs(step - anchor))
        run = log_sizes[other] - log_sizes[anchor]
        if run == 0:
            return 1.0
        low, high = _SIZE_SLOPES
        return min(max((measured[other] - measured[anchor]) / run, low), high)


class LikenessBracket:
    """The lowest step of a scale, `length` steps long, whose likeness reaches a target; it may be
    `expected` at a step."""

    def __init__(self, length: int, likeness: float, expected: int | None = None) -> None:
        self._length = length
        self._expected = expected
        self._likeness = likeness
        self._below, self._above = -1, length
        self._measured: dict[int, float] = {}

    def add(self, step: int, likeness: float) -> None:
        """Takes in the likeness of the step that was asked for."""
        self._measured[step] = likeness
        if likeness >= self._likeness:
            self._above = step
        else:
            self._below = step

    def next_step(self) -> int | None:
        """The step to measure next; None at the end."""
        if self._above - self._below <= 1:
            return None
        if not self._measured and self._expected is not None:
            return self._expected
        if not self._measured:
            share = float(np.interp(self._likeness, _LIKENESSES, _SHARES))
            return round(share * (self._length - 1))
        if len(self._measured) < PATIENCE:
            return self._expected_step()
        return (self._below + self._above) // 2

    @property
    def best(self) -> int | None:
        """The lowest step that was measured to reach the target, at the end; the one below was
        measured not to, or there is none. None where the highest does not reach it."""
        return self._above if self._above < self._length else None

    def _expected_step(self) -> int:
        """The step inside the bracket at which the likeness is expected, rounded away from the
        nearest measurement so that the bracket closes from both sides: on the line through the two
        nearest, or with one only, along the usual slope."""
        measured = self._measured
        near, *others = sorted(measured, key=lambda step: abs(measured[step] - self._likeness))
        slope = usual = _LIKENESS_SLOPE * 100 / self._length
        if others:
            slope = (measured[near] - measured[others[0]]) / (near - others[0])
        low, high = (factor * usual for factor in _LIKENESS_SLOPES)
        slope = min(max(slope, low), high)
        step = near + (self._likeness - measured[near]) / slope
        rounded = np.floor(step) if measured[near] >= self._likeness else np.ceil(step)
        return min(max(int(rounded), self._below + 1), self._above - 1)
