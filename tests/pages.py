"""Pictures within margins."""

import numpy as np

from lean_parcel.core.arrays import U8
from lean_parcel.core.picture.box import Box

#: Where `framed_in` puts a picture of 96 × 64 pixels.
INSIDE = Box(left_px=23, top_px=11, width_px=96, height_px=64)


def framed_in(pixels: U8, border: int | tuple[int, ...], grain: float = 0.0) -> U8:
    """Pixels with margins of 11 at the top, 7 below, 23 at the left and 5 at the right."""
    height_px, width_px, bands = pixels.shape
    page = np.empty((height_px + 18, width_px + 28, bands), np.float64)
    page[:] = border
    page += np.random.default_rng(4).normal(0, grain, page.shape)
    page[11:-7, 23:-5] = pixels
    return np.asarray(np.rint(page.clip(0, 255)), np.uint8)
