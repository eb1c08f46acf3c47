"""Fitting: for a format and a byte limit, the candidate that looks best in its place.

A search (see `lockstep`) moves over modes (chroma) and pixel counts together. A `survey` with
drafts says where to look; there the largest step that fits is found with the real settings, each of
them measured: the step taken fits, and the next one was measured not to (see `search`). Should the
drafts have promised too much, the next best place of the survey is searched.
"""

import math
from collections.abc import Sequence

from lean_parcel.core.encode import EncoderSettings, Format
from lean_parcel.core.lockstep import FormatSearch, Lane, each_once, side_by_side
from lean_parcel.core.scales import EXACT, Scale, scales_of
from lean_parcel.core.search import largest_fitting
from lean_parcel.core.survey import Estimate, survey
from lean_parcel.core.trial import Candidate, Measured, Rung, Subject, Trial, trial_at

#: No lossless file is tried where even this fraction of a quickly deflated PNG exceeds the limit.
#: The lowest seen were 0.28 (WebP, tried hardest) and 0.30 (PNG), for a scanned drawing.
LOSSLESS_FLOOR = 0.2


def search_format(
    name: Format, subject: Subject, limit_bytes: int, background: str
) -> FormatSearch:
    """The search in one format; returns one candidate: the best that fits, or where nothing fits
    the smallest worth a look. No trial is asked for twice."""
    scales = scales_of(name, background, is_transparent=subject.is_transparent)
    return each_once(_search(scales, EXACT.get(name), subject, limit_bytes))


def best_first(candidates: Sequence[Candidate], subject: Subject) -> list[Candidate]:
    """Candidates in the order in which to offer them: what fits, then what keeps the transparency
    there is, then by likeness to two decimals, then by bytes; what does not fit, lightest first."""

    def order(candidate: Candidate) -> tuple[bool, bool, float, int]:
        loses_alpha = subject.is_transparent and candidate.trial.settings.format == "jpeg"
        likeness = round(candidate.measured.likeness, 2) if candidate.within_limit else 0.0
        return (
            not candidate.within_limit,
            loses_alpha,
            -likeness,
            candidate.measured.size_bytes,
        )

    return sorted(candidates, key=order)


def _search(
    scales: Sequence[Scale], exact: EncoderSettings | None, subject: Subject, limit_bytes: int
) -> FormatSearch:
    if exact and LOSSLESS_FLOOR * subject.quick_png_size_bytes <= limit_bytes:
        (made,) = yield (trial_at(exact, subject.rungs[0]),)
        if made.size_bytes <= limit_bytes:
            return (_judged(trial_at(exact, subject.rungs[0]), made, limit_bytes),)
    estimates = yield from survey(scales, subject, limit_bytes)
    for estimate in estimates:
        if estimate.likeness > -math.inf:
            (found,) = yield from side_by_side([_searched(estimate, limit_bytes)])
            if found:
                return (found,)
    return (yield from _last_resort(scales, subject.rungs[-1], limit_bytes))


def _searched(
    estimate: Estimate, limit_bytes: int, *, any_quality: bool = False
) -> Lane[Candidate | None]:
    """The best step of a mode that fits at one pixel count; from the lowest step worth a look, or
    from the lowest."""
    scale, rung = estimate.scale, estimate.rung
    lowest = 0 if any_quality else scale.lowest_worth_a_look
    steps = largest_fitting(estimate.log_sizes[lowest:], limit_bytes)
    measured: dict[int, Measured] = {}
    step = next(steps)
    while True:
        trial = trial_at(scale.settings(scale.qualities[lowest + step]), rung)
        measured[step] = yield trial
        try:
            step = steps.send(measured[step].size_bytes)
        except StopIteration as end:
            if end.value is None:
                return None
            trial = trial_at(scale.settings(scale.qualities[lowest + end.value]), rung)
            return _judged(trial, measured[end.value], limit_bytes)


def _last_resort(scales: Sequence[Scale], rung: Rung, limit_bytes: int) -> FormatSearch:
    """Where nothing that was surveyed fits: the best of the fewest pixels that is worth a look, or
    at any quality, or else the smallest worth a look, which does not fit."""
    for any_quality in (False, True):
        lanes = [
            _searched(_unsurveyed(scale, rung), limit_bytes, any_quality=any_quality)
            for scale in scales
        ]
        fitting = [found for found in (yield from side_by_side(lanes)) if found]
        if fitting:
            return (max(fitting, key=lambda found: found.measured.likeness),)
    scale = scales[0]
    trial = trial_at(scale.settings(scale.qualities[scale.lowest_worth_a_look]), rung)
    (made,) = yield (trial,)
    return (_judged(trial, made, limit_bytes),)


def _unsurveyed(scale: Scale, rung: Rung) -> Estimate:
    log_sizes = scale.log_sizes(rung.probe_size_bytes)
    return Estimate(scale=scale, rung=rung, likeness=-math.inf, log_sizes=log_sizes)


def _judged(trial: Trial, measured: Measured, limit_bytes: int) -> Candidate:
    return Candidate(
        trial=trial, measured=measured, within_limit=measured.size_bytes <= limit_bytes
    )
