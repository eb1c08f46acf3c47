"""Small synthetic pictures, seeded, and files of them in every format that comes in."""

import io
import math
from functools import cache
from typing import Any

import cv2
import numpy as np
import pillow_heif
from PIL import Image, ImageCms

from lean_parcel import demo
from lean_parcel.core.arrays import U8
from lean_parcel.core.framing.frame import frame_photo
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.source import Limits, Source
from lean_parcel.core.search.calibrated import USUAL_GRAIN
from lean_parcel.core.search.ladder import Rung

pillow_heif.register_heif_opener()


def photo(width_px: int = 96, height_px: int = 64, seed: int = 1) -> U8:
    """Something like a photograph: soft shapes, an edge, and a little grain."""
    random = np.random.default_rng(seed)
    blobs = random.uniform(0, 255, (6, 9, 3)).astype(np.float32)
    soft = np.asarray(
        cv2.resize(blobs, (width_px, height_px), interpolation=cv2.INTER_CUBIC), np.float32
    )
    soft[:, width_px // 3 : width_px // 2] *= 0.5
    grain = random.normal(0, 4, soft.shape)
    return np.asarray(np.clip(soft + grain, 0, 255), np.uint8)


def source(width_px: int, height_px: int, kind: str = "jpeg") -> Source:
    """The facts of an original of this size."""
    return Source(
        format=kind, size_bytes=9_000, width_px=width_px, height_px=height_px, has_alpha=False
    )


def rung(
    width_px: int,
    height_px: int,
    probe_size_bytes: int = 700,
    *,
    ceiling: float = 100,
    grain: float = USUAL_GRAIN,
) -> Rung:
    """What a search knows of a pixel count of some photo."""
    return Rung(
        width_px=width_px,
        height_px=height_px,
        probe_size_bytes=probe_size_bytes,
        quick_png_size_bytes=round(probe_size_bytes * math.exp(grain)),
        ceiling=ceiling,
    )


def cutout(width_px: int = 96, height_px: int = 64, seed: int = 1) -> U8:
    """A photo with a soft round alpha."""
    rows, columns = np.mgrid[0:height_px, 0:width_px]
    distance = np.hypot(rows / height_px - 0.5, columns / width_px - 0.5)
    alpha = np.clip((0.45 - distance) * 12, 0, 1) * 255
    return np.dstack([photo(width_px, height_px, seed), alpha.astype(np.uint8)])


def patches(width_px: int = 48, height_px: int = 32) -> U8:
    """Four flat quarters: red, green, blue, grey, clockwise from the top left."""
    pixels = np.zeros((height_px, width_px, 3), np.uint8)
    middle_row, middle_column = height_px // 2, width_px // 2
    pixels[:middle_row, :middle_column] = (200, 30, 30)
    pixels[:middle_row, middle_column:] = (30, 160, 30)
    pixels[middle_row:, middle_column:] = (30, 30, 200)
    pixels[middle_row:, :middle_column] = (128, 128, 128)
    return pixels


def numbered(columns: int = 6, rows: int = 4, patch_px: int = 8) -> U8:
    """A grid of flat patches, each of its own colour: see `patch_numbers`."""
    numbers = np.arange(columns * rows, dtype=np.uint8).reshape(rows, columns)
    colours = np.stack([40 + 8 * numbers, 230 - 8 * numbers, 60 + 80 * (numbers % 3)], axis=2)
    return np.asarray(colours.repeat(patch_px, axis=0).repeat(patch_px, axis=1), np.uint8)


def patch_numbers(pixels: U8, patch_px: int) -> list[list[int]]:
    """The numbers of the patches that are shown, read at the middle of each."""
    middles = pixels[patch_px // 2 :: patch_px, patch_px // 2 :: patch_px].astype(int)
    return [[round((red - 40) / 8) for red in row] for row in middles[..., 0]]


def file(pixels: U8, name: str = "PNG", **options: Any) -> bytes:
    """A file of pixels, written by Pillow."""
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, name, **options)
    return out.getvalue()


def oriented(pixels: U8, orientation: int) -> bytes:
    """A JPEG that stores `pixels` and says how to turn them."""
    exif = Image.Exif()
    exif[0x0112] = orientation
    return file(pixels, "JPEG", quality=95, subsampling=0, exif=exif)


def demo_pixels(name: str, css_width_px: int) -> U8:
    """A demo photo, framed."""
    place = Place(size=str(css_width_px))
    return frame_photo(demo.original(name), name, Framing(), place, Limits()).pixels


@cache
def srgb_profile() -> bytes:
    """A plain sRGB profile, made once: it carries the second in which it was made."""
    return ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
