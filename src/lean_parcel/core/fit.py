"""Fitting: for a format and a byte limit, the candidate that looks best in its place.

A search (see `steps`) moves over modes (chroma) and pixel counts together. A `survey` with
drafts says where to look; there the largest step that fits is found with the real settings, each of
them measured: the step taken fits, and the next one was measured not to (see `search`). A second
place that comes close in drafts is searched too, until what is measured there promises no more; and
so is the next best where the drafts have promised too much.
"""

import math
from collections.abc import Iterable, Sequence

from lean_parcel.core.encode import EncoderSettings, Format
from lean_parcel.core.outcome import HARD_TO_SPOT
from lean_parcel.core.scales import EXACT, Scale, scales_of
from lean_parcel.core.search import largest_fitting
from lean_parcel.core.steps import FormatSearch, Steps, each_once
from lean_parcel.core.survey import Estimate, at_bytes, survey
from lean_parcel.core.trial import Candidate, Measured, Rung, Subject, Trial, trial_at

#: No lossless file is tried where even this fraction of a quickly deflated PNG exceeds the limit.
#: The lowest seen were 0.28 (WebP, tried hardest) and 0.30 (PNG), for a scanned drawing.
LOSSLESS_FLOOR = 0.2
#: By which share of the first's damage the second place of a survey may be behind it, and be
#: searched nevertheless: drafts tell them apart no better, modes rather than pixel counts.
_CLOSE_MODES, _CLOSE_PIXELS = 0.02, 0.05


def search_format(
    name: Format, subject: Subject, limit_bytes: int, background: str
) -> FormatSearch:
    """The search in one format; returns the best that fits, or where nothing fits the smallest
    worth a look. No trial is asked for twice."""
    scales = scales_of(
        name, background, is_transparent=subject.is_transparent, is_grey=subject.is_grey
    )
    search = _search(scales, EXACT.get(name), subject, limit_bytes)
    return each_once(_or_whatever_fits(search, limit_bytes))


def _or_whatever_fits(search: FormatSearch, limit_bytes: int) -> FormatSearch:
    """A search that, where it found nothing that fits, offers the best that it happened to have
    made: a draft of a few pixels can be lighter than what it stands for."""
    made: dict[Trial, Measured] = {}
    trial = next(search)
    while True:
        made[trial] = yield trial
        try:
            trial = search.send(made[trial])
        except StopIteration as end:
            found: Candidate = end.value
            judged = [_judged(trial, each, limit_bytes) for trial, each in made.items()]
            fitting = [candidate for candidate in judged if candidate.within_limit]
            if found.within_limit or not fitting:
                return found
            return max(fitting, key=lambda candidate: candidate.measured.likeness)


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
    if exact and LOSSLESS_FLOOR * subject.rungs[0].quick_png_size_bytes <= limit_bytes:
        made = yield trial_at(exact, subject.rungs[0])
        if made.size_bytes <= limit_bytes:
            return _judged(trial_at(exact, subject.rungs[0]), made, limit_bytes)
    rungs = subject.rungs
    while rungs:
        estimates = yield from survey(scales, rungs, limit_bytes)
        for index, estimate in enumerate(estimates):
            if estimate.likeness > -math.inf:
                found = yield from _searched(estimate, limit_bytes)
                if found:
                    return (yield from _challenged(found, estimates[index:], limit_bytes))
        rungs = rungs[1 + max(rungs.index(estimate.rung) for estimate in estimates) :]
    return (yield from _last_resort(scales, subject.rungs[-1], limit_bytes))


def _challenged(best: Candidate, estimates: Sequence[Estimate], limit_bytes: int) -> FormatSearch:
    """What was found at the first estimate, or something better at the second if that is close;
    where damage is hard to spot, what the second might win is not seen."""
    leader, *others = estimates
    if not others or best.measured.likeness >= HARD_TO_SPOT:
        return best
    second = others[0]
    close = _CLOSE_MODES if second.rung == leader.rung else _CLOSE_PIXELS
    if 100 - second.likeness > (1 + close) * (100 - leader.likeness):
        return best
    found = yield from _searched(second, limit_bytes, to_beat=best.measured)
    return found or best


def _searched(
    estimate: Estimate,
    limit_bytes: int,
    *,
    to_beat: Measured | None = None,
    any_quality: bool = False,
) -> Steps[Candidate | None]:
    """The best step of a mode that fits at one pixel count, if it looks better than what it has
    `to_beat`; from the lowest step worth a look, or from the lowest. Given up as soon as what was
    measured promises no more likeness at as many bytes."""
    scale, rung = estimate.scale, estimate.rung
    lowest = 0 if any_quality else scale.lowest_worth_a_look
    measured = {step - lowest: made for step, made in estimate.known.items() if step >= lowest}
    sizes = {step: made.size_bytes for step, made in measured.items()}
    steps = largest_fitting(estimate.log_sizes[lowest:], limit_bytes, sizes)
    try:
        step = next(steps)
        while True:
            trial = trial_at(scale.settings(scale.qualities[lowest + step]), rung)
            measured[step] = yield trial
            if to_beat and _promised(estimate, measured.values(), to_beat) <= to_beat.likeness:
                return None
            step = steps.send(measured[step].size_bytes)
    except StopIteration as end:
        found: int | None = end.value
    if found is None or (to_beat and measured[found].likeness <= to_beat.likeness):
        return None
    trial = trial_at(scale.settings(scale.qualities[lowest + found]), rung)
    return _judged(trial, measured[found], limit_bytes)


def _promised(place: Estimate, measured: Iterable[Measured], to_beat: Measured) -> float:
    """The likeness to expect of a place at as many bytes as what it has to beat."""
    log_size = math.log(to_beat.size_bytes)
    nearest = sorted(measured, key=lambda made: abs(math.log(made.size_bytes) - log_size))
    return at_bytes(nearest, log_size, place.scale, place.rung)


def _last_resort(scales: Sequence[Scale], rung: Rung, limit_bytes: int) -> FormatSearch:
    """Where nothing that was surveyed fits: the best of the fewest pixels that is worth a look, or
    at any quality, or else the smallest worth a look, which does not fit."""
    for any_quality in (False, True):
        fitting: list[Candidate] = []
        for scale in scales:
            place = _unsurveyed(scale, rung)
            found = yield from _searched(place, limit_bytes, any_quality=any_quality)
            fitting += [found] if found else []
        if fitting:
            return max(fitting, key=lambda found: found.measured.likeness)
    scale = scales[0]
    trial = trial_at(scale.settings(scale.qualities[scale.lowest_worth_a_look]), rung)
    made = yield trial
    return _judged(trial, made, limit_bytes)


def _unsurveyed(scale: Scale, rung: Rung) -> Estimate:
    return Estimate(scale=scale, rung=rung, log_sizes=scale.log_sizes(rung))


def _judged(trial: Trial, measured: Measured, limit_bytes: int) -> Candidate:
    return Candidate(
        trial=trial, measured=measured, within_limit=measured.size_bytes <= limit_bytes
    )
