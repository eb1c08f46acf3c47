"""The search by limit: for a format and a limit in bytes, the candidate that looks best.

It compares modes (chroma, quantisation) and pixel counts together. A survey ranks them, the
pixel count of the first is refined, and the limit is fitted there (`fitting`). While trials are
left, the next most promising place is searched, as long as the survey cannot tell that it is worse
than what was found, and until what is measured there promises no more. Of a large picture, whose
encodes take long, less is tried.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.encoding.settings import draft_settings
from lean_parcel.core.formats import Format
from lean_parcel.core.likeness.levels import HARD_TO_SPOT, NO_CHANGE
from lean_parcel.core.search.fitting import (
    MOST_TRIALS,
    SLIGHTLY,
    better_of,
    fitted,
    found_at,
    judged,
    spent,
)
from lean_parcel.core.search.ladder import (
    PartTrial,
    Rung,
    SearchInput,
    part_trial_at,
    rung_at,
    rung_between,
    trial_at,
)
from lean_parcel.core.search.part import has_part
from lean_parcel.core.search.protocol import FormatSearch, TrialSearch, asked_once
from lean_parcel.core.search.refining import refined
from lean_parcel.core.search.scales import LOSSLESS, Scale, scales_of
from lean_parcel.core.search.survey import Estimate, survey

#: No lossless file is tried where even this fraction of a quickly deflated PNG exceeds the limit.
#: The lowest seen were 0.28 (WebP at its highest effort) and 0.30 (PNG), for a scanned drawing.
LOSSLESS_FLOOR = 0.2
#: Of the trials that a search spends: those kept after a survey that has found something, for the
#: end, and for one more place.
_AFTER_SURVEY, _FOR_THE_END, _FOR_A_PLACE = 4, 6, 2
#: How far, as a share of the damage of what was found, another place may be behind and is still
#: searched.
_CLOSE = 0.03


def search_by_limit(
    name: Format, search_input: SearchInput, limit_bytes: int, background: str
) -> FormatSearch:
    """The search in one format: returns the best candidate that fits, or where nothing fits the
    smallest that is worth offering. No trial is asked for twice."""
    made: dict[Trial, Measured] = {}
    search = _search(name, search_input, limit_bytes, background, made)
    found = yield from asked_once(search, made)
    fitting = [
        judged(trial, measured, limit_bytes)
        for trial, measured in made.items()
        if measured.size_bytes <= limit_bytes and not isinstance(trial, PartTrial)
    ]
    return max(fitting or [found], key=_likeness)


def _search(
    name: Format,
    search_input: SearchInput,
    limit_bytes: int,
    background: str,
    made: dict[Trial, Measured],
) -> FormatSearch:
    rungs = search_input.rungs
    scales = scales_of(name, search_input, background)
    found = yield from _lossless(scales[0], rungs[0], limit_bytes)
    if found:
        return found
    while rungs:
        estimates = yield from survey(
            scales, rungs, limit_bytes, lambda: spent(made) >= MOST_TRIALS - _AFTER_SURVEY
        )
        found = yield from _best_place(estimates, rungs, limit_bytes, made)
        if found:
            return found
        rungs = rungs[1 + max(rungs.index(estimate.rung) for estimate in estimates) :]
    return (yield from _last_resort(scales, search_input.rungs, limit_bytes, made))


def _lossless(scale: Scale, full: Rung, limit_bytes: int) -> TrialSearch[Candidate | None]:
    """The lossless file of a format, where there is one that fits. Of a large picture a part tells
    whether that is worth trying."""
    settings = LOSSLESS.get(scale.format)
    if settings is None or LOSSLESS_FLOOR * full.quick_png_size_bytes > limit_bytes:
        return None
    if scale.by_part:
        estimate = yield part_trial_at(draft_settings(settings), full)
        if estimate.size_bytes > SLIGHTLY * limit_bytes:
            return None
    trial = trial_at(settings, full)
    measured = yield trial
    return judged(trial, measured, limit_bytes) if measured.size_bytes <= limit_bytes else None


def _best_place(
    estimates: Sequence[Estimate],
    rungs: Sequence[Rung],
    limit_bytes: int,
    made: dict[Trial, Measured],
) -> TrialSearch[Candidate | None]:
    """The candidate of the first place in which anything fits, or of others that are close and
    better; None where nothing fits in any."""
    viable = [each for each in estimates if each.likeness > -math.inf]
    for first in sorted(viable, key=lambda each: not each.fits):
        place = yield from _refined(first, viable, rungs, limit_bytes, made)
        found = yield from found_at(place, rungs, limit_bytes, made)
        if found is None and place.rung != first.rung:
            found = yield from found_at(first, rungs, limit_bytes, made)
        if found:
            places = _Places(first, place, viable, rungs)
            return (yield from _best_of_others(found, places, limit_bytes, made))
    return None


@dataclass(slots=True)
class _Places:
    """The place that was searched first, what it was refined to, and the others that may be."""

    first: Estimate
    refined: Estimate
    viable: Sequence[Estimate]
    rungs: Sequence[Rung]
    #: The others that were searched so far.
    searched: list[Estimate] = field(default_factory=list)

    def next(self, found: Measured) -> Estimate | None:
        """The most promising place that was not searched, where the survey cannot tell that it is
        worse than what was found; of a large picture, where that says that it is better."""
        searched = (self.first, self.refined, *self.searched)
        others = [each for each in self.viable if not any(map(each.is_at, searched))]
        if not others:
            return None
        place = max(others, key=lambda each: each.likeness)
        if place.scale.by_part:
            return place if place.likeness > found.likeness else None
        to_beat = min(found.likeness, self.refined.likeness)
        is_close = 100 - place.likeness <= (1 + _CLOSE) * (100 - to_beat)
        return place if is_close else None


def _best_of_others(
    found: Candidate, places: _Places, limit_bytes: int, made: dict[Trial, Measured]
) -> FormatSearch:
    """A candidate, or a better one of another place, as long as trials are left and a change is
    visible; of a large picture, whose trials take long, as long as its damage is not hard to
    spot."""
    first, full = places.first, places.rungs[0]
    most_spent = MOST_TRIALS - _FOR_A_PLACE
    enough = HARD_TO_SPOT if has_part(full) else NO_CHANGE
    while spent(made) <= most_spent and (other := places.next(found.measured)):
        if found.measured.likeness >= enough:
            break
        places.searched.append(other)
        if full not in (first.rung, other.rung):
            other = _beside(other, places)
        elif first.rung == full:
            other = yield from _refined(other, places.viable, places.rungs, limit_bytes, made)
        places.searched.append(other)
        found = yield from better_of(found, other, limit_bytes, made)
    return found


def _beside(other: Estimate, places: _Places) -> Estimate:
    """Another place where it promises more: another mode with the pixel count that was found best,
    and the same mode half-way to it."""
    found = places.refined.rung
    if other.scale != places.first.scale:
        return _at_width(other, found, places.rungs)
    half_way_px = math.sqrt(found.width_px * other.rung.width_px)
    return _at_width(other, rung_at(places.rungs, half_way_px), places.rungs)


def _refined(
    place: Estimate,
    estimates: Sequence[Estimate],
    rungs: Sequence[Rung],
    limit_bytes: int,
    made: dict[Trial, Measured],
) -> TrialSearch[Estimate]:
    """A place with the best pixel count beside its own; all pixels are a case of their own, since
    even slightly fewer lose some sharpness at once."""
    if place.rung == rungs[0]:
        return place
    fewer = [each for each in estimates if each.rung != rungs[0]]
    most = int(MOST_TRIALS - _FOR_THE_END - spent(made))
    return (yield from refined(place, fewer, rungs, limit_bytes, most))


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


def _last_resort(
    scales: Sequence[Scale],
    rungs: Sequence[Rung],
    limit_bytes: int,
    made: dict[Trial, Measured],
) -> FormatSearch:
    """Where nothing was found in any place: the best at the fewest pixels that is worth offering,
    or at any quality; or else the smallest that is worth offering, which does not fit. Where an
    encode fits against all that was expected, its pixel count is searched in the same way."""
    fits = {
        trial.width_px
        for trial, measured in made.items()
        if measured.size_bytes <= limit_bytes and not isinstance(trial, PartTrial)
    }
    fewest = rungs[-1]
    at = [rung_between(rungs, width_px) for width_px in sorted({fewest.width_px, *fits})]
    places = [_measured_place(scale, rung, made) for rung in at for scale in scales]
    for any_quality in (False, True):
        fitting = []
        for place in places:
            lowest = 0 if any_quality else place.scale.lowest_step
            found = yield from fitted(place, limit_bytes, lowest, made)
            fitting += [found] if found else []
        if fitting:
            return max(fitting, key=_likeness)
    trial = scales[0].trial(scales[0].lowest_step, fewest)
    measured = yield trial
    return judged(trial, measured, limit_bytes)


def _measured_place(scale: Scale, rung: Rung, made: Mapping[Trial, Measured]) -> Estimate:
    """A place with all that was measured there."""
    trials = [scale.trial(step, rung) for step in range(len(scale.qualities))]
    known = {step: made[trial] for step, trial in enumerate(trials) if trial in made}
    return Estimate(scale=scale, rung=rung, log_sizes=scale.log_sizes(rung), known=known)


def _likeness(candidate: Candidate) -> float:
    return candidate.measured.likeness
