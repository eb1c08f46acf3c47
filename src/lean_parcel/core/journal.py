"""The state of a photo, and what changed between two of them, in words.

A journal entry holds the whole state after an act, so that undo, redo and going back are one thing:
another entry becomes the current one.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from lean_parcel.core.aim import Aim
from lean_parcel.core.framing import Framing, Sharpen, Size
from lean_parcel.core.orientation import Box
from lean_parcel.core.place import Place
from lean_parcel.core.size import format_size

_LYING = {
    1: "as it came",
    2: "flipped",
    3: "turned upside down",
    4: "upside down, flipped",
    5: "turned left, flipped",
    6: "turned right",
    7: "turned right, flipped",
    8: "turned left",
}
_POLICIES = {
    "nothing": "nothing",
    "credit": "credit only",
    "no-position": "all but position",
    "everything": "everything",
}
_KERNELS = {
    "lanczos3": "Lanczos 3",
    "mitchell": "Mitchell",
    "catmull-rom": "Catmull-Rom",
    "linear": "linear",
    "nearest": "nearest",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class State:
    """All that a person decides about a photo."""

    framing: Framing
    aim: Aim
    picked_encode_id: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Difference:
    """One thing that differs between two states, in words."""

    topic: str
    before: str
    after: str


def differences(before: State, after: State) -> tuple[Difference, ...]:
    """What differs, in the order of the work."""
    named = zip(_described(before), _described(after), strict=True)
    return tuple(
        Difference(topic=topic, before=old, after=new)
        for (topic, old), (_, new) in named
        if old != new
    )


def act_words(before: State, after: State) -> str:
    """An act in one line; empty where nothing changed. What a change put back along with it goes
    without saying."""
    changes = [d for d in differences(before, after) if d.topic != "Pick"] or differences(
        before, after
    )
    return "; ".join(f"{change.topic}: {change.after}" for change in changes)


def _described(state: State) -> Iterator[tuple[str, str]]:
    framing, aim = state.framing, state.aim
    yield "Turn", _LYING[framing.orientation]
    yield "Straighten", f"{framing.straighten_deg:g}°"
    yield "Crop", _crop_words(framing.crop)
    yield "Focus", f"{framing.focus.x:.0%} across, {framing.focus.y:.0%} down"
    yield "Size", _size_words(framing.size)
    yield "Enlarging", "insisted upon" if framing.may_enlarge else "refused"
    yield "Place", _place_words(aim.place)
    yield "Resample", f"{_KERNELS[framing.kernel]}, {_light_words(framing)}"
    yield "Sharpen", _sharpen_words(framing.sharpen)
    yield "Colours", "Display P3" if framing.gamut == "display-p3" else "sRGB"
    yield "Background", framing.background + (", filled in" if framing.fills_background else "")
    yield "Metadata", _POLICIES[framing.metadata]
    yield "Limit", _limit_words(aim.limit_bytes)
    yield "Aim", "bytes" if aim.likeness is None else f"likeness {aim.likeness:g} or more"
    yield "Formats", ", ".join(aim.formats)
    yield "Pick", f"candidate {state.picked_encode_id}" if state.picked_encode_id else "none"


def _light_words(framing: Framing) -> str:
    return "linear light" if framing.light == "linear" else "gamma space"


def _crop_words(crop: Box | None) -> str:
    if crop is None:
        return "none"
    return f"{crop.width_px} × {crop.height_px} at {crop.left_px}, {crop.top_px}"


def _size_words(size: Size) -> str:
    match size.by:
        case "place":
            return "by its place"
        case "width":
            return f"{size.width_px} px wide"
        case "height":
            return f"{size.height_px} px high"
        case "longest":
            return f"longest side {size.longest_px} px"
        case "percent":
            return f"{size.percent:g} %"
        case "box":
            return f"{size.width_px} × {size.height_px} px, {size.fit}"


def _place_words(place: Place) -> str:
    height = f" × {place.css_height_px}" if place.css_height_px else ""
    fit = f", {place.fit}" if place.css_height_px else ""
    return f"{place.css_width_px}{height} px at {place.density:g}×{fit}"


def _sharpen_words(sharpen: Sharpen) -> str:
    if sharpen.amount_percent is None:
        amount = "by the reduction"
    elif sharpen.amount_percent == 0:
        return "off"
    else:
        amount = f"{sharpen.amount_percent:g} %"
    return f"{amount}, radius {sharpen.radius_px:g} px, threshold {sharpen.threshold_codes:g}"


def _limit_words(limit_bytes: int) -> str:
    return format_size(limit_bytes) if limit_bytes % 100 == 0 else f"{limit_bytes:,} B"
