"""The plan of a framing: which part of the photo is used, and how many pixels it becomes.

A Plan holds exactly what decides the pixels of a framed picture, and how they are judged: equal
plans of one original give equal pixels and likenesses, however the size was asked for.
"""

import math
from dataclasses import dataclass, replace
from functools import lru_cache

from lean_parcel.core.errors import UsageError
from lean_parcel.core.framing.dimensions import MAX_SIDE_PX
from lean_parcel.core.framing.framing import Focus, Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.source import Source
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.gamut import Gamut
from lean_parcel.core.picture.orientation import shown_size_px
from lean_parcel.core.picture.resample import Kernel, Light
from lean_parcel.core.picture.sharpen import Sharpen

#: Sharpening that goes with the reduction: this much for each halving, up to a limit. Chosen by eye
#: on the demo photos at actual pixels: it restores what the resize takes, without light edges.
_AUTOMATIC_PERCENT_A_HALVING = 18.0
_AUTOMATIC_MAX_PERCENT = 60.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """`box` of the turned picture, turned by `straighten_deg` about its middle, becomes `width_px`
    x `height_px` pixels; `sharpen` has its amount, and `background` is set where it fills. So many
    pixels as its `density` are judged as one CSS pixel."""

    orientation: int
    straighten_deg: float
    box: Box
    width_px: int
    height_px: int
    kernel: Kernel
    light: Light
    sharpen: Sharpen
    gamut: Gamut
    background: str | None
    density: float = 1.0

    @property
    def reduction(self) -> float:
        """How many times fewer pixels across than the photo has there."""
        return self.box.width_px / self.width_px

    def shows_the_same_as(self, other: "Plan") -> bool:
        """Whether both show the same part of an original, turned alike, at whatever size: what is
        made of one can then be looked at in the place of the other."""
        own, there = ((each.orientation, each.straighten_deg, each.box) for each in (self, other))
        return own == there


@lru_cache(maxsize=4_096)
def plan_framing(source: Source, framing: Framing, place: Place) -> Plan:
    """The plan for an original, made once for each framing and place: with as many pixels as there
    are where the size asks for more and the framing may not enlarge. Raises UsageError
    `invalid_dimensions` where a side would have too many."""
    turned_px = shown_size_px(source.width_px, source.height_px, framing.orientation)
    box = crop_box(source, framing)
    if place.dimensions.is_covered:
        box = _covering(box, place.device_px(box), framing.focus, turned_px)
    width_px, height_px = _target_px(box, place, framing)
    return Plan(
        orientation=framing.orientation,
        straighten_deg=framing.straighten_deg,
        box=box,
        width_px=width_px,
        height_px=height_px,
        kernel=framing.kernel,
        light=framing.light,
        sharpen=_with_amount(framing.sharpen, box.width_px / width_px),
        gamut=framing.gamut,
        background=framing.background if framing.fills_background else None,
        density=place.judged_density(box, width_px),
    )


def automatic_amount_percent(reduction: float) -> float:
    """How much to sharpen after a reduction by this factor a side."""
    halvings = max(0.0, math.log2(reduction))
    return round(min(_AUTOMATIC_MAX_PERCENT, _AUTOMATIC_PERCENT_A_HALVING * halvings))


def _with_amount(sharpen: Sharpen, reduction: float) -> Sharpen:
    """Sharpening with its amount decided; all other values reset where it is off."""
    amount_percent = sharpen.amount_percent
    if amount_percent is None:
        amount_percent = automatic_amount_percent(reduction)
    return replace(sharpen, amount_percent=amount_percent) if amount_percent else Sharpen()


def crop_box(source: Source, framing: Framing) -> Box:
    """The part of the turned picture that is used: the crop, or all of it; where the picture is
    straightened, shrunk about its own centre until no corner is empty."""
    turned_px = shown_size_px(source.width_px, source.height_px, framing.orientation)
    crop = framing.crop or Box(left_px=0, top_px=0, width_px=turned_px[0], height_px=turned_px[1])
    if not framing.straighten_deg:
        return crop
    middle_x = crop.left_px + crop.width_px / 2 - turned_px[0] / 2
    middle_y = crop.top_px + crop.height_px / 2 - turned_px[1] / 2
    share = _share_inside(middle_x, middle_y, crop, turned_px, framing.straighten_deg)
    if share * min(crop.width_px, crop.height_px) < 1:  # its middle lies in an empty corner
        middle_x = middle_y = 0.0
        share = min(1.0, _share_inside(0, 0, crop, turned_px, framing.straighten_deg))
    elif share >= 1:
        return crop
    left_px, width_px = _inner(middle_x + turned_px[0] / 2, crop.width_px * share)
    top_px, height_px = _inner(middle_y + turned_px[1] / 2, crop.height_px * share)
    return Box(left_px=left_px, top_px=top_px, width_px=width_px, height_px=height_px)


def _share_inside(
    middle_x: float, middle_y: float, crop: Box, turned_px: tuple[int, int], degrees: float
) -> float:
    """The largest share of a crop, about its middle, whose corners lie in the turned rectangle: a
    corner turned back has to stay within half a width and half a height."""
    cosine, sine = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    half_width, half_height = crop.width_px / 2, crop.height_px / 2
    across = abs(cosine * middle_x + sine * middle_y)
    down = abs(cosine * middle_y - sine * middle_x)
    reach_across = cosine * half_width + abs(sine) * half_height
    reach_down = abs(sine) * half_width + cosine * half_height
    return min((turned_px[0] / 2 - across) / reach_across, (turned_px[1] / 2 - down) / reach_down)


def _inner(middle: float, length: float) -> tuple[int, int]:
    """Start and length of the whole pixels inside a stretch, at least one."""
    start = math.ceil(middle - length / 2)
    return start, max(1, math.floor(middle + length / 2) - start)


def _target_px(box: Box, place: Place, framing: Framing) -> tuple[int, int]:
    """Width and height that a box becomes. Raises UsageError `invalid_dimensions`."""
    width_px, height_px = place.device_px(box)
    if (width_px > box.width_px or height_px > box.height_px) and not framing.may_enlarge:
        return box.width_px, box.height_px
    if max(width_px, height_px) > MAX_SIDE_PX:
        raise UsageError(f"A side has at most {MAX_SIDE_PX:,} pixels.", "invalid_dimensions")
    return width_px, height_px


def _covering(
    cropped: Box, asked_px: tuple[int, int], focus: Focus, turned_px: tuple[int, int]
) -> Box:
    """The largest part of the crop that has the proportions asked for, with the focus point as near
    to its centre as possible."""
    across_px = round(cropped.height_px * asked_px[0] / asked_px[1])
    down_px = round(cropped.width_px * asked_px[1] / asked_px[0])
    width_px = min(cropped.width_px, max(1, across_px))
    height_px = min(cropped.height_px, max(1, down_px))

    def start(at: float, length: int, crop_start: int, crop_length: int) -> int:
        return min(max(round(at - length / 2), crop_start), crop_start + crop_length - length)

    return Box(
        left_px=start(focus.x * turned_px[0], width_px, cropped.left_px, cropped.width_px),
        top_px=start(focus.y * turned_px[1], height_px, cropped.top_px, cropped.height_px),
        width_px=width_px,
        height_px=height_px,
    )
