"""The survey before a fit: which mode and pixel count of a format are worth encoding well.

A draft is a cheap encode of the same kind: the same quality, less effort, and so some more bytes.
How two modes compare at equal bytes is nearly the same in drafts as in earnest, at a fraction of
the time. So each mode is drafted at the limit, with the most pixels that leave it a quality to
speak of, then the best of them with fewer and fewer pixels, until that no longer improves; where
one draft landed says where the next begins. Pixel counts whose ceiling is below what was found are
not encoded at all.
"""

import math
from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, field

from lean_parcel.core.scales import Scale
from lean_parcel.core.steps import Steps
from lean_parcel.core.trial import Measured, Rung, trial_at

#: Drafts of one mode and pixel count, and how near to the limit one is near enough, as the
#: logarithm of the factor.
MOST_DRAFTS = 3
_NEAR = 0.3
#: The same where a draft is no cheaper, and the likeness less steady.
_NEAR_IN_EARNEST = 0.08
#: Where a draft comes this near to its rung's ceiling, it is pixels that are wanting.
_NEAR_CEILING = 5.0
#: How much slower or faster than usual two drafts may say that damage goes with bytes.
_DECAYS = (0.1, 2.5)
#: Damage that is as good as none.
_NO_DAMAGE = 0.01
#: How much flatter or steeper than the known curve two drafts may say that the bytes rise.
_BENDS = (0.5, 2.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Estimate:
    """What a mode is expected to come to at a limit and a pixel count: the natural logarithm of the
    bytes of each of its steps, rising, as drafts have corrected it; its `likeness`, minus infinity
    where nothing worth a look fits or nothing was drafted; whether that is at a quality to speak
    of; and the steps that are `known` in earnest, since for some modes a draft is no cheaper."""

    scale: Scale
    rung: Rung
    log_sizes: list[float]
    likeness: float = -math.inf
    is_worth_beginning: bool = False
    known: dict[int, Measured] = field(default_factory=dict)


_Found = dict[tuple[str, Rung], Estimate]


def survey(
    scales: Sequence[Scale], rungs: Sequence[Rung], limit_bytes: int
) -> Steps[list[Estimate]]:
    """Estimates of all modes and pixel counts that were drafted, the most promising first."""
    found, first, shift = yield from _began(scales[0], rungs, limit_bytes)
    best = -math.inf
    for rung in rungs[first:]:
        if rung.ceiling <= best:
            break
        for scale in scales:
            if (scale.name, rung) not in found:
                estimate, shift = yield from _drafted(scale, rung, limit_bytes, shift)
                found[scale.name, rung] = estimate
        leader = max((found[scale.name, rung] for scale in scales), key=_likeness)
        if leader.likeness > -math.inf:
            scales = [leader.scale]
        if leader.is_worth_beginning:
            if leader.likeness <= best:
                break
            best = leader.likeness
    return sorted(found.values(), key=_likeness, reverse=True)


def _began(
    scale: Scale, rungs: Sequence[Rung], limit_bytes: int
) -> Steps[tuple[_Found, int, float]]:
    """Where to begin, with what was drafted for that and the shift it showed: at full pixels, or
    where the known curve leaves them too low a quality, from fewer upwards, for as long as the
    photo turns out lighter, or its drafts lack nothing but pixels."""
    found: _Found = {}
    begin, shift = _first_to_speak_of(scale, rungs, limit_bytes, 0.0), 0.0
    while begin > 0 and (scale.name, rungs[begin]) not in found:
        rung = rungs[begin]
        estimate, shift = yield from _drafted(scale, rung, limit_bytes, shift)
        found[scale.name, rung] = estimate
        is_near_ceiling = estimate.likeness > rung.ceiling - _NEAR_CEILING
        begin = min(
            begin - 1 if is_near_ceiling and estimate.is_worth_beginning else begin,
            _first_to_speak_of(scale, rungs, limit_bytes, shift),
        )
    return found, begin, shift


def _likeness(estimate: Estimate) -> float:
    return estimate.likeness


def _first_to_speak_of(scale: Scale, rungs: Sequence[Rung], limit_bytes: int, shift: float) -> int:
    """The index of the most pixels that a photo so much heavier than the known curve can have at a
    quality to speak of; of the fewest where none can."""
    for index, rung in enumerate(rungs):
        lightest = scale.log_sizes(rung)[scale.lowest_to_begin] + shift
        if lightest <= math.log(limit_bytes):
            return index
    return len(rungs) - 1


def _drafted(
    scale: Scale, rung: Rung, limit_bytes: int, shift: float
) -> Steps[tuple[Estimate, float]]:
    """A mode at one pixel count: a draft where the limit is expected, or some until one is near or
    the quality there is too low to speak of.

    `shift` is by how much the photo is heavier than the scale's known curve, as the logarithm of
    the factor: as the draft before had it, and back as this one has it.
    """
    lowest, log_limit = scale.lowest_worth_a_look, math.log(limit_bytes)
    near = _NEAR if scale.has_drafts else _NEAR_IN_EARNEST
    curve = scale.log_sizes(rung)
    log_sizes = [value + shift for value in curve]
    step = max(lowest, bisect_right(log_sizes, log_limit) - 1)
    drafts: dict[int, Measured] = {}
    logs: dict[int, float] = {}
    nearest: list[int] = []
    while step not in drafts and len(drafts) < MOST_DRAFTS:
        draft = yield trial_at(scale.draft(scale.qualities[step]), rung)
        drafts[step], logs[step] = draft, math.log(draft.size_bytes) - scale.draft_excess(step)
        nearest = sorted(logs, key=lambda step: abs(logs[step] - log_limit))
        log_sizes = _bent(curve, logs, nearest)
        is_near = abs(logs[step] - log_limit) <= near
        step = bisect_right(log_sizes, log_limit) - 1
        if is_near or step < scale.lowest_to_begin:
            break
    step = max(step, *(drafted for drafted in logs if logs[drafted] <= log_limit), -1)
    likeness = -math.inf
    if step >= lowest:
        spent = log_sizes[step] + scale.draft_excess(step)
        likeness = at_bytes([drafts[drafted] for drafted in nearest], spent, scale, rung)
    estimate = Estimate(
        scale=scale,
        rung=rung,
        likeness=likeness,
        is_worth_beginning=step >= scale.lowest_to_begin,
        log_sizes=log_sizes,
        known={} if scale.has_drafts else drafts,
    )
    return estimate, log_sizes[nearest[0]] - curve[nearest[0]]


def _bent(curve: Sequence[float], logs: dict[int, float], nearest: Sequence[int]) -> list[float]:
    """The known curve through the nearest draft, and as steep as between the two nearest."""
    anchor, *others = nearest
    slope = 1.0
    if others and curve[others[0]] != curve[anchor]:
        low, high = _BENDS
        rise = logs[others[0]] - logs[anchor]
        slope = min(max(rise / (curve[others[0]] - curve[anchor]), low), high)
    return [logs[anchor] + slope * (value - curve[anchor]) for value in curve]


def at_bytes(nearest: Sequence[Measured], log_size: float, scale: Scale, rung: Rung) -> float:
    """The likeness to expect at as many bytes, as their logarithm: from the nearest measurement
    along the power law of damage through the next, or else along the usual one."""
    near, *others = nearest
    damage = _log_damage(near.likeness, rung)
    decay = scale.damage_decay
    if others and others[0].size_bytes != near.size_bytes:
        fall = damage - _log_damage(others[0].likeness, rung)
        low, high = (factor * scale.damage_decay for factor in _DECAYS)
        decay = min(max(fall / math.log(others[0].size_bytes / near.size_bytes), low), high)
    return rung.ceiling - math.exp(damage - decay * (log_size - math.log(near.size_bytes)))


def _log_damage(likeness: float, rung: Rung) -> float:
    """The natural logarithm of the damage, which is what a likeness lacks to its rung's ceiling."""
    return math.log(max(rung.ceiling - likeness, _NO_DAMAGE))
