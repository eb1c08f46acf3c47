"""The refinement of a search by limit: pixel counts between the measured ones.

After a survey the best mode's likeness at the limit is known at a few pixel counts. It rises
and falls once, so its top is searched: along the parabola through the three points
around the best (Brent, Algorithms for Minimization without Derivatives, 1973, chapter 5), and
where one of them is missing, a golden section away (Kiefer, 1953). Where the best quality leaves
part of the limit, more pixels fill it.
"""

import math
from collections.abc import Iterable
from dataclasses import replace

from lean_parcel.core.candidates.trial import Measured
from lean_parcel.core.search.by_limit.limit_search import LimitSearch
from lean_parcel.core.search.by_limit.survey import Estimate, surveyed
from lean_parcel.core.search.ladder import Rung, rung_at
from lean_parcel.core.search.protocol import TrialSearch

#: Pixel counts of a refinement at most, and of the trials that a search spends, those kept for the
#: end.
_MOST, _KEPT = 3, 6
#: Pixel counts whose widths are no further apart than this factor, as its logarithm, are one.
_STEP = math.log(1.02)
#: A pixel count is measured only where the parabola promises to gain so much.
_WORTHWHILE = 0.15
#: How near to the limit a trial has to be, as the logarithm of the factor: closer than in a
#: survey, since neighbours differ less.
_NEAR = 0.12
_GOLDEN = (3 - math.sqrt(5)) / 2
#: Bytes grow with the width to a power of 1.3 to 1.9 (probes of the demo photos at 480 px): those
#: that are sure to fit where a picture becomes narrower, and wider; and how much narrower still it
#: is made.
_NARROWER, _WIDER, _MARGIN = 1.5, 1.9, 0.003
#: Slightly fewer than all pixels cost 2 to 60 points (medians of 357 pairs of encodes of demo
#: photos and made-up pictures, in groups), unless three quarters of the width leave so much
#: likeness, or the picture is ruined.
_SMOOTH, _UNSEEN = 85, 40


def refined(
    place: Estimate, estimates: Iterable[Estimate], state: LimitSearch
) -> TrialSearch[Estimate]:
    """A place with the best pixel count of its mode, from its own to its neighbours among the
    measured rungs; all pixels are a case of their own, since even slightly fewer lose some
    sharpness at once."""
    rungs = state.rungs
    if place.rung == state.full:
        return place
    known = {
        _log_width(each): each
        for each in estimates
        if each.scale.name == place.scale.name
        and each.rung != state.full
        and each.likeness > -math.inf
        and (each.reaches_start_quality or each == place)
    }
    index = next(i for i, rung in enumerate(rungs) if rung.width_px == place.rung.width_px)
    more = index if place.has_pixels_enough else max(index - 1, 0)
    high = math.log(rungs[more].width_px)
    low = math.log(rungs[min(index + 1, len(rungs) - 1)].width_px)
    best = place
    # A part takes nearly as long as a palette as such, and that may be the one that is wanted.
    scale = replace(place.scale, by_part=False) if place.scale.name == "png" else place.scale
    for done in range(min(int(state.left(_KEPT)), _MOST)):
        if state.rules.takes_first and _is_filling(best, state):
            break
        wanted = _filling_log_width(best, state.limit_bytes, high)
        if wanted is None and place.scale.by_part and place.scale.name == "png":
            wanted = _filling_from_below(best, known, state.limit_bytes)
        if wanted is None and done < state.rules.refinements:
            wanted = _next_log_width({at: e.likeness for at, e in known.items()}, low, high)
        if wanted is None:
            break
        rung = rung_at(rungs, math.exp(wanted))
        estimate = yield from surveyed(scale, rung, state, best.shift, near=_NEAR)
        known[_log_width(estimate)] = estimate
        best = max(known.values(), key=lambda each: each.likeness)
    return best


def _is_filling(place: Estimate, state: LimitSearch) -> bool:
    """Whether an encode of a place fits and fills the limit."""
    least_bytes = state.rules.filling * state.limit_bytes
    return any(least_bytes <= e.size_bytes <= state.limit_bytes for e in place.known.values())


def _filling_log_width(place: Estimate, limit_bytes: int, high: float) -> float | None:
    """Where the last step of a place's mode, the best it has, fills the limit, if that is with more
    pixels: as the logarithm of the width."""
    left = math.log(limit_bytes) - place.log_sizes[-1]
    wanted = min(_log_width(place) + left / _WIDER, high)
    return wanted if wanted - _log_width(place) > _STEP else None


def _filling_from_below(
    best: Estimate, known: dict[float, Estimate], limit_bytes: int
) -> float | None:
    """Where the most colours fill the limit, if that is between the best pixel count and the next
    fewer, at which they leave some of it: as the logarithm of the width."""
    at = _log_width(best)
    below = max((width for width in known if width < at), default=None)
    if below is None:
        return None
    wanted = _filling_log_width(known[below], limit_bytes, at)
    return wanted if wanted is not None and at - wanted > _STEP else None


def fitting_rung(rung: Rung, measured: Measured, state: LimitSearch) -> Rung | None:
    """As many pixels as fit, given what those of a rung come to; None where that is more or fewer
    than any candidate has, or where the first pixels that are left out cost too much."""
    rungs, limit_bytes = state.rungs, state.limit_bytes
    is_fine = len(rungs) > 1 and rungs[1].ceiling < _SMOOTH
    if rung == state.full and is_fine and measured.likeness > _UNSEEN:
        return None
    power = _NARROWER if measured.size_bytes > limit_bytes else _WIDER
    most_px = rung.width_px * ((limit_bytes / measured.size_bytes) ** (1 / power) - _MARGIN)
    is_possible = rungs[-1].width_px <= most_px < state.full.width_px
    return rung_at(rungs, most_px) if is_possible else None


def _log_width(estimate: Estimate) -> float:
    return math.log(estimate.rung.width_px)


def _next_log_width(likeness: dict[float, float], low: float, high: float) -> float | None:
    """Where to measure next, as the logarithm of the width; None where nothing more is to be
    gained."""
    best = max(likeness, key=lambda at: likeness[at])
    below = max((at for at in likeness if at < best), default=None)
    above = min((at for at in likeness if at > best), default=None)
    if above is None and high - best > _STEP:
        return best + _GOLDEN * (high - best)
    if below is None and best - low > _STEP:
        return best - _GOLDEN * (best - low)
    if below is None or above is None:
        side = below if above is None else above
        if side is None or abs(best - side) < 2 * _STEP or len(likeness) > 2:
            return None
        return best + _GOLDEN * (side - best)
    top, gain = _top_of_parabola(
        (below, likeness[below]), (best, likeness[best]), (above, likeness[above])
    )
    is_new = min(abs(top - at) for at in likeness) > _STEP
    return top if is_new and gain > _WORTHWHILE else None


_Point = tuple[float, float]


def _top_of_parabola(below: _Point, best: _Point, above: _Point) -> tuple[float, float]:
    """Where the parabola through three points is highest, and by how much it is higher there than
    at the middle one, which is the highest of them."""
    (x0, y0), (x1, y1), (x2, y2) = below, best, above
    left, right = (y1 - y0) / (x1 - x0), (y2 - y1) / (x2 - x1)
    bend = (right - left) / (x2 - x0)
    if bend >= 0:
        return x1, 0.0
    slope = left + bend * (x1 - x0)
    top = x1 - slope / (2 * bend)
    return top, -(slope**2) / (4 * bend)
