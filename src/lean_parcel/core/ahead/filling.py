"""Filling the curve of a format from ruin to no visible change, with drafts, so that the chart
shows what other limits would come to."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace
from itertools import pairwise

from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.encoding.qualities import QUALITIES, at_quality, quality_of
from lean_parcel.core.encoding.settings import PassThrough, draft_settings
from lean_parcel.core.likeness.levels import LEVELS, NO_CHANGE
from lean_parcel.core.search.ladder import SearchInput
from lean_parcel.core.search.modes import may_draft
from lean_parcel.core.search.protocol import TrialSearch

#: A curve goes from about the best level of likeness to below the last.
_BEST, _RUIN = NO_CHANGE - 2, LEVELS[-1].least
#: A step up that gains less has come to what the pixels allow.
_LEAST_GAIN = 1.5
#: Neighbours are no further apart than by this factor of bytes, as its logarithm.
_APART = math.log(1.6)


def filled(
    on_curve: Trial, search_input: SearchInput, known: Mapping[Trial, Measured], most_bytes: float
) -> TrialSearch[None]:
    """Fills the curve that a trial lies on, at its pixel count, given what was measured; up to the
    first point of so many bytes."""
    settings = on_curve.settings
    if isinstance(settings, PassThrough) or quality_of(settings) is None:
        return
    if may_draft(settings.format, search_input):
        settings = draft_settings(settings)
    steps = QUALITIES[settings.format]
    points = {
        steps.index(quality): measured
        for trial, measured in known.items()
        if (quality := _quality_on(trial, on_curve)) in steps
    }
    step: int | None = min(points, default=len(steps) // 2)
    while step is not None:
        if step not in points:
            drafted = replace(on_curve, settings=at_quality(settings, steps[step]))
            points[step] = yield drafted
        step = _next_step(points, len(steps) - 1, most_bytes)


def _quality_on(trial: Trial, on_curve: Trial) -> int | None:
    """The quality of a trial that lies on the same curve, a draft or not; None of any other."""
    settings, own = trial.settings, on_curve.settings
    quality = quality_of(settings)
    if isinstance(settings, PassThrough) or isinstance(own, PassThrough) or quality is None:
        return None
    if settings.format != own.format or trial.width_px != on_curve.width_px:
        return None
    alike = at_quality(own, quality)
    return quality if settings in (alike, draft_settings(alike)) else None


def _next_step(points: Mapping[int, Measured], last: int, most_bytes: float) -> int | None:
    """The step to measure next: beyond an end of the curve, else in its widest gap; None where it
    is full."""
    steps = sorted(points)
    top, bottom = steps[-1], steps[0]
    may_gain = len(steps) < 2 or points[top].likeness - points[steps[-2]].likeness > _LEAST_GAIN
    is_short = points[top].likeness < _BEST and points[top].size_bytes < most_bytes
    if is_short and may_gain and top < last:
        return (top + last + 1) // 2
    if points[bottom].likeness > _RUIN and bottom > 0:
        return bottom // 2
    return _in_widest_gap(points, steps)


def _in_widest_gap(points: Mapping[int, Measured], steps: Sequence[int]) -> int | None:
    gaps = [
        (math.log(points[after].size_bytes / points[before].size_bytes), before, after)
        for before, after in pairwise(steps)
        if after - before > 1
    ]
    if not gaps or max(gaps)[0] < _APART:
        return None
    _, before, after = max(gaps)
    return (before + after) // 2
