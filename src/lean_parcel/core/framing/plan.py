"""The plan of a framing: which part of the photo is used, and how many pixels it becomes.

A Plan holds exactly what decides the pixels of a framed picture, and how they are judged: equal
plans of one original give equal pixels and likenesses, however the size was asked for.
"""

import math
from dataclasses import dataclass, replace
from functools import lru_cache

from lean_parcel.core.errors import UsageError
from lean_parcel.core.framing.framing import Focus, Framing, Size
from lean_parcel.core.framing.place import MAX_SIDE_PX, Place
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


@lru_cache(maxsize=4_096)
def plan_framing(source: Source, framing: Framing, place: Place) -> Plan:
    """The plan for an original, made once for each framing and place.

    Raises UsageError `would_enlarge` where an exact size asks for more pixels than there are and
    the framing may not enlarge; a place is filled with as many as there are.
    """
    turned_px = shown_size_px(source.width_px, source.height_px, framing.orientation)
    cropped = crop_box(source, framing)
    size = _size_of_place(place) if framing.size.by == "place" else framing.size
    box = cropped
    if size.by == "box" and size.fit == "cover":
        box = _covering(cropped, size, framing.focus, turned_px)
    width_px, height_px = _target_px(box, size, framing)
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
        density=place.judged_density(width_px, height_px),
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


def _size_of_place(place: Place) -> Size:
    """The size that fills a place: its width, or where it has a height, its box."""
    width_px = min(place.device_width_px, MAX_SIDE_PX)
    if place.device_height_px is None:
        return Size(by="width", width_px=width_px)
    height_px = min(place.device_height_px, MAX_SIDE_PX)
    return Size(by="box", width_px=width_px, height_px=height_px, fit=place.fit)


def _target_px(box: Box, size: Size, framing: Framing) -> tuple[int, int]:
    """Width and height that a box becomes; a place never enlarges it unless the framing may.

    Raises UsageError `would_enlarge` or `invalid_size`.
    """
    scale = _scale(box, size)
    if scale > 1 and not framing.may_enlarge:
        if framing.size.by != "place":
            raise UsageError(
                f"This asks for {' × '.join(map(str, _scaled(box, size, scale)))} pixels where the"
                f" photo has {box.width_px} × {box.height_px}. Enlarging adds bytes and no detail.",
                "would_enlarge",
            )
        return box.width_px, box.height_px
    target_px = _scaled(box, size, scale)
    if max(target_px) > MAX_SIDE_PX:
        raise UsageError(f"A side has at most {MAX_SIDE_PX:,} pixels.", "invalid_size")
    return target_px


def _scale(box: Box, size: Size) -> float:
    """Pixels asked for, for each pixel of the box."""
    across = (size.width_px or 0) / box.width_px
    down = (size.height_px or 0) / box.height_px
    match size.by:
        case "width":
            return across
        case "height":
            return down
        case "longest":
            return (size.longest_px or 0) / max(box.width_px, box.height_px)
        case "percent":
            return (size.percent or 0) / 100
        case _:
            return max(across, down) if size.fit == "cover" else min(across, down)


def _scaled(box: Box, size: Size, scale: float) -> tuple[int, int]:
    """The box in this scale; what was asked for exactly is exact."""
    if size.by == "box" and size.fit == "cover":
        assert size.width_px
        assert size.height_px
        return size.width_px, size.height_px
    width_px, height_px = (max(1, round(side * scale)) for side in (box.width_px, box.height_px))
    return width_px, height_px


def _covering(cropped: Box, size: Size, focus: Focus, turned_px: tuple[int, int]) -> Box:
    """The largest part of the crop that has the box's proportions, with the focus point as near to
    its centre as possible."""
    assert size.width_px
    assert size.height_px
    across_px = round(cropped.height_px * size.width_px / size.height_px)
    down_px = round(cropped.width_px * size.height_px / size.width_px)
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
