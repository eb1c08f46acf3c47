"""Rectangles of whole pixels."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Box:
    """A rectangle of whole pixels, its corner counted from the top left of a picture."""

    left_px: int
    top_px: int
    width_px: int
    height_px: int

    def within(self, width_px: int, height_px: int) -> "Box":
        """The part that lies in a picture; at least the pixel of it that is nearest."""
        left_px, right_px = _within(self.left_px, self.width_px, width_px)
        top_px, bottom_px = _within(self.top_px, self.height_px, height_px)
        return box_between(left_px, top_px, right_px, bottom_px)


def box_between(left_px: int, top_px: int, right_px: int, bottom_px: int) -> Box:
    """The box from one corner to the other, which is not part of it any more."""
    return Box(
        left_px=left_px, top_px=top_px, width_px=right_px - left_px, height_px=bottom_px - top_px
    )


def _within(start_px: int, length_px: int, most_px: int) -> tuple[int, int]:
    first = min(max(start_px, 0), most_px - 1)
    return first, min(max(start_px + length_px, first + 1), most_px)
