"""Framing as values: turn, straighten, crop, resampling, sharpening, colours and metadata.

No pixels here: `plan` computes which pixels these values select, and `frame` makes them. A crop and
a focus point are in the *turned* picture: the upright original after quarter turns and flips.
Turning or flipping moves them along, so that the same part of the photo stays framed.
"""

import re
from dataclasses import dataclass, replace
from typing import Literal

from lean_parcel.core.errors import UsageError
from lean_parcel.core.metadata.policy import MetadataPolicy
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.gamut import Gamut
from lean_parcel.core.picture.orientation import (
    ANTICLOCKWISE,
    CLOCKWISE,
    MIRRORED,
    UPRIGHT,
    combined,
    is_mirrored,
    shown_box,
    shown_size_px,
)
from lean_parcel.core.picture.resample import Kernel, Light
from lean_parcel.core.picture.sharpen import Sharpen

MAX_STRAIGHTEN_DEG = 15.0
Turn = Literal["left", "right", "flip"]
TURNS: dict[Turn, int] = {"left": ANTICLOCKWISE, "right": CLOCKWISE, "flip": MIRRORED}
_COLOUR = re.compile(r"#[0-9a-f]{6}")


@dataclass(frozen=True, slots=True, kw_only=True)
class Focus:
    """The point of the turned picture that *cover* keeps in sight, 0 to 1 each way."""

    x: float = 0.5
    y: float = 0.5

    def __post_init__(self) -> None:
        if not (0 <= self.x <= 1 and 0 <= self.y <= 1):
            raise UsageError("A focus point lies in the picture, 0 to 1 each way.", "invalid_focus")


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
    by = TURNS[turn]
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


def background_behind(framing: Framing, *, is_transparent: bool) -> str:
    """The colour that fills transparency in JPEG; the same for all pictures without any, so that
    their files are the same."""
    return framing.background if is_transparent else Framing().background


def carried_over(framing: Framing) -> Framing:
    """What of a framing others can have too: everything but turns, crop, straightening, focus and
    enlarging, which depend on the single picture."""
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
