"""The other aim: for a format and a likeness that it must have, the candidate of fewest bytes.

Sans I/O, like `fit`. In each mode and pixel count the search brackets the lowest step that reaches
the likeness, by the secant through what was measured (and by halves where that does not help):
the step taken was measured to reach it, and the one below was measured not to. Bounds prune: pixel
counts whose ceiling is too low are never encoded, and a mode is given up at the first step that is
no lighter than what was found and still does not reach.
"""

from collections.abc import Generator, Sequence

import numpy as np

from lean_parcel.core.encode import EncoderSettings, Format
from lean_parcel.core.fit import LOSSLESS_FLOOR
from lean_parcel.core.scales import EXACT, Scale, scales_of
from lean_parcel.core.steps import FormatSearch, Steps, each_once
from lean_parcel.core.trial import Candidate, Measured, Rung, Subject, trial_at

#: Measurements that the secant may place before the search halves its bracket instead.
_PATIENCE = 6
#: Likeness that a hundredth of a scale gains, where only one point is known.
_FIRST_SLOPE = 0.7
#: How far measurements may bend it.
_SLOPE_RANGE = (0.5, 4.0)
#: Where on a scale a likeness is to be expected at first: its share of the length.
_LIKENESSES, _SHARES = (0, 50, 70, 80, 90, 100), (0.05, 0.35, 0.6, 0.75, 0.92, 1.0)


def search_reaching(
    name: Format, subject: Subject, likeness: float, background: str
) -> FormatSearch:
    """The search in one format; returns the lightest that reaches the likeness, or where none does,
    the best there is, which is not `within_limit`. No trial is asked for twice."""
    scales = scales_of(
        name, background, is_transparent=subject.is_transparent, is_grey=subject.is_grey
    )
    return each_once(_search(scales, EXACT.get(name), subject, likeness))


def lightest_first(candidates: Sequence[Candidate], subject: Subject) -> list[Candidate]:
    """Candidates in the order in which to offer them: what reaches the likeness, then what keeps
    the transparency there is, then by bytes; what does not reach it, best first."""

    def order(candidate: Candidate) -> tuple[bool, bool, float]:
        loses_alpha = subject.is_transparent and candidate.trial.settings.format == "jpeg"
        measured = candidate.measured
        last = measured.size_bytes if candidate.within_limit else -measured.likeness
        return not candidate.within_limit, loses_alpha, last

    return sorted(candidates, key=order)


def _search(
    scales: list[Scale], exact: EncoderSettings | None, subject: Subject, likeness: float
) -> FormatSearch:
    best: Candidate | None = None
    full = subject.rungs[0]
    for rung in subject.rungs:
        if rung.ceiling < likeness and rung is not full:
            break
        winner: Scale | None = None
        for scale in scales:
            found = yield from _search_mode(scale, rung, likeness, best)
            if found:
                best, winner = found, scale
        if winner is None:
            break
        scales = [winner]
    if exact and (best is None or _may_be_lighter(subject, best)):
        trial = trial_at(exact, full)
        made = yield trial
        if best is None or made.size_bytes < best.measured.size_bytes:
            best = Candidate(trial=trial, measured=made, within_limit=made.likeness >= likeness)
    if best is None:
        trial = trial_at(scales[-1].settings(scales[-1].qualities[-1]), full)
        made = yield trial
        best = Candidate(trial=trial, measured=made, within_limit=made.likeness >= likeness)
    return best


def _may_be_lighter(subject: Subject, best: Candidate) -> bool:
    return LOSSLESS_FLOOR * subject.rungs[0].quick_png_size_bytes < best.measured.size_bytes


def _search_mode(
    scale: Scale, rung: Rung, likeness: float, to_beat: Candidate | None
) -> Steps[Candidate | None]:
    """The lowest step of a mode that reaches the likeness, if it is lighter than what was found."""
    steps = lowest_reaching(len(scale.qualities), likeness)
    measured: dict[int, Measured] = {}
    step = next(steps)
    while True:
        trial = trial_at(scale.settings(scale.qualities[step]), rung)
        made = yield trial
        measured[step] = made
        is_heavy = to_beat is not None and made.size_bytes >= to_beat.measured.size_bytes
        if is_heavy and made.likeness < likeness:
            return None
        try:
            step = steps.send(made.likeness)
        except StopIteration as end:
            if end.value is None:
                return None
            made = measured[end.value]
            if to_beat and made.size_bytes >= to_beat.measured.size_bytes:
                return None
            trial = trial_at(scale.settings(scale.qualities[end.value]), rung)
            return Candidate(trial=trial, measured=made, within_limit=True)


def lowest_reaching(length: int, likeness: float) -> Generator[int, float, int | None]:
    """Yields steps of a scale to measure, is sent their likeness, and returns the lowest step that
    reaches one, or None.

    The step returned was measured to reach it, and the one below was measured not to, or there is
    none; None means that the highest was measured not to. No step is asked for twice.
    """
    below, above = -1, length
    measured: dict[int, float] = {}
    while above - below > 1:
        if not measured:
            step = round(float(np.interp(likeness, _LIKENESSES, _SHARES)) * (length - 1))
        elif len(measured) < _PATIENCE:
            step = _expected(measured, below, above, length, likeness)
        else:
            step = (below + above) // 2
        measured[step] = yield step
        if measured[step] >= likeness:
            above = step
        else:
            below = step
    return above if above < length else None


def _expected(
    measured: dict[int, float], below: int, above: int, length: int, likeness: float
) -> int:
    """The step inside the bracket at which the likeness is expected, seen from the far side of the
    nearest measurement, so that the bracket closes from both: on the line through the two nearest,
    or with one only, along a slope that is usual."""
    near, *others = sorted(measured, key=lambda step: abs(measured[step] - likeness))
    usual = _FIRST_SLOPE * 100 / length
    slope = usual
    if others:
        slope = (measured[near] - measured[others[0]]) / (near - others[0])
    slope = min(max(slope, _SLOPE_RANGE[0] * usual), _SLOPE_RANGE[1] * usual)
    step = near + (likeness - measured[near]) / slope
    rounded = np.floor(step) if measured[near] >= likeness else np.ceil(step)
    return min(max(int(rounded), below + 1), above - 1)
