"""Framing as values: turn, straighten, crop, size, resampling, sharpening, colours and metadata.

Nothing here touches a pixel: `plan` says which pixels these values come to, `frame` makes them.
A crop and a focus point lie in the *turned* picture: the upright original after quarter turns and
flips. Turning or flipping takes them along, so that the same part of the photo stays framed.
"""

import re
from dataclasses import dataclass, replace
from typing import Literal

from lean_parcel.core.errors import UsageError
from lean_parcel.core.orientation import (
    ANTICLOCKWISE,
    CLOCKWISE,
    MIRRORED,
    UPRIGHT,
    Box,
    combined,
    is_mirrored,
    shown_box,
    shown_size_px,
)
from lean_parcel.core.place import MAX_SIDE_PX, Fit

MAX_STRAIGHTEN_DEG = 15.0
MAX_PERCENT = 400.0
SizeBy = Literal["place", "width", "height", "longest", "percent", "box"]
Kernel = Literal["lanczos3", "mitchell", "catmull-rom", "linear", "nearest"]
Light = Literal["linear", "gamma"]
Gamut = Literal["srgb", "display-p3"]
MetadataPolicy = Literal["nothing", "credit", "no-position", "everything"]
Turn = Literal["left", "right", "flip"]
_TURNS: dict[Turn, int] = {"left": ANTICLOCKWISE, "right": CLOCKWISE, "flip": MIRRORED}
_COLOUR = re.compile(r"#[0-9a-f]{6}")


@dataclass(frozen=True, slots=True, kw_only=True)
class Size:
    """How many pixels a framed photo has, and what decides it.

    By its `place`; by exact `width_px`, `height_px` or `longest_px`; by `percent` of what was kept
    of the photo; or by a `box` of exact width and height, which it covers or is contained in.
    What another way needs may be set too, and is remembered.
    """

    by: SizeBy = "place"
    width_px: int | None = None
    height_px: int | None = None
    longest_px: int | None = None
    percent: float | None = None
    fit: Fit = "cover"

    def __post_init__(self) -> None:
        needed = {
            "place": (),
            "width": (self.width_px,),
            "height": (self.height_px,),
            "longest": (self.longest_px,),
            "percent": (self.percent,),
            "box": (self.width_px, self.height_px),
        }[self.by]
        sides_px = (self.width_px, self.height_px, self.longest_px)
        is_in_range = all(side is None or 1 <= side <= MAX_SIDE_PX for side in sides_px) and (
            self.percent is None or 0 < self.percent <= MAX_PERCENT
        )
        if None in needed or not is_in_range:
            raise UsageError(
                f"A size is 1 to {MAX_SIDE_PX:,} pixels a side, or up to {MAX_PERCENT:.0f} %.",
                "invalid_size",
            )


@dataclass(frozen=True, slots=True, kw_only=True)
class Focus:
    """The point of the turned picture that *cover* keeps in sight, 0 to 1 each way."""

    x: float = 0.5
    y: float = 0.5

    def __post_init__(self) -> None:
        if not (0 <= self.x <= 1 and 0 <= self.y <= 1):
            raise UsageError("A focus point lies in the picture, 0 to 1 each way.", "invalid_focus")


@dataclass(frozen=True, slots=True, kw_only=True)
class Sharpen:
    """An unsharp mask on luma, after the resize. `amount_percent` 0 is off, and None goes with how
    far the photo is reduced; `radius_px` is the Gaussian's sigma; what differs by less than
    `threshold_codes` of 255 is left alone."""

    amount_percent: float | None = 0.0
    radius_px: float = 0.7
    threshold_codes: float = 2.0

    def __post_init__(self) -> None:
        is_in_range = (
            (self.amount_percent is None or 0 <= self.amount_percent <= 300)
            and 0.3 <= self.radius_px <= 5
            and 0 <= self.threshold_codes <= 50
        )
        if not is_in_range:
            raise UsageError(
                "Sharpening takes an amount of 0 to 300 %, a radius of 0.3 to 5 pixels and a"
                " threshold of 0 to 50.",
                "invalid_sharpening",
            )


