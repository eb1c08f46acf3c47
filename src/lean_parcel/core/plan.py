"""From a framing to the pixels that it comes to: which part of the photo, and how many pixels.

A Plan is all that decides a framed picture's pixels, and nothing else: equal plans of one original
give equal pixels, whatever way of sizing led to them.
"""

import math
from dataclasses import dataclass, replace

from lean_parcel.core.errors import UsageError
from lean_parcel.core.framing import Focus, Framing, Gamut, Kernel, Light, Sharpen, Size
from lean_parcel.core.orientation import Box, shown_size_px
from lean_parcel.core.place import MAX_SIDE_PX, Place

#: Sharpening that goes with the reduction: this much for each halving, up to a limit. Chosen by eye
#: on the demo photos at actual pixels: it restores what the resize takes, without light edges.
_AUTOMATIC_PERCENT_A_HALVING = 18.0
_AUTOMATIC_MAX_PERCENT = 60.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """`box` of the turned picture, turned by `straighten_deg` about its middle, becomes `width_px`
    x `height_px` pixels; `sharpen` has its amount, and `background` is set where it fills."""

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

    @property
    def reduction(self) -> float:
        """How many times fewer pixels across than the photo has there."""
        return self.box.width_px / self.width_px


def plan_framing(width_px: int, height_px: int, framing: Framing, place: Place) -> Plan:
    """The plan for an upright original of this size.

    Raises UsageError `would_enlarge` where an exact size asks for more pixels than there are and
    the framing does not insist; a place is met with as many as there are.
    """
    kept = kept_box(width_px, height_px, framing)
    box, size_px = _sized(kept, framing, place, (width_px, height_px))
    if max(size_px) > MAX_SIDE_PX:
        raise UsageError(f"A side has at most {MAX_SIDE_PX:,} pixels.", "invalid_size")
    reduction = box.width_px / size_px[0]
    return Plan(
        orientation=framing.orientation,
        straighten_deg=framing.straighten_deg,
        box=box,
        width_px=size_px[0],
        height_px=size_px[1],
        kernel=framing.kernel,
        light=framing.light,
        sharpen=_settled(framing.sharpen, reduction),
        gamut=framing.gamut,
        background=framing.background if framing.fills_background else None,
    )


def automatic_amount_percent(reduction: float) -> float:
    """How much to sharpen after a reduction by this factor a side."""
    halvings = max(0.0, math.log2(reduction))
    return round(min(_AUTOMATIC_MAX_PERCENT, _AUTOMATIC_PERCENT_A_HALVING * halvings))


def _settled(sharpen: Sharpen, reduction: float) -> Sharpen:
    amount_percent = sharpen.amount_percent
    if amount_percent is None:
        amount_percent = automatic_amount_percent(reduction)
    return replace(sharpen, amount_percent=amount_percent) if amount_percent else Sharpen()


def kept_box(width_px: int, height_px: int, framing: Framing) -> Box:
    """What is kept of the turned picture: the crop, or all of it; where it is straightened, shrunk
    about its own middle until no corner is empty."""
    turned_px = shown_size_px(width_px, height_px, framing.orientation)
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


def _sized(
    kept: Box, framing: Framing, place: Place, photo_px: tuple[int, int]
) -> tuple[Box, tuple[int, int]]:
    """The box that is shown, and the pixels that it comes to."""
    size = framing.size
    if size.by == "place":
        size = (
            Size(by="width", width_px=min(place.device_width_px, MAX_SIDE_PX))
            if place.device_height_px is None
            else Size(
                by="box",
                width_px=min(place.device_width_px, MAX_SIDE_PX),
                height_px=min(place.device_height_px, MAX_SIDE_PX),
                fit=place.fit,
            )
        )
    box = kept
    if size.by == "box" and size.fit == "cover":
        turned_px = shown_size_px(*photo_px, framing.orientation)
        box = _covering(kept, size, framing.focus, turned_px)
    scale = _scale(box, size)
    if scale <= 1 or framing.may_enlarge:
        return box, _scaled(box, size, scale)
    if framing.size.by == "place":
        return box, (box.width_px, box.height_px)
    raise UsageError(
        f"This asks for {' × '.join(map(str, _scaled(box, size, scale)))} pixels where the photo"
        f" has {box.width_px} × {box.height_px}. Enlarging adds bytes and no detail.",
        "would_enlarge",
    )


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


def _covering(kept: Box, size: Size, focus: Focus, turned_px: tuple[int, int]) -> Box:
    """The largest part of what is kept that has the box's proportions, with the focus point as near
    to its middle as can be."""
    assert size.width_px
    assert size.height_px
    width_px = min(kept.width_px, max(1, round(kept.height_px * size.width_px / size.height_px)))
    height_px = min(kept.height_px, max(1, round(kept.width_px * size.height_px / size.width_px)))

    def start(at: float, length: int, kept_start: int, kept_length: int) -> int:
        return min(max(round(at - length / 2), kept_start), kept_start + kept_length - length)

    return Box(
        left_px=start(focus.x * turned_px[0], width_px, kept.left_px, kept.width_px),
        top_px=start(focus.y * turned_px[1], height_px, kept.top_px, kept.height_px),
        width_px=width_px,
        height_px=height_px,
    )
