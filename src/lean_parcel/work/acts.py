"""Acts on what is decided about a photo: from the changes that a person asks for to a new state."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any

from lean_parcel.core.framing import Framing, Turn, cropped, turned
from lean_parcel.core.journal import State
from lean_parcel.core.orientation import Box
from lean_parcel.store.photos import Photo

Act = Callable[[State, Photo], State]
_PLACE_FIELDS = ("css_width_px", "css_height_px", "fit", "density")


def aiming(changes: Mapping[str, Any]) -> Act:
    """Replaces fields of the aim, and of its place, by name. The act raises UsageError for values
    that cannot be."""

    def act(state: State, photo: Photo) -> State:
        aim = state.aim
        of_place = {name: value for name, value in changes.items() if name in _PLACE_FIELDS}
        rest = {name: value for name, value in changes.items() if name not in of_place}
        return replace(state, aim=replace(aim, place=replace(aim.place, **of_place), **rest))

    return act


def reframing(changes: Mapping[str, Any], *, turn: Turn | None, crops: bool) -> Act:
    """Turns, then crops where `crops` is set (to `crop`, or to none), then replaces the other
    fields of the framing by name. The act raises UsageError for values that cannot be."""

    def act(state: State, photo: Photo) -> State:
        size_px = photo.source.width_px, photo.source.height_px
        framing = turned(state.framing, turn, *size_px) if turn else state.framing
        rest = dict(changes)
        crop: Box | None = rest.pop("crop", None)
        if crops:
            framing = cropped(framing, crop, *size_px)
        return replace(state, framing=replace(framing, **rest))

    return act


def unframing(state: State, photo: Photo) -> State:
    """Takes back what was done to this very picture: turns, crop, straightening, focus."""
    plain = Framing()
    return replace(
        state,
        framing=replace(
            state.framing,
            orientation=plain.orientation,
            straighten_deg=plain.straighten_deg,
            crop=plain.crop,
            focus=plain.focus,
        ),
    )
