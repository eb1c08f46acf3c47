"""Which variants a photo is handed out in, and what each is searched for.

The pick stands for the density of its place and its own format. For each other density, and each
other format, the photo is searched again: framed to the place at that density, with all of its
pixels, under an aim that follows from its own.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace

from lean_parcel.core.decisions.aim import MAX_LIKENESS, Aim
from lean_parcel.core.decisions.state import State
from lean_parcel.core.decisions.variants import plan_at
from lean_parcel.core.formats import UNIVERSAL_FORMATS, Format
from lean_parcel.core.framing.plan import Plan
from lean_parcel.core.original.source import Source


@dataclass(frozen=True, slots=True, kw_only=True)
class Picked:
    """What variants depend on of a pick: its format and likeness, and whether its photo is
    transparent."""

    format: Format
    likeness: float
    is_transparent: bool


def variant_states(state: State, source: Source, picked: Picked) -> dict[float, State]:
    """The photo at each density at which variants are searched, in their formats, with nothing
    picked. A density that has no pixels of its own is left out, where the original has no more."""
    own = state.aim.place.density
    plans = {own: plan_at(state.framing, state.aim.place, source, own)}
    formats = _formats(state.aim, picked)
    states = {}
    for density in (own, *sorted(set(state.aim.variants.densities) - {own})):
        if density != own:
            plan = plan_at(state.framing, state.aim.place, source, density)
            if _pixels(plan) in [_pixels(other) for other in plans.values()]:
                continue
            plans[density] = plan
        wanted = tuple(name for name in formats if density != own or name != picked.format)
        if wanted:
            share = _area(plans[density]) / _area(plans[own])
            aim = _aim(state.aim, density, wanted, share, picked.likeness)
            states[density] = _state_at(state, aim)
    return states


def variant_keys(
    state: State, states: dict[float, State], picked: Picked
) -> Iterator[tuple[float, Format]]:
    """All that is handed out of a photo, by density and format: the densest first, and in each the
    formats in their order."""
    own = state.aim.place.density
    formats = _formats(state.aim, picked)
    for density in sorted({own, *states}, reverse=True):
        for name in formats:
            is_pick = density == own and name == picked.format
            if is_pick or (density in states and name in states[density].aim.formats):
                yield density, name


def _formats(aim: Aim, picked: Picked) -> tuple[Format, ...]:
    """The formats of each density, that of the pick first."""
    chosen = aim.variants.formats
    if chosen is None:
        fallback: Format = "png" if picked.is_transparent else "jpeg"
        chosen = () if picked.format in UNIVERSAL_FORMATS else (fallback,)
    return (picked.format, *(name for name in chosen if name != picked.format))


def _aim(
    aim: Aim, density: float, formats: tuple[Format, ...], share: float, likeness: float
) -> Aim:
    at = replace(aim, place=aim.place.at(density), formats=formats, fewer_pixels=False)
    match aim.variants.rule:
        case "same":
            pass
        case "pixels":
            if aim.limit_bytes is not None:
                at = replace(at, limit_bytes=max(1, int(aim.limit_bytes * share)))
        case "likeness":
            likeness = min(max(0.0, likeness), MAX_LIKENESS)
            at = replace(at, limit_bytes=None, likeness=likeness)
    own_bytes = aim.variants.limit_at(density)
    return at if own_bytes is None else replace(at, limit_bytes=own_bytes)


def _state_at(state: State, aim: Aim) -> State:
    own = state.aim.place.density
    framing = state.framing
    if aim.place.density != own:
        framing = replace(framing, may_enlarge=False)
    return replace(
        state, framing=framing, aim=aim, picked_encode_id=None, variant_picks=(), reason=""
    )


def _pixels(plan: Plan) -> tuple[int, int]:
    return plan.width_px, plan.height_px


def _area(plan: Plan) -> int:
    return plan.width_px * plan.height_px
