"""Carrying out a plan: a photo's bytes in, the framed pixels out.

All steps work on the picture as it is stored, and turn it last: a crop then reads only what it
needs, and a turned framing has exactly the turned pixels.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import pyvips

from lean_parcel.core.arrays import U8
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.framing.plan import Plan, plan_framing
from lean_parcel.core.original.photo import is_deep, open_photo, orientation_of, reading
from lean_parcel.core.original.source import Limits, Source
from lean_parcel.core.picture.orientation import (
    combined,
    is_mirrored,
    shown,
    shown_size_px,
    stored_box,
)
from lean_parcel.core.picture.pixels import has_alpha, is_opaque, over_background
from lean_parcel.core.picture.resample import resampled, to_light
from lean_parcel.core.picture.sharpen import sharpened


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
    the cropped part is held in memory.
    """
    source, image = open_photo(data, name, limits, framing.gamut)
    plan = plan_framing(source, framing, place)
    orientation = combined(orientation_of(image), plan.orientation)
    box = stored_box(plan.box, orientation, image.width, image.height)
    width_px, height_px = shown_size_px(plan.width_px, plan.height_px, orientation)
    is_straightened = plan.straighten_deg != 0
    dithers = is_deep(image)
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
            dithers=dithers,
        )
    plain = shown(stored, orientation)
    if plan.background is not None:
        plain = over_background(plain, plan.background, plan.gamut)
    elif has_alpha(plain) and is_opaque(plain):
        plain = np.ascontiguousarray(plain[..., :3])
    return Framed(source=source, plan=plan, plain=plain, pixels=sharpened(plain, plan.sharpen))


@lru_cache
def _to_linear(codes: int) -> pyvips.Image:
    """16-bit linear light of each code: 256 or 65536 of them."""
    values = np.rint(to_light(np.arange(codes) / (codes - 1)) * 65535).astype(np.uint16)
    return pyvips.Image.new_from_memory(values.tobytes(), codes, 1, 1, "ushort")


def _linear(image: pyvips.Image) -> pyvips.Image:
    """16-bit linear light; alpha, which is no light, in 16 bit."""
    deep = is_deep(image)
    colour = image[0:3].maplut(_to_linear(65536 if deep else 256))
    if not image.hasalpha():
        return colour
    alpha = image[3] if deep else image[3].cast("ushort") * 257
    return colour.bandjoin(alpha.cast("ushort"))


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
