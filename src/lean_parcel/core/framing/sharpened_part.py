"""A part of framed pixels with other sharpening, to judge a setting before it is taken."""

import math

import numpy as np
import pyvips

from lean_parcel.core.errors import UsageError
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.gamut import PROFILE
from lean_parcel.core.picture.serialisation import lossless_png
from lean_parcel.core.picture.sharpen import Sharpen, sharpened

#: Sigmas after which a Gaussian of 8-bit samples adds nothing.
_GAUSSIAN_REACH = 4


def sharpened_part(plain_png: bytes, sharpen: Sharpen, box: Box) -> bytes:
    """A part of our own lossless pixels, sharpened, as a PNG; what lies outside is cut off. The
    same pixels as sharpening the whole picture gives there. Raises UsageError `invalid_crop` where
    nothing is left."""
    image = pyvips.Image.new_from_buffer(plain_png, "", access="sequential")
    profile = bytes(image.get(PROFILE)) if PROFILE in image.get_fields() else b""
    right_px = min(box.left_px + box.width_px, image.width)
    bottom_px = min(box.top_px + box.height_px, image.height)
    if box.left_px >= right_px or box.top_px >= bottom_px:
        raise UsageError("This part lies outside the picture.", "invalid_crop")
    reach_px = math.ceil(_GAUSSIAN_REACH * sharpen.radius_px)
    left_px, top_px = max(0, box.left_px - reach_px), max(0, box.top_px - reach_px)
    around = image.crop(
        left_px,
        top_px,
        min(right_px + reach_px, image.width) - left_px,
        min(bottom_px + reach_px, image.height) - top_px,
    )
    part = sharpened(np.asarray(around.numpy()), sharpen)[
        box.top_px - top_px : bottom_px - top_px, box.left_px - left_px : right_px - left_px
    ]
    return lossless_png(np.ascontiguousarray(part), profile)
