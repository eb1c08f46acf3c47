"""Pixels as bytes and back: lossless PNGs to store and send, and small WebPs to look at."""

import io

import numpy as np
import pyvips
from PIL import Image

from lean_parcel.core.arrays import U8
from lean_parcel.core.picture.gamut import PROFILE
from lean_parcel.core.picture.resample import reduce

_SMALL_WEBP_QUALITY = 82
#: How many times as high as wide a small picture may be: WebP ends at 16,383 pixels.
_TALLEST = 4


def decode(data: bytes) -> U8:
    """The pixels of a file of our own making, as a browser shows them."""
    with Image.open(io.BytesIO(data)) as image:
        transparent = "transparency" in image.info or "A" in image.mode
        return np.asarray(image.convert("RGBA" if transparent else "RGB"))


def lossless_png(pixels: U8, profile: bytes = b"") -> bytes:
    """A PNG made for speed, with an ICC profile where there is one; its size also tells how well
    the picture deflates. About 30 ms a megapixel."""
    return bytes(tagged(pixels, profile).pngsave_buffer(compression=1, filter="sub", keep="icc"))


def small_webp(pixels: U8, width_px: int, profile: bytes = b"") -> bytes:
    """A lossy picture of at most this width and four times this height, only to be looked at."""
    full_height_px, full_width_px = pixels.shape[:2]
    ratio = min(1, width_px / full_width_px, _TALLEST * width_px / full_height_px)
    small = reduce(
        pixels, *(max(1, round(side_px * ratio)) for side_px in (full_width_px, full_height_px))
    )
    image = tagged(small, profile)
    return bytes(image.webpsave_buffer(Q=_SMALL_WEBP_QUALITY, effort=2, keep="icc"))


def tagged(pixels: U8, profile: bytes = b"") -> pyvips.Image:
    """Pixels as a libvips image, with an ICC profile where there is one; those of one channel, of
    shape (H, W), as grey."""
    interpretation = "srgb" if pixels.ndim > 2 else "b-w"
    image = pyvips.Image.new_from_array(pixels).copy(interpretation=interpretation)
    if profile:
        image.set_type(pyvips.GValue.blob_type, PROFILE, profile)
    return image
