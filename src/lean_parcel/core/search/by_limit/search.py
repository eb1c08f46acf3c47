"""The search by limit as a whole.

It compares modes (chroma, quantisation) and pixel counts together. A survey ranks them, the pixel
count of the first is refined, and the limit is fitted there. While trials are left, the next most
promising place is searched, as long as the survey cannot tell that it is worse than what was found,
and until what is measured there promises no more. Of a large picture, whose encodes take long, less
is tried.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.formats import Format
from lean_parcel.core.search.by_limit.fitting import (
    SLIGHTLY,
    better_of,
    fitted,
    found_at,
    measured_at,
)
from lean_parcel.core.search.by_limit.limit_search import LimitSearch, rules_of
from lean_parcel.core.search.by_limit.refining import refined
from lean_parcel.core.search.by_limit.survey import Estimate, survey
from lean_parcel.core.search.ladder import (
    Rung,
    SearchInput,
    part_trial_at,
    rung_at,
    rung_between,
    trial_at,
)
from lean_parcel.core.search.protocol import FormatSearch, TrialSearch, asked_once
from lean_parcel.core.search.scales import (
    LOSSLESS,
    LOSSLESS_DRAFTS,
    LOSSLESS_FLOOR,
    Scale,
    scales_of,
)

#: Of the trials that a search spends, those that one more place takes.
_FOR_A_PLACE = 2


def search_by_limit(
    name: Format, search_input: SearchInput, limit_bytes: int, background: str
) -> FormatSearch:
    """The search in one format: returns the best candidate that fits, or where nothing fits the
    smallest that is worth offering. No trial is asked for twice."""
    made: dict[Trial, Measured] = {}
    rungs = search_input.rungs
    scales = scales_of(name, search_input, background)
    rules = rules_of(scales[0], rungs[0])
    state = LimitSearch(limit_bytes=limit_bytes, rungs=rungs, made=made, rules=rules)
    found = yield from asked_once(_search(scales, state), made)
    return max(state.fitting() or [found], key=_merit)


def _search(scales: Sequence[Scale], state: LimitSearch) -> FormatSearch:
    found = yield from _lossless(scales[0], state)
    if found:
        return found
    left = state
    while left.rungs:
        estimates = yield from survey(scales, left)
        found = yield from _best_place(estimates, left)
        if found:
            return found
        fewest = max(left.rungs.index(estimate.rung) for estimate in estimates)
        left = replace(left, rungs=left.rungs[1 + fewest :])
    return (yield from _last_resort(scales, state))


def _lossless(scale: Scale, state: LimitSearch) -> TrialSearch[Candidate | None]:
    """The lossless file of a format, where there is one that fits. Of a large picture a part tells
    whether that is worth trying."""
    settings, full = LOSSLESS.get(scale.format), state.full
    if settings is None or LOSSLESS_FLOOR * full.quick_png_size_bytes > state.limit_bytes:
        return None
    if scale.by_part:
        estimate = yield part_trial_at(LOSSLESS_DRAFTS[scale.format], full)
        if estimate.size_bytes > SLIGHTLY * state.limit_bytes:
            return None
    trial = trial_at(settings, full)
    found = state.judged(trial, (yield trial))
    return found if found.meets_aim else None


def _best_place(estimates: Sequence[Estimate], state: LimitSearch) -> TrialSearch[Candidate | None]:
    """The candidate of the first place in which anything fits, or of others that are close and
    better; None where nothing fits in any."""
    viable = [each for each in estimates if each.likeness > -math.inf]
    for first in sorted(viable, key=lambda each: not each.fits):
        place = yield from refined(first, viable, state)
        found = yield from found_at(place, state)
        if found is None and place.rung != first.rung:
            found = yield from found_at(first, state)
        if found:
            return (yield from _best_of_others(found, _Places(first, place, viable), state))
    return None


@dataclass(slots=True)
class _Places:
    """The place that was searched first, what it was refined to, and the others that may be."""

    first: Estimate
    refined: Estimate
    viable: Sequence[Estimate]
    #: The others that were searched so far.
    searched: list[Estimate] = field(default_factory=list)

    def next(self, found: Measured, state: LimitSearch) -> Estimate | None:
        """The most promising place that was not searched, where the survey cannot tell that it is
        worse than what was found; of a large picture, if that says that it is better."""
        searched = (self.first, self.refined, *self.searched)
        others = [each for each in self.viable if not any(map(each.is_at, searched))]
        if not others:
            return None
        place = max(others, key=lambda each: each.likeness)
        to_beat = found.likeness
        if not state.rules.takes_first:
            to_beat = min(found.likeness, self.refined.likeness)
        is_close = 100 - place.likeness <= (1 + state.rules.behind) * (100 - to_beat)
        return place if is_close else None

    def beside(self, other: Estimate, rungs: Sequence[Rung]) -> Estimate:
        """Another place where it promises more: another mode with the pixel count that was found
        best, and the same mode half-way to it."""
        found = self.refined.rung
        if other.scale != self.first.scale:
            return _at_width(other, found, rungs)
        half_way_px = math.sqrt(found.width_px * other.rung.width_px)
        return _at_width(other, rung_at(rungs, half_way_px), rungs)


def _best_of_others(found: Candidate, places: _Places, state: LimitSearch) -> FormatSearch:
    """A candidate, or a better one of another place, as long as trials are left and it is not good
    enough."""
    while state.left(_FOR_A_PLACE) >= 0 and (other := places.next(found.measured, state)):
        if found.measured.likeness >= state.rules.enough:
            break
        places.searched.append(other)
        if state.full not in (places.first.rung, other.rung):
            other = places.beside(other, state.rungs)
        elif places.first.rung == state.full:
            other = yield from refined(other, places.viable, state)
        places.searched.append(other)
        found = yield from better_of(found, other, state)
    return found


def _at_width(place: Estimate, rung: Rung, rungs: Sequence[Rung]) -> Estimate:
    """A place with the pixel count of another, whose bytes differ as the known curve says."""
    if rung.width_px == place.rung.width_px:
        return place
    before, after = place.scale.log_sizes(place.rung), place.scale.log_sizes(rung)
    moved = [
        log_size + there - here
        for log_size, here, there in zip(place.log_sizes, before, after, strict=True)
    ]
    return replace(place, rung=rung, log_sizes=moved, known={})


def _last_resort(scales: Sequence[Scale], state: LimitSearch) -> FormatSearch:
    """Where nothing was found in any place: the best at the fewest pixels that is worth offering,
    or at any quality; or else the smallest that is worth offering, which does not fit. Where an
    encode fits against all that was expected, its pixel count is searched in the same way."""
    fewest = state.rungs[-1]
    widths_px = {fewest.width_px, *(found.trial.width_px for found in state.fitting())}
    at = [rung_between(state.rungs, width_px) for width_px in sorted(widths_px)]
    places = [_measured_place(scale, rung, state) for rung in at for scale in scales]
    for any_quality in (False, True):
        fitting = []
        for place in places:
            lowest = 0 if any_quality else place.scale.lowest_step
            found = yield from fitted(place, state, lowest)
            fitting += [found] if found else []
        if fitting:
            return max(fitting, key=_merit)
    trial = scales[0].trial(scales[0].lowest_step, fewest)
    return state.judged(trial, (yield trial))


def _measured_place(scale: Scale, rung: Rung, state: LimitSearch) -> Estimate:
    """A place with all that was measured there."""
    known = measured_at(scale, rung, state)
    return Estimate(scale=scale, rung=rung, log_sizes=scale.log_sizes(rung), known=known)


def _merit(candidate: Candidate) -> tuple[float, int]:
    """The more alike, and of equals the lighter."""
    return candidate.measured.likeness, -candidate.measured.size_bytes
