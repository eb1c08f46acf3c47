"""Framing at work: a plan and a photo's bytes in, the framed pixels out.

Everything is done while the picture still lies as it was stored, and it is turned last: a crop then
reads only what it needs, and a turned framing has exactly the turned pixels.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import pyvips

from lean_parcel.core.arrays import U8
from lean_parcel.core.framing import Framing, Gamut
from lean_parcel.core.orientation import (
    combined,
    is_mirrored,
    shown,
    shown_size_px,
    stored_box,
)
from lean_parcel.core.photo import Limits, Source, open_photo, orientation_of, reading
from lean_parcel.core.pixels import has_alpha, is_opaque, over_background
from lean_parcel.core.place import Place
from lean_parcel.core.plan import Plan, plan_framing
from lean_parcel.core.resample import resampled, to_light
from lean_parcel.core.sharpen import sharpened


@dataclass(frozen=True, slots=True, kw_only=True)
class Framed:
    """A photo's facts, the plan, and its pixels before and after sharpening, which are the same
    array where there is none: 8-bit (H, W, 3), or (H, W, 4) with straight alpha where any of it is
    transparent, in the gamut."""

    source: Source
    plan: Plan
    plain: U8
    pixels: U8


def frame_photo(data: bytes, name: str, framing: Framing, place: Place, limits: Limits) -> Framed:
    """A photo as it is framed.

    Straightened with bicubic interpolation (16 bit), and resampled in linear light or on codes.
    Without a crop the whole file is decoded, so that a fault anywhere in it is found. Raises a
    PhotoError, or a UsageError as `plan_framing` does. Costs about 0.3 s for 10 megapixels of JPEG;
    what the crop leaves is held in memory as it is stored.
    """
    source, image = open_photo(data, name, limits, framing.gamut)
    plan = plan_framing(source.width_px, source.height_px, framing, place)
    orientation = combined(orientation_of(image), plan.orientation)
    box = stored_box(plan.box, orientation, image.width, image.height)
    width_px, height_px = shown_size_px(plan.width_px, plan.height_px, orientation)
    is_straightened = plan.straighten_deg != 0
    with reading(name):
        if is_straightened:
            angle_deg = -plan.straighten_deg if is_mirrored(orientation) else plan.straighten_deg
            image = _straightened(_linear(image) if plan.light == "linear" else image, angle_deg)
        image = image.crop(box.left_px, box.top_px, box.width_px, box.height_px)
        stored = resampled(
            np.asarray(image.numpy()),
            width_px,
            height_px,
            plan.kernel,
            plan.light,
            is_linear=is_straightened,
        )
    plain = shown(stored, orientation)
    if plan.background is not None:
        plain = over_background(plain, plan.background)
    elif has_alpha(plain) and is_opaque(plain):
        plain = np.ascontiguousarray(plain[..., :3])
    return Framed(source=source, plan=plan, plain=plain, pixels=sharpened(plain, plan.sharpen))


def open_pixels(data: bytes, name: str, limits: Limits, gamut: Gamut = "srgb") -> U8:
    """All pixels of a photo, upright: 8-bit (H, W, 3), or (H, W, 4). Raises a PhotoError."""
    _, image = open_photo(data, name, limits, gamut)
    with reading(name):
        return shown(np.asarray(_codes(image).numpy()), orientation_of(image))


def reduce(pixels: U8, width_px: int, height_px: int) -> U8:
    """A framed picture with fewer pixels: Lanczos 3 in linear light; the same array where none
    go."""
    return resampled(pixels, width_px, height_px, "lanczos3", "linear")


@lru_cache
def _to_linear(codes: int) -> pyvips.Image:
    """16-bit linear light of each code: 256 or 65536 of them."""
    values = np.rint(to_light(np.arange(codes) / (codes - 1)) * 65535).astype(np.uint16)
    return pyvips.Image.new_from_memory(values.tobytes(), codes, 1, 1, "ushort")


def _linear(image: pyvips.Image) -> pyvips.Image:
    """16-bit linear light; alpha, which is no light, in 16 bit."""
    deep = image.format != "uchar"
    colour = image[0:3].maplut(_to_linear(65536 if deep else 256))
    if not image.hasalpha():
        return colour
    alpha = image[3] if deep else image[3].cast("ushort") * 257
    return colour.bandjoin(alpha.cast("ushort"))


def _codes(image: pyvips.Image) -> pyvips.Image:
    return image if image.format == "uchar" else (image / 257).rint().cast("uchar")


def _premultiplied(image: pyvips.Image) -> tuple[pyvips.Image, float]:
    most = 255.0 if image.format == "uchar" else 65535.0
    return image.premultiply(max_alpha=most), most


def _straight(image: pyvips.Image, most: float) -> pyvips.Image:
    return image.unpremultiply(max_alpha=most).rint().cast("uchar" if most == 255 else "ushort")


def _straightened(image: pyvips.Image, clockwise_deg: float) -> pyvips.Image:
    """Turned about the middle, on the canvas it had; needs the picture in memory."""
    image = image.copy_memory()
    most = 0.0
    if image.bands == 4:
        image, most = _premultiplied(image)
    middle_x, middle_y = (image.width - 1) / 2, (image.height - 1) / 2
    radians = np.radians(clockwise_deg)
    cosine, sine = float(np.cos(radians)), float(np.sin(radians))
    turned = image.affine(
        [cosine, -sine, sine, cosine],
        idx=-middle_x,
        idy=-middle_y,
        odx=middle_x,
        ody=middle_y,
        oarea=[0, 0, image.width, image.height],
        interpolate=pyvips.Interpolate.new("bicubic"),
        extend="copy",
        premultiplied=True,
    )
    return _straight(turned, most) if most else turned
