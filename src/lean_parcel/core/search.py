"""The search for the largest step of a scale whose measured size fits a limit.

Sans I/O: a search is a generator that asks for one measurement at a time, so the same code runs
against real encoders in worker processes and against fake ones in tests. Sizes come close to an
exponential of the step, so the model is a curve of log bytes, known beforehand for each format and
corrected by every measurement: shifted by the first, and scaled by the two that enclose the limit
(the secant method, in the curve's own measure). Only measurements decide; the model merely chooses
what to measure, and after PATIENCE of them plain bisection takes over.
"""

import math
from collections.abc import Generator, Mapping, Sequence
from types import MappingProxyType

from lean_parcel.core.errors import UsageError

#: Where no step is known.
NOTHING: Mapping[int, int] = MappingProxyType({})
#: Measurements that the model may place before the search halves its bracket instead.
PATIENCE = 6
#: How far two measurements may bend the slope of the known curve.
_SLOPE_RANGE = (0.4, 2.5)


def largest_fitting(
    log_sizes: Sequence[float], limit_bytes: int, known: Mapping[int, int] = NOTHING
) -> Generator[int, int, int | None]:
    """Yields steps to measure, is sent their size in bytes, and returns the best step, or None.

    `log_sizes` is the expected natural logarithm of the bytes at each step, rising; `known` has the
    bytes of steps that were measured before. The step returned was measured to fit, and the next
    one was measured not to, or there is none; None means that step 0 was measured not to fit. No
    step is asked for twice, nor one that is known.
    """
    if limit_bytes < 1:
        raise UsageError("A limit is at least one byte.", "invalid_size")
    below = max((step for step, size in known.items() if size <= limit_bytes), default=-1)
    above = min((step for step in known if step > below), default=len(log_sizes))
    measured = {step: math.log(max(size, 1)) for step, size in known.items()}
    while above - below > 1:
        if len(measured) < PATIENCE:
            step = _expected(log_sizes, measured, below, above, math.log(limit_bytes))
        else:
            step = (below + above) // 2
        size_bytes = yield step
        measured[step] = math.log(max(size_bytes, 1))
        if size_bytes <= limit_bytes:
            below = step
        else:
            above = step
    return below if below >= 0 else None


def _expected(
    log_sizes: Sequence[float],
    measured: dict[int, float],
    below: int,
    above: int,
    log_limit: float,
) -> int:
    """The largest step inside the bracket that the corrected curve expects to fit; without any
    measurement the step that it expects to be nearest to the limit, since one below and one above
    it then end the search most often."""
    if not measured:
        return min(range(len(log_sizes)), key=lambda step: abs(log_sizes[step] - log_limit))
    anchor = min(measured, key=lambda step: abs(measured[step] - log_limit))
    shift = measured[anchor] - log_sizes[anchor]
    slope = _slope(log_sizes, measured, anchor, below, above)
    room = log_limit - log_sizes[anchor] - shift
    step = below + 1
    for candidate in range(above - 1, below, -1):
        if slope * (log_sizes[candidate] - log_sizes[anchor]) <= room:
            step = candidate
            break
    return step


def _slope(
    log_sizes: Sequence[float], measured: dict[int, float], anchor: int, below: int, above: int
) -> float:
    """How much steeper than the known curve the sizes rise, from the anchor to the other end of
    the bracket, or to the measurement nearest to it."""
    others = [s for s in (below, above) if s in measured and s != anchor]
    others = others or [s for s in measured if s != anchor]
    if not others:
        return 1.0
    other = min(others, key=lambda step: abs(step - anchor))
    run = log_sizes[other] - log_sizes[anchor]
    if run == 0:
        return 1.0
    low, high = _SLOPE_RANGE
    return min(max((measured[other] - measured[anchor]) / run, low), high)
