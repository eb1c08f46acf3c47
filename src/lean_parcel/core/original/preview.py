"""A reduced copy of an original, to look at and to judge its kind by."""

import numpy as np
import pyvips

from lean_parcel.core.arrays import U8
from lean_parcel.core.original.photo import is_read_whole, open_pixels, reading
from lean_parcel.core.original.source import Limits, Source
from lean_parcel.core.picture.gamut import in_gamut
from lean_parcel.core.picture.resample import reduce

PREVIEW_PX = 1280


def open_preview(data: bytes, name: str, limits: Limits, source: Source) -> U8:
    """The whole photo, upright, on at most PREVIEW_PX a side: 8-bit sRGB, (H, W, 3) or (H, W, 4).

    Decoded at a fraction of its pixels where its format can be. Raises a PhotoError.
    """
    if is_read_whole(data, source.format):
        pixels = open_pixels(data, name, limits)
        ratio = min(1.0, PREVIEW_PX / max(pixels.shape[:2]))
        width_px, height_px = (max(1, round(side * ratio)) for side in pixels.shape[1::-1])
        return reduce(pixels, width_px, height_px)
    with reading(name):
        small = pyvips.Image.thumbnail_buffer(data, PREVIEW_PX, height=PREVIEW_PX, size="down")
        return np.asarray(in_gamut(small, "srgb").colourspace("srgb").numpy())
