"""The search by limit: for a format and a limit in bytes, the candidate that looks best.

It compares modes (chroma) and pixel counts together. A draft pass ranks them; in the first of them
the largest step that fits is found at full effort, every step measured: the step taken fits, and
the next one was measured not to. A second place whose drafts come close is searched too, until what
is measured there promises no more; and so is the next best where drafts have promised too much.
"""

import math
from collections.abc import Iterable, Sequence

from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.formats import Format
from lean_parcel.core.likeness.levels import HARD_TO_SPOT
from lean_parcel.core.search.bracket import SizeBracket
from lean_parcel.core.search.draft_pass import Estimate, draft_pass, likeness_at
from lean_parcel.core.search.ladder import Rung, SearchInput, trial_at
from lean_parcel.core.search.protocol import FormatSearch, TrialSearch, asked_once
from lean_parcel.core.search.scales import LOSSLESS, Scale, scales_of

#: No lossless file is tried where even this fraction of a quickly deflated PNG exceeds the limit.
#: The lowest seen were 0.28 (WebP at its highest effort) and 0.30 (PNG), for a scanned drawing.
LOSSLESS_FLOOR = 0.2
#: How far, as a share of the first's damage, the second of a draft pass may be behind and is still
#: searched. Drafts tell modes apart better than pixel counts.
_CLOSE_MODES, _CLOSE_PIXELS = 0.02, 0.05


def search_by_limit(
    name: Format, search_input: SearchInput, limit_bytes: int, background: str
) -> FormatSearch:
    """The search in one format: returns the best candidate that fits, or where nothing fits the
    smallest that is worth offering. No trial is asked for twice."""
    made: dict[Trial, Measured] = {}
    found = yield from asked_once(_search(name, search_input, limit_bytes, background), made)
    if found.meets_aim:
        return found
    # A draft at few pixels can be lighter than the encode that it stands for.
    fitting = [
        _judged(trial, measured, limit_bytes)
        for trial, measured in made.items()
        if measured.size_bytes <= limit_bytes
    ]
    return max(fitting, key=lambda candidate: candidate.measured.likeness, default=found)


def _search(
    name: Format, search_input: SearchInput, limit_bytes: int, background: str
) -> FormatSearch:
    rungs = search_input.rungs
    lossless = LOSSLESS.get(name)
    if lossless and LOSSLESS_FLOOR * rungs[0].quick_png_size_bytes <= limit_bytes:
        trial = trial_at(lossless, rungs[0])
        measured = yield trial
        if measured.size_bytes <= limit_bytes:
            return _judged(trial, measured, limit_bytes)
    scales = scales_of(
        name,
        background,
        is_transparent=search_input.is_transparent,
        is_grey=search_input.is_grey,
    )
    while rungs:
        estimates = yield from draft_pass(scales, rungs, limit_bytes)
        found = yield from _best_place(estimates, limit_bytes)
        if found:
            return found
        rungs = rungs[1 + max(rungs.index(estimate.rung) for estimate in estimates) :]
    return (yield from _last_resort(scales, search_input.rungs[-1], limit_bytes))


def _best_place(estimates: Sequence[Estimate], limit_bytes: int) -> TrialSearch[Candidate | None]:
    """The candidate of the first place in which anything fits, or of the one after it where that is
    close and better; None where nothing fits in any. Where damage is hard to spot, the second place
    is not searched: what it might gain is not seen."""
    for index, place in enumerate(estimates):
        if place.likeness == -math.inf:
            continue
        found = yield from _fitted(place, limit_bytes, place.scale.lowest_step)
        if found is None:
            continue
        if found.measured.likeness < HARD_TO_SPOT and len(estimates) > index + 1:
            second = estimates[index + 1]
            if _is_close(second, place):
                return (yield from _better_of(found, second, limit_bytes))
        return found
    return None


def _is_close(second: Estimate, first: Estimate) -> bool:
    """Whether drafts cannot tell that the second place is worse."""
    close = _CLOSE_MODES if second.rung == first.rung else _CLOSE_PIXELS
    return 100 - second.likeness <= (1 + close) * (100 - first.likeness)


def _fitted(place: Estimate, limit_bytes: int, lowest: int) -> TrialSearch[Candidate | None]:
    """The largest step of a place, from `lowest` on, that fits; None where none does."""
    bracket, measured = _bracket(place, limit_bytes, lowest)
    while (step := bracket.next_step()) is not None:
        measured[step] = yield place.scale.trial(step, place.rung)
        bracket.add(step, measured[step].size_bytes)
    if bracket.best is None:
        return None
    trial = place.scale.trial(bracket.best, place.rung)
    return _judged(trial, measured[bracket.best], limit_bytes)


def _better_of(first: Candidate, place: Estimate, limit_bytes: int) -> FormatSearch:
    """A candidate, or the largest step of another place that fits, if that looks better; given up
    as soon as what was measured there promises no more likeness at as many bytes."""
    to_beat = first.measured
    bracket, measured = _bracket(place, limit_bytes, place.scale.lowest_step)
    while (step := bracket.next_step()) is not None:
        measured[step] = yield place.scale.trial(step, place.rung)
        bracket.add(step, measured[step].size_bytes)
        if _promised(place, measured.values(), to_beat.size_bytes) <= to_beat.likeness:
            return first
    if bracket.best is None or measured[bracket.best].likeness <= to_beat.likeness:
        return first
    trial = place.scale.trial(bracket.best, place.rung)
    return _judged(trial, measured[bracket.best], limit_bytes)


def _bracket(
    place: Estimate, limit_bytes: int, lowest: int
) -> tuple[SizeBracket, dict[int, Measured]]:
    """A bracket over a place, and what was measured there before, by step."""
    measured = {step: each for step, each in place.known.items() if step >= lowest}
    sizes = {step: each.size_bytes for step, each in measured.items()}
    return SizeBracket(place.log_sizes, limit_bytes, sizes, lowest), measured


def _promised(place: Estimate, measured: Iterable[Measured], size_bytes: int) -> float:
    """The likeness to expect of a place at a size, from what was measured there."""
    log_size = math.log(size_bytes)
    nearest = sorted(measured, key=lambda each: abs(math.log(each.size_bytes) - log_size))
    return likeness_at(nearest, log_size, place.scale, place.rung)


def _last_resort(scales: Sequence[Scale], rung: Rung, limit_bytes: int) -> FormatSearch:
    """Where nothing that was drafted fits: the best at the fewest pixels that is worth offering, or
    at any quality; or else the smallest that is worth offering, which does not fit."""
    places = [Estimate(scale=each, rung=rung, log_sizes=each.log_sizes(rung)) for each in scales]
    for any_quality in (False, True):
        fitting = []
        for place in places:
            lowest = 0 if any_quality else place.scale.lowest_step
            found = yield from _fitted(place, limit_bytes, lowest)
            fitting += [found] if found else []
        if fitting:
            return max(fitting, key=lambda candidate: candidate.measured.likeness)
    trial = scales[0].trial(scales[0].lowest_step, rung)
    measured = yield trial
    return _judged(trial, measured, limit_bytes)


def _judged(trial: Trial, measured: Measured, limit_bytes: int) -> Candidate:
    return Candidate(trial=trial, measured=measured, meets_aim=measured.size_bytes <= limit_bytes)
