"""Rectangles of whole pixels."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Box:
    """A rectangle of whole pixels, its corner counted from the top left of a picture."""

    left_px: int
    top_px: int
    width_px: int
    height_px: int