@dataclass(frozen=True, slots=True, kw_only=True)
class Framing:
    """All that happens to a photo before it is encoded.

    `orientation` comes after the file's own; `straighten_deg` turns clockwise about the middle;
    `crop` None keeps everything. `background` (`#rrggbb`) stands behind transparency: in JPEG, or
    in every format where `fills_background` is set.
    """

    orientation: int = UPRIGHT
    straighten_deg: float = 0.0
    crop: Box | None = None
    focus: Focus = Focus()
    size: Size = Size()
    may_enlarge: bool = False
    kernel: Kernel = "lanczos3"
    light: Light = "linear"
    sharpen: Sharpen = Sharpen()
    background: str = "#ffffff"
    fills_background: bool = False
    gamut: Gamut = "srgb"
    metadata: MetadataPolicy = "credit"

    def __post_init__(self) -> None:
        if not 1 <= self.orientation <= 8:
            raise UsageError("An orientation is 1 to 8.", "invalid_orientation")
        if not abs(self.straighten_deg) <= MAX_STRAIGHTEN_DEG:
            raise UsageError(
                f"A photo is straightened by up to {MAX_STRAIGHTEN_DEG:.0f} degrees either way.",
                "invalid_angle",
            )
        if not _COLOUR.fullmatch(self.background):
            raise UsageError(
                f"“{self.background}” is not a colour. Write it like #f4f1ea.", "invalid_colour"
            )


def turned(framing: Framing, turn: Turn, width_px: int, height_px: int) -> Framing:
    """A framing after a quarter turn or a flip of what it shows: the same part of the photo, turned
    exactly. `width_px` and `height_px` are those of the upright original."""
    by = _TURNS[turn]
    size_px = shown_size_px(width_px, height_px, framing.orientation)
    crop = framing.crop and shown_box(framing.crop, by, *size_px)
    return replace(
        framing,
        orientation=combined(framing.orientation, by),
        straighten_deg=-framing.straighten_deg if is_mirrored(by) else framing.straighten_deg,
        crop=crop,
        focus=_turned_focus(framing.focus, turn),
    )


def _turned_focus(focus: Focus, turn: Turn) -> Focus:
    match turn:
        case "left":
            return Focus(x=focus.y, y=1 - focus.x)
        case "right":
            return Focus(x=1 - focus.y, y=focus.x)
        case "flip":
            return Focus(x=1 - focus.x, y=focus.y)


def cropped(framing: Framing, crop: Box | None, width_px: int, height_px: int) -> Framing:
    """A framing with another crop, or none. Raises UsageError `invalid_crop` where it does not lie
    in the turned picture; `width_px` and `height_px` are those of the upright original."""
    turned_width_px, turned_height_px = shown_size_px(width_px, height_px, framing.orientation)
    if crop is not None:
        is_inside = (
            min(crop.left_px, crop.top_px) >= 0
            and min(crop.width_px, crop.height_px) >= 1
            and crop.left_px + crop.width_px <= turned_width_px
            and crop.top_px + crop.height_px <= turned_height_px
        )
        if not is_inside:
            raise UsageError(
                f"A crop lies within the {turned_width_px} × {turned_height_px} pixels"
                " of the picture.",
                "invalid_crop",
            )
        if (crop.width_px, crop.height_px) == (turned_width_px, turned_height_px):
            crop = None
    return replace(framing, crop=crop)


def carried_over(framing: Framing) -> Framing:
    """What the next photo takes of a framing: everything that is not about this very picture."""
    return replace(
        framing,
        orientation=UPRIGHT,
        straighten_deg=0.0,
        crop=None,
        focus=Focus(),
        may_enlarge=False,
    )


#: Where a first photo starts.
FIRST_FRAMING = Framing(sharpen=Sharpen(amount_percent=None))
