"""The journal of a photo: what changed between two states, in words, and which entries led where.

A journal entry holds the whole state after an act, so undo, redo and going back are the same
operation: another entry becomes the current one.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.marks import Mark
from lean_parcel.core.decisions.state import Setting, State
from lean_parcel.core.decisions.treatment import Treatment
from lean_parcel.core.decisions.variants import RULE_NAMES, Variants
from lean_parcel.core.formats import FORMAT_NAMES
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.likeness.levels import LEVELS
from lean_parcel.core.metadata.policy import POLICY_NAMES
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.sharpen import Sharpen
from lean_parcel.core.size import format_size

#: Of a journal's entry: whether it led to the current one, is it, or did not lead to it.
EntryStatus = Literal["done", "current", "undone"]
_ORIENTATIONS = {
    1: "as it came",
    2: "flipped",
    3: "turned upside down",
    4: "upside down, flipped",
    5: "turned left, flipped",
    6: "turned right",
    7: "turned right, flipped",
    8: "turned left",
}
_FOLLOWS = "As its page"
_SETTING_NAMES: dict[Setting, str] = {
    "size": "size",
    "density": "density",
    "limit_bytes": "at most",
    "likeness": "looks",
    "formats": "formats",
    "metadata": "metadata",
}
_KERNELS = {
    "lanczos3": "Lanczos 3",
    "mitchell": "Mitchell",
    "catmull-rom": "Catmull-Rom",
    "linear": "linear",
    "nearest": "nearest",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Difference:
    """One thing that differs between two states, in words."""

    topic: str
    before: str
    after: str


#: Where nobody will read what a pick is called.
NO_FILES: Mapping[int, str] = {}


def differences(
    before: State, after: State, files: Mapping[int, str] = NO_FILES
) -> tuple[Difference, ...]:
    """What differs, in the order of the work; `files` has words for picks, by encode."""
    named = zip(_described(before, files), _described(after, files), strict=True)
    return tuple(
        Difference(topic=topic, before=old, after=new)
        for (topic, old), (_, new) in named
        if old != new
    )


def change_words(before: State, after: State) -> str:
    """What changed, in one line; empty where nothing did. A pick that was put back because of
    another change is not mentioned."""
    changes = differences(before, after)
    told = tuple(change for change in changes if change.topic != _FOLLOWS)
    changes = told or changes  # what follows from a change is not told with it
    others = tuple(change for change in changes if change.topic not in ("Pick", "Reason"))
    if not others and after.picked_encode_id is None and before.picked_encode_id is not None:
        return "Put the pick back"
    changes = tuple(change for change in changes if change.topic != "Pick") or changes
    return "; ".join(f"{change.topic}: {change.after}" for change in changes)


def treatment_words(treatment: Treatment) -> str:
    """What a treatment does, in one line."""
    framing, aim = treatment.framing, treatment.aim
    formats = ", ".join(FORMAT_NAMES[name] for name in aim.formats)
    formats = "formats by the picture" if treatment.by_picture else formats
    held = f"; {_held_words(aim)}" if aim.held else ""
    also = f"; also {_variants_words(aim.variants)}" if aim.variants != Variants() else ""
    single = "; with its crop and marks" if treatment.single else ""
    sharpened = _sharpen_words(framing.sharpen).split(",")[0]
    size = _place_words(aim.place)
    return f"{size}; {aim_words(aim)}; {formats}; sharpening {sharpened}{held}{also}{single}"


def aim_words(aim: Aim) -> str:
    """What a photo may weigh, and how it should look."""
    limit = () if aim.limit_bytes is None else (f"at most {_limit_words(aim.limit_bytes)}",)
    return ", ".join((*limit, f"looks: {_looks_words(aim.likeness)}"))


def _described(state: State, files: Mapping[int, str]) -> Iterator[tuple[str, str]]:
    framing, aim = state.framing, state.aim
    yield "Turn", _ORIENTATIONS[framing.orientation]
    yield "Straighten", f"{framing.straighten_deg:g}°"
    yield "Crop", _crop_words(framing.crop)
    yield "Focus", f"{framing.focus.x:.0%} across, {framing.focus.y:.0%} down"
    yield "Size", _place_words(aim.place)
    yield "Enlarging", "allowed" if framing.may_enlarge else "refused"
    yield "Fewer pixels", _fewer_words(aim)
    yield "Resample", f"{_KERNELS[framing.kernel]}, {_light_words(framing)}"
    yield "Sharpen", _sharpen_words(framing.sharpen)
    yield "Colours", "Display P3" if framing.gamut == "display-p3" else "sRGB"
    yield "Background", framing.background + (", filled in" if framing.fills_background else "")
    yield "Metadata", POLICY_NAMES[framing.metadata].lower()
    yield "At most", "no limit" if aim.limit_bytes is None else _limit_words(aim.limit_bytes)
    yield "Looks", _looks_words(aim.likeness)
    yield "Formats", ", ".join(FORMAT_NAMES[name] for name in aim.formats)
    yield "Held knobs", _held_words(aim)
    yield "Variants", _variants_words(aim.variants)
    yield _FOLLOWS, ", ".join(_SETTING_NAMES[name] for name in state.follows) or "nothing"
    yield "Marks", _marks_words(state.marks)
    yield "Own eye", state.outcomes[-1].words if state.outcomes else "nothing tried"
    picked_id = state.picked_encode_id
    yield "Pick", files.get(picked_id, f"file {picked_id}") if picked_id else "none"
    yield "Chosen variants", _variant_picks_words(state)
    yield "Reason", state.reason or "none"


def _variants_words(variants: Variants) -> str:
    densities = ", ".join(f"{density:g}×" for density in variants.densities)
    formats = ", ".join(FORMAT_NAMES[name] for name in variants.formats or ())
    what = [each for each in (densities, formats) if each]
    limits = "".join(
        f"; at most {_limit_words(each.limit_bytes)} at {each.density:g}×"
        for each in variants.limits
    )
    made = "; ".join(what) or "what opens everywhere"
    return f"{made}; to {RULE_NAMES[variants.rule]}{limits}"


def _variant_picks_words(state: State) -> str:
    picks = [f"{FORMAT_NAMES[pick.format]} at {pick.density:g}×" for pick in state.variant_picks]
    return ", ".join(picks) or "none"


def _held_words(aim: Aim) -> str:
    held = [
        f"{FORMAT_NAMES[name]} {field.replace('_', ' ')} {value}"
        for name, values in aim.held.items()
        for field, value in values.items()
    ]
    return ", ".join(held) or "none"


def _marks_words(marks: tuple[Mark, ...]) -> str:
    if not marks:
        return "none"
    matter = sum(mark.matters for mark in marks)
    told = [
        f"{count} that {words}"
        for count, words in (
            (matter, "matters" if matter == 1 else "matter"),
            (len(marks) - matter, "does not" if len(marks) - matter == 1 else "do not"),
        )
        if count
    ]
    return ", ".join(told)


def _light_words(framing: Framing) -> str:
    return "linear light" if framing.light == "linear" else "gamma space"


def _crop_words(crop: Box | None) -> str:
    if crop is None:
        return "none"
    return f"{crop.width_px} × {crop.height_px} at {crop.left_px}, {crop.top_px}"


def _place_words(place: Place) -> str:
    """How large a photo stands, and on how dense a screen."""
    judged = ", judged pixel by pixel" if place.pixel_by_pixel else ""
    return f"{place.size} at {place.density:g}×{judged}"


def _fewer_words(aim: Aim) -> str:
    if aim.fewer_pixels is None:
        return "by the size"
    return "allowed" if aim.fewer_pixels else "refused"


def _sharpen_words(sharpen: Sharpen) -> str:
    if sharpen.amount_percent is None:
        amount = "by the reduction"
    elif sharpen.amount_percent == 0:
        return "off"
    else:
        amount = f"{sharpen.amount_percent:g} %"
    return f"{amount}, radius {sharpen.radius_px:g} px, threshold {sharpen.threshold_codes:g}"


def _looks_words(likeness: float | None) -> str:
    if likeness is None:
        return "the best it can"
    level = next((each.words for each in LEVELS if each.least == likeness), None)
    return level or f"likeness {likeness:g}"


def _limit_words(limit_bytes: int) -> str:
    return format_size(limit_bytes) if limit_bytes % 100 == 0 else f"{limit_bytes:,} B"


def entry_statuses(parents: Mapping[int, int | None], current_id: int) -> dict[int, EntryStatus]:
    """The status of each entry, from the parent of each, which is None for the first."""
    statuses: dict[int, EntryStatus] = dict.fromkeys(parents, "undone")
    at: int | None = current_id
    while at is not None:
        statuses[at] = "done"
        at = parents[at]
    statuses[current_id] = "current"
    return statuses
