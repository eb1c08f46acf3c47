"""How finely a picture in its place is seen.

A CSS pixel is the angle of 1/96 inch at arm's length, 28 inches (CSS Values 4, 5.2): 47 of them are
a degree. A picture with more pixels than that is seen at a smaller size, and the finest of what it
has not at all. Likeness, which judges pixels as they are seen at a density of 1, judges it with the
pixels that are left to see; see docs/metrics.md.
"""

import math

from lean_parcel.core.arrays import U8
from lean_parcel.core.picture.resample import resampled

#: CSS pixels a degree.
CSS_PIXELS_A_DEGREE = 96 * 28 * math.radians(1)
#: Pixels a degree beyond which they are too fine to be judged one by one: in the middle between
#: what FLIP and ColorVideoVDP say, which know of degrees, at 1.5x, 2x and 3x alike.
SEEN_PIXELS_A_DEGREE = 55.0


def seen_size_px(width_px: int, height_px: int, density: float) -> tuple[int, int]:
    """Width and height with which pixels are judged, given how many of them are a CSS pixel."""
    share = min(1.0, SEEN_PIXELS_A_DEGREE / (CSS_PIXELS_A_DEGREE * density))
    return max(1, round(width_px * share)), max(1, round(height_px * share))


def as_seen(codes: U8, size_px: tuple[int, int]) -> U8:
    """A picture, 8-bit (H, W, 3), with the pixels that are judged: averaged in linear light, as
    eyes do."""
    return resampled(codes, *size_px, "linear", "linear")
