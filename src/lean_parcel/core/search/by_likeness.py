"""The search by likeness: for a format and a likeness to reach, the candidate of fewest bytes.

A survey tells how many bytes each mode needs, in WebP and AVIF by drafts with less effort: with all
pixels, and then with fewer, as long as that helps and their ceiling allows it. In the best places
the lowest step that reaches the likeness is found at full effort, every step measured: the step
taken reaches it, and the one below was measured not to. A place is given up at the first step that
is no lighter than what was found and still does not reach the likeness.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.formats import Format
from lean_parcel.core.search.bracket import LikenessBracket
from lean_parcel.core.search.damage_law import log_size_at
from lean_parcel.core.search.ladder import Rung, SearchInput, rung_at, trial_at
from lean_parcel.core.search.protocol import FormatSearch, TrialSearch, asked_once
from lean_parcel.core.search.scales import LOSSLESS, LOSSLESS_FLOOR, Scale, scales_of

#: Drafts of one mode and pixel count at most, and how near to the likeness, as a share of what that
#: lacks to the ceiling, one is near enough.
_DRAFTS, _NEAR = 3, 0.15
#: Places that are searched at full effort at most, and how much heavier than the first a second
#: may be expected, as the logarithm of the factor.
_PLACES, _CLOSE = 2, 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class _Place:
    """A mode and a pixel count, the step at which drafts expect the likeness, and its bytes as
    their natural logarithm."""

    scale: Scale
    rung: Rung
    step: int
    log_size: float


def search_by_likeness(
    name: Format, search_input: SearchInput, likeness: float, background: str
) -> FormatSearch:
    """The search in one format: returns the lightest candidate that reaches the likeness, or where
    none does the best there is. No trial is asked for twice."""
    return asked_once(_search(name, search_input, likeness, background), {})


def _search(
    name: Format, search_input: SearchInput, likeness: float, background: str
) -> FormatSearch:
    full = search_input.rungs[0]
    scales = scales_of(name, search_input, background, with_drafts=True)
    places = yield from _survey(scales, search_input.rungs, likeness)
    best: Candidate | None = None
    first, *others = sorted(places, key=_log_size)
    close = [place for place in others if place.log_size <= first.log_size + _CLOSE]
    for place in (first, *close[: _PLACES - 1]):
        best = (yield from _search_place(place, likeness, best)) or best
    for place in others:
        if best:
            break
        best = yield from _search_place(place, likeness, None)
    lossless = LOSSLESS.get(name)
    if lossless and (best is None or _may_be_lighter(full, best)):
        trial = trial_at(lossless, full)
        measured = yield trial
        if best is None or measured.size_bytes < best.measured.size_bytes:
            best = _judged(trial, measured, likeness)
    if best is None:
        trial = scales[-1].trial(len(scales[-1].qualities) - 1, full)
        measured = yield trial
        best = _judged(trial, measured, likeness)
    return best


def _survey(
    scales: Sequence[Scale], rungs: Sequence[Rung], likeness: float
) -> TrialSearch[list[_Place]]:
    """What drafts expect of all modes with all pixels, and of the lightest with fewer and fewer,
    until that no longer helps; at last halfway to the neighbours of the lightest place."""
    full, *fewer = rungs
    places = []
    for scale in scales:
        places.append((yield from _drafted(scale, full, likeness)))
    best = min(places, key=_log_size)
    for rung in fewer:
        if rung.ceiling <= likeness:
            break
        place = yield from _drafted(best.scale, rung, likeness)
        places.append(place)
        if place.log_size >= best.log_size:
            break
        best = place
    for most_px in _halfway(best.rung, rungs):
        between = rung_at(rungs, most_px)
        if between.ceiling > likeness:
            places.append((yield from _drafted(best.scale, between, likeness)))
    return places


def _halfway(rung: Rung, rungs: Sequence[Rung]) -> list[float]:
    """Widths between a rung and its neighbours."""
    index = rungs.index(rung)
    beside = [*rungs[max(index - 1, 0) : index], *rungs[index + 1 : index + 2]]
    return [math.sqrt(rung.width_px * other.width_px) for other in beside]


def _drafted(scale: Scale, rung: Rung, likeness: float) -> TrialSearch[_Place]:
    """What drafts expect of a place."""
    bracket = LikenessBracket(len(scale.qualities), likeness)
    drafts: dict[int, Measured] = {}
    is_near = False
    while (step := bracket.next_step()) is not None and len(drafts) < _DRAFTS and not is_near:
        drafts[step] = yield scale.survey_trial(step, rung)
        bracket.add(step, drafts[step].likeness)
        is_near = abs(drafts[step].likeness - likeness) <= _NEAR * (rung.ceiling - likeness)
    if step is None:
        step = len(scale.qualities) - 1 if bracket.best is None else bracket.best
    log_size = _expected_log_size(list(drafts.values()), likeness, scale, rung)
    return _Place(scale=scale, rung=rung, step=step, log_size=log_size - scale.draft_excess(step))


def _expected_log_size(
    drafts: Sequence[Measured], likeness: float, scale: Scale, rung: Rung
) -> float:
    """The bytes to expect at a likeness, as their natural logarithm: between the two nearest drafts
    where it is enclosed, or else along the power law of damage."""
    nearest = sorted(drafts, key=lambda each: abs(each.likeness - likeness))
    below = next((each for each in nearest if each.likeness < likeness), None)
    above = next((each for each in nearest if each.likeness >= likeness), None)
    if below is None or above is None:
        return log_size_at(nearest, likeness, scale, rung)
    share = (likeness - below.likeness) / (above.likeness - below.likeness)
    return (1 - share) * math.log(below.size_bytes) + share * math.log(above.size_bytes)


def _log_size(place: _Place) -> float:
    return place.log_size


def _may_be_lighter(full: Rung, best: Candidate) -> bool:
    """Whether a lossless file might have fewer bytes."""
    return LOSSLESS_FLOOR * full.quick_png_size_bytes < best.measured.size_bytes


def _search_place(
    place: _Place, likeness: float, to_beat: Candidate | None
) -> TrialSearch[Candidate | None]:
    """The lowest step of a place that reaches the likeness, if it is lighter than what was
    found."""
    scale, rung = place.scale, place.rung
    most_bytes = to_beat.measured.size_bytes if to_beat else None
    bracket = LikenessBracket(len(scale.qualities), likeness, place.step)
    measured: dict[int, Measured] = {}
    while (step := bracket.next_step()) is not None:
        measured[step] = yield scale.trial(step, rung)
        bracket.add(step, measured[step].likeness)
        is_heavy = most_bytes is not None and measured[step].size_bytes >= most_bytes
        if is_heavy and measured[step].likeness < likeness:
            return None
    if bracket.best is None:
        return None
    found = _judged(scale.trial(bracket.best, rung), measured[bracket.best], likeness)
    if most_bytes is not None and found.measured.size_bytes >= most_bytes:
        return None
    return found


def _judged(trial: Trial, measured: Measured, likeness: float) -> Candidate:
    return Candidate(trial=trial, measured=measured, meets_aim=measured.likeness >= likeness)
