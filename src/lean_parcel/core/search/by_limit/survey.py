"""The survey of a search by limit: which mode and pixel count are worth fitting.

It measures encodes near the limit, any of which may turn out to be the one that is wanted; of a
large picture drafts of a part instead, in some formats with less effort, and so with a few more
bytes. Each mode is measured at the most pixels that leave it its start quality; then the best mode,
and those that were too heavy so far, with fewer and fewer pixels, until that no longer improves,
and once with all; and every mode with all, where that is about the best. Each trial tells where the
next one begins. Pixel counts whose ceiling is below what was found are not encoded at all, nor
modes that another one shows to be too heavy there; and where fewer pixels alone cost very little,
still fewer are tried in any case.
"""

import math
from bisect import bisect_right
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

from lean_parcel.core.candidates.trial import Measured
from lean_parcel.core.search.by_limit.limit_search import LimitSearch
from lean_parcel.core.search.damage_law import likeness_at
from lean_parcel.core.search.ladder import Rung
from lean_parcel.core.search.protocol import TrialSearch
from lean_parcel.core.search.scales import Scale

#: Trials of one mode and pixel count at most, and how near to the limit one is near enough, as the
#: logarithm of the factor.
MOST_AT_A_PLACE = 2
_NEAR = 0.1
#: Of the trials that a search spends, those kept once something was found.
_KEPT = 4
#: A trial this far from it says too little of where the limit is, even below the start quality.
_FAR = 0.5
#: By how much a mode has to be expected to be too heavy, from another one with the same pixels, or
#: a palette from one with fewer.
_TOO_HEAVY = 0.15
#: Where fewer pixels alone do less damage than this share of the best place's, still fewer may win
#: although these do not.
_HARMLESS = 1 / 3
#: How close to the best the place of all pixels has to be, as a share of its damage, for its other
#: modes to be surveyed; and the first fewer pixels to all, for still fewer to be tried: with the
#: first ones more is lost than with the next.
_CLOSE = 0.05
#: How much more damage encoding does than missing pixels, as a factor, where more pixels are not
#: tried: none of the best of a finer grid was lost by it.
_FAR_MORE = 2
#: Widths that are no further apart than this, as the logarithm of the factor, are one place.
_APART = 0.06
#: The same as `_NEAR` for palettes, whose likeness is less steady.
_NEAR_IN_PALETTES = 0.08
#: How much more damage than the best place a first trial may promise, as a factor, and a second one
#: is still made.
_HOPELESS = 1.15
#: A trial this near to the ceiling of its rung needs more pixels rather than more bytes.
_NEAR_CEILING = 5.0
#: How much flatter or steeper than the known curve two trials may say that bytes rise.
_SLOPES = (0.5, 2.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Estimate:
    """What a mode is expected to come to at a limit and a pixel count.

    `log_sizes` is the natural logarithm of the bytes of each step, as measurements have corrected
    it; `likeness` is that of the bytes that the mode is expected to use, half-way between those of
    the largest step that fits and the limit, and minus infinity where nothing worth offering fits,
    or nothing was measured. It `fits`, or is so little too heavy by what was measured that only
    another encode can tell.
    `shift` is by how much the photo is heavier than the known curve, as the logarithm of the
    factor. `known` has the steps that were measured at full effort.
    """

    scale: Scale
    rung: Rung
    log_sizes: list[float]
    shift: float = 0.0
    likeness: float = -math.inf
    reaches_start_quality: bool = False
    fits: bool = False
    known: dict[int, Measured] = field(default_factory=dict)

    @property
    def has_pixels_enough(self) -> bool:
        """Whether what encoding does is so much more than what missing pixels do that more of them
        would make it worse."""
        return self.rung.ceiling - self.likeness > _FAR_MORE * (100 - self.rung.ceiling)

    def is_at(self, other: "Estimate") -> bool:
        """Whether it is of the same mode and about the same pixel count as another."""
        apart = math.log(self.rung.width_px / other.rung.width_px)
        return self.scale.name == other.scale.name and abs(apart) < _APART


_Estimates = dict[tuple[str, Rung], Estimate]


def survey(scales: Sequence[Scale], state: LimitSearch) -> TrialSearch[list[Estimate]]:
    """Estimates of all modes and pixel counts that were measured, the most promising first. Once a
    place is found that leaves its start quality, and few trials are left, no more are looked
    for."""
    rungs, limit_bytes = state.rungs, state.limit_bytes
    estimates, first, shift = yield from _find_first_rung(scales[0], state)
    best = -math.inf
    leading = scales
    for rung in rungs[first:]:
        if rung.ceiling <= best or (best > -math.inf and state.left(_KEPT) <= 0):
            break
        for scale in _modes_at(rung, rungs, scales, leading):
            if _has_answer(estimates, scale, rung, limit_bytes):
                continue
            to_beat = _best_of(estimates.values())
            estimate = yield from surveyed(scale, rung, state, shift, to_beat=to_beat)
            estimates[scale.name, rung] = estimate
            shift = estimate.shift
        fitting = [each for each in _at(rung, estimates) if each.fits]
        leader = max(fitting, key=_likeness, default=None)
        if leader is None:
            continue
        names = {each.scale.name for each in fitting}
        leading = [leader.scale, *(each for each in leading if each.name not in names)]
        if leader.reaches_start_quality:
            allowed = 1 + _CLOSE if rung in rungs[1:2] else 1
            is_worse = 100 - leader.likeness >= allowed * (100 - best)
            if is_worse and 100 - rung.ceiling > _HARMLESS * (100 - best):
                break
            best = max(best, leader.likeness)
    while state.left(_KEPT) > 0 and (yield from _survey_more_pixels(estimates, state)):
        pass
    if state.left(_KEPT) > 0:
        yield from _survey_all_modes(estimates, scales, state)
    return sorted(estimates.values(), key=_likeness, reverse=True)


def _modes_at(
    rung: Rung, rungs: Sequence[Rung], scales: Sequence[Scale], leading: Sequence[Scale]
) -> Sequence[Scale]:
    """The modes that are surveyed at a pixel count: those that lead, or all that are worth it with
    fewer than all pixels."""
    if rung == rungs[0]:
        return leading
    fewer = [each for each in scales if not each.is_for_all_pixels]
    return [each for each in leading if each in fewer] or fewer


def _best_of(estimates: Iterable[Estimate]) -> float:
    """The best likeness of what fits."""
    return max((each.likeness for each in estimates if each.fits), default=-math.inf)


def _at(rung: Rung, estimates: _Estimates) -> list[Estimate]:
    """What was surveyed with these pixels."""
    return [estimate for (_, at), estimate in estimates.items() if at == rung]


def _has_answer(estimates: _Estimates, scale: Scale, rung: Rung, limit_bytes: int) -> bool:
    """Whether a mode needs no trial: it had one, or another mode says that it is too heavy."""
    if (scale.name, rung) in estimates:
        return True
    lightest = scale.log_sizes(rung)[scale.lowest_step]
    shifts = [each.shift for each in _at(rung, estimates)]
    return bool(shifts) and lightest + shifts[-1] > math.log(limit_bytes) + _TOO_HEAVY


def _survey_more_pixels(estimates: _Estimates, state: LimitSearch) -> TrialSearch[bool]:
    """Surveys the best mode that might fit there with all pixels, or as a palette with the next
    more, where no mode was: grain, and lettering above all, look better so even below the start
    quality. And whether it was a palette that did, so that still more pixels may look better."""
    best_first = sorted(estimates.values(), key=_likeness, reverse=True)
    best = best_first[0]
    is_palette = best.scale.name == "png"
    index = state.rungs.index(best.rung)
    rung = state.full
    if is_palette:
        rung = state.rungs[index if best.has_pixels_enough else max(index - 1, 0)]
    most = math.log(state.limit_bytes) + (_TOO_HEAVY if is_palette else 0.0)
    for each in best_first:
        scale = each.scale
        if (scale.name, rung) in estimates:
            break
        if scale.log_sizes(rung)[scale.lowest_step] + each.shift <= most:
            estimate = yield from surveyed(scale, rung, state, each.shift)
            estimates[scale.name, rung] = estimate
            return is_palette and estimate.likeness > best.likeness
    return False


def _survey_all_modes(
    estimates: _Estimates, scales: Sequence[Scale], state: LimitSearch
) -> TrialSearch[None]:
    """Surveys every mode with all pixels, where one of them came close to the best there."""
    full = state.full
    there = max((each for each in _at(full, estimates) if each.fits), key=_likeness, default=None)
    best = _best_of(estimates.values())
    if there is None or 100 - there.likeness > (1 + _CLOSE) * (100 - best):
        return
    for scale in scales:
        if (scale.name, full) not in estimates:
            estimates[scale.name, full] = yield from surveyed(
                scale, full, state, there.shift, to_beat=best
            )


def _likeness(estimate: Estimate) -> float:
    return estimate.likeness


def _find_first_rung(
    scale: Scale, state: LimitSearch
) -> TrialSearch[tuple[_Estimates, int, float]]:
    """What was measured to find the rung to begin with, its index, and the shift that showed.

    It is the first rung that the known curve expects to leave its start quality; from there up, for
    as long as measurements show the photo to be lighter, or to need more pixels.
    """
    rungs, limit_bytes = state.rungs, state.limit_bytes
    estimates: _Estimates = {}
    shift = 0.0
    first = _first_affordable(scale, rungs, limit_bytes, shift)
    while first > 0 and (scale.name, rungs[first]) not in estimates:
        rung = rungs[first]
        estimate = yield from surveyed(scale, rung, state, shift)
        estimates[scale.name, rung] = estimate
        shift = estimate.shift
        needs_pixels = estimate.likeness > rung.ceiling - _NEAR_CEILING
        if needs_pixels and estimate.reaches_start_quality:
            first -= 1
        first = min(first, _first_affordable(scale, rungs, limit_bytes, shift))
    return estimates, first, shift


def _first_affordable(scale: Scale, rungs: Sequence[Rung], limit_bytes: int, shift: float) -> int:
    """The index of the most pixels at which the start quality is expected to fit, for a photo that
    is heavier than the known curve by `shift`; of the fewest where none is."""
    for index, rung in enumerate(rungs):
        if scale.log_sizes(rung)[scale.start_step] + shift <= math.log(limit_bytes):
            return index
    return len(rungs) - 1


def surveyed(
    scale: Scale,
    rung: Rung,
    state: LimitSearch,
    shift: float,
    *,
    near: float = _NEAR,
    to_beat: float = -math.inf,
) -> TrialSearch[Estimate]:
    """The estimate of a mode at one pixel count, from a trial where the limit is expected, and more
    of them until one is `near` the limit, the quality there is below the start quality and the
    trial not far from it, or the likeness far below the one to beat."""
    log_limit = math.log(state.limit_bytes)
    if scale.name == "png":
        near = min(near, _NEAR_IN_PALETTES)
    measured: dict[int, Measured] = {}
    known: dict[int, Measured] = {}
    log_sizes = [log_size + shift for log_size in scale.log_sizes(rung)]
    step = max(scale.lowest_step, _largest_fitting(log_sizes, log_limit))
    while step not in measured and len(measured) < MOST_AT_A_PLACE:
        is_first = not shift and not measured
        judged = scale.survey_trial(step, rung)
        trial = scale.first_trial(step, rung) if is_first else judged
        measured[step] = state.corrected(trial, (yield trial))
        if trial == scale.trial(step, rung):
            known[step] = measured[step]
        if trial != judged and scale.format == "jpeg":  # by a part as well, as others are judged
            measured[step] = state.corrected(judged, (yield judged))
        distance = abs(_full_effort_log_size(scale, step, measured[step]) - log_limit)
        log_sizes = _corrected(scale, rung, measured, log_limit)
        step = _largest_fitting(log_sizes, log_limit)
        nearest = [measured[each] for each in _nearest_first(scale, measured, log_limit)]
        promised = likeness_at(nearest, log_limit, scale, rung)
        is_hopeless = 100 - promised > _HOPELESS * (100 - to_beat)
        is_ruined = step < scale.start_step and distance <= _FAR
        if distance <= near or is_hopeless or is_ruined:
            break
    return _estimated(scale, rung, measured, known, log_sizes, log_limit)


def _estimated(
    scale: Scale,
    rung: Rung,
    measured: dict[int, Measured],
    known: dict[int, Measured],
    log_sizes: list[float],
    log_limit: float,
) -> Estimate:
    """The estimate that measurements lead to, where a step is worth offering that fits, by the
    corrected curve or by a trial of its own."""
    nearest = _nearest_first(scale, measured, log_limit)
    fitting = (
        step
        for step, each in measured.items()
        if _full_effort_log_size(scale, step, each) <= log_limit
    )
    lowest = log_sizes[scale.lowest_step]
    step = max(_largest_fitting(log_sizes, log_limit), *fitting, -1)
    fits = step >= scale.lowest_step
    likeness = -math.inf
    if fits or lowest <= log_limit + _TOO_HEAVY:
        step = max(step, scale.lowest_step)
        most = max(lowest, min(log_limit, log_sizes[-1]))
        # Where the largest step leaves much of the limit, slightly fewer pixels use some of it.
        log_size = (log_sizes[step] + most) / 2 + scale.draft_excess(step)
        likeness = likeness_at([measured[each] for each in nearest], log_size, scale, rung)
    return Estimate(
        scale=scale,
        rung=rung,
        log_sizes=log_sizes,
        shift=log_sizes[nearest[0]] - scale.log_sizes(rung)[nearest[0]],
        likeness=likeness,
        reaches_start_quality=fits and step >= scale.start_step,
        fits=fits,
        known=known,
    )


def _largest_fitting(log_sizes: Sequence[float], log_limit: float) -> int:
    """The largest step whose expected size fits; -1 where none does."""
    return bisect_right(log_sizes, log_limit) - 1


def _full_effort_log_size(scale: Scale, step: int, measured: Measured) -> float:
    """The size that a trial predicts at full effort, as its natural logarithm."""
    return math.log(measured.size_bytes) - scale.draft_excess(step)


def _nearest_first(scale: Scale, measured: dict[int, Measured], log_limit: float) -> list[int]:
    """The measured steps, the one nearest to the limit first."""

    def distance(step: int) -> float:
        return abs(_full_effort_log_size(scale, step, measured[step]) - log_limit)

    return sorted(measured, key=distance)


def _corrected(
    scale: Scale, rung: Rung, measured: dict[int, Measured], log_limit: float
) -> list[float]:
    """The known curve through the measurement nearest to the limit, and as steep as between the two
    nearest."""
    curve = scale.log_sizes(rung)
    anchor, *others = _nearest_first(scale, measured, log_limit)
    at_anchor = _full_effort_log_size(scale, anchor, measured[anchor])
    slope = 1.0
    if others and curve[others[0]] != curve[anchor]:
        rise = _full_effort_log_size(scale, others[0], measured[others[0]]) - at_anchor
        low, high = _SLOPES
        slope = min(max(rise / (curve[others[0]] - curve[anchor]), low), high)
    return [at_anchor + slope * (log_size - curve[anchor]) for log_size in curve]
