"""Marks: areas of a photo that matter, such as a face or a logo, and areas that do not."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from lean_parcel.core.damage.spots import MarkedArea
from lean_parcel.core.errors import UsageError
from lean_parcel.core.framing.plan import Plan
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.orientation import shown_box

MAX_MARKS = 8


@dataclass(frozen=True, slots=True, kw_only=True)
class Mark:
    """An area in the turned picture, as a crop is; it matters or does not."""

    box: Box
    matters: bool


def checked(marks: Sequence[Mark], width_px: int, height_px: int) -> tuple[Mark, ...]:
    """Marks that lie in the turned picture, whose size is given. Raises UsageError
    `invalid_marks`."""
    for mark in marks:
        box = mark.box
        is_inside = (
            min(box.left_px, box.top_px) >= 0
            and min(box.width_px, box.height_px) >= 1
            and box.left_px + box.width_px <= width_px
            and box.top_px + box.height_px <= height_px
        )
        if not is_inside:
            raise UsageError("A marked area lies within the picture.", "invalid_marks")
    if len(marks) > MAX_MARKS:
        raise UsageError(f"Up to {MAX_MARKS} areas can be marked.", "invalid_marks")
    return tuple(marks)


def placed(marks: Sequence[Mark], plan: Plan) -> tuple[MarkedArea, ...]:
    """Where marks are in the place, in its pixels; without what was cropped away."""
    found = (_placed(mark, plan) for mark in marks)
    return tuple(area for area in found if area is not None)


def _placed(mark: Mark, plan: Plan) -> MarkedArea | None:
    scale_x, scale_y = plan.width_px / plan.box.width_px, plan.height_px / plan.box.height_px
    box = mark.box
    left = max(0, round((box.left_px - plan.box.left_px) * scale_x))
    top = max(0, round((box.top_px - plan.box.top_px) * scale_y))
    right = round((box.left_px + box.width_px - plan.box.left_px) * scale_x)
    bottom = round((box.top_px + box.height_px - plan.box.top_px) * scale_y)
    width_px, height_px = min(right, plan.width_px) - left, min(bottom, plan.height_px) - top
    if width_px < 1 or height_px < 1:
        return None
    inside = Box(left_px=left, top_px=top, width_px=width_px, height_px=height_px)
    return MarkedArea(box=inside, matters=mark.matters)


def marks_turned(marks: Sequence[Mark], by: int, turned_px: tuple[int, int]) -> tuple[Mark, ...]:
    """Marks after another turn or flip of the turned picture, whose size before is given."""
    return tuple(replace(mark, box=shown_box(mark.box, by, *turned_px)) for mark in marks)
