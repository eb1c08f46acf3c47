"""Colour gamuts: sRGB or Display P3, and the ICC profiles that say so."""

import io
from functools import lru_cache
from typing import Literal

import numpy as np
import pyvips
from PIL import Image, ImageCms

from lean_parcel.core.arrays import U8
from lean_parcel.core.picture.resample import to_codes, to_light

Gamut = Literal["srgb", "display-p3"]
#: The name of a profile among the metadata of a libvips image.
PROFILE = "icc-profile-data"
_VIPS_PROFILES: dict[Gamut, str] = {"srgb": "srgb", "display-p3": "p3"}
#: Linear Display P3 to linear sRGB (CSS Color 4, sample code); the transfer curve is the same.
P3_TO_SRGB = np.array(
    [
        [1.2249401762805598, -0.22494017628055996, 0.0],
        [-0.042056954709688163, 1.0420569547096881, 0.0],
        [-0.019637554590334432, -0.078636045550631889, 1.0982736001409663],
    ]
)
#: A grid of colours, shape (1, 216, 3), by which two profiles are told apart.
_PATCHES = (
    np.stack(np.meshgrid(*[np.linspace(0, 255, 6)] * 3), -1).astype(np.uint8).reshape(1, -1, 3)
)


def in_gamut(image: pyvips.Image, gamut: Gamut) -> pyvips.Image:
    """The gamut's RGB with three bands, or four with alpha; 8 bit or, of deeper sources, 16."""
    depth = 8 if image.format == "uchar" else 16
    if image.interpretation == "cmyk" or (
        PROFILE in image.get_fields() and not is_srgb_profile(bytes(image.get(PROFILE)))
    ):
        return _converted(image, gamut, depth)
    plain = image.colourspace("srgb" if depth == 8 else "rgb16")
    if gamut == "srgb":
        return plain
    return plain.icc_transform(_VIPS_PROFILES[gamut], input_profile="srgb", depth=depth)


def _converted(image: pyvips.Image, gamut: Gamut, depth: int) -> pyvips.Image:
    """Through the embedded profile, or libvips' press profile for CMYK without one; a profile that
    does not fit its picture is ignored."""
    fallback = {"input_profile": "cmyk"} if image.interpretation == "cmyk" else {}
    try:
        return image.icc_transform(
            _VIPS_PROFILES[gamut],
            embedded=True,
            intent="relative",
            black_point_compensation=True,
            depth=depth,
            **fallback,
        )
    except pyvips.Error:
        return image.colourspace("srgb" if depth == 8 else "rgb16")


def profile_of(gamut: Gamut) -> bytes:
    """The ICC profile that a file in this gamut carries; none for sRGB, which needs none."""
    if gamut == "srgb":
        return b""
    black = pyvips.Image.black(1, 1, bands=3).copy(interpretation="srgb")
    tagged = black.icc_transform(_VIPS_PROFILES[gamut], input_profile="srgb")
    return bytes(tagged.get(PROFILE))


def colour_in(colour: str, gamut: Gamut) -> U8:
    """The 8-bit codes (3,) in a gamut of a colour of a page, `#rrggbb` in sRGB."""
    codes = np.frombuffer(bytes.fromhex(colour.removeprefix("#")), np.uint8)
    if gamut == "srgb":
        return codes
    light = np.linalg.solve(P3_TO_SRGB, to_light(codes / 255))
    return np.asarray(np.rint(to_codes(np.clip(light, 0, 1)) * 255), np.uint8)


@lru_cache(maxsize=64)
def is_srgb_profile(profile: bytes) -> bool:
    """Whether a profile leaves sRGB colours where they are, to within one 8-bit code; then no
    conversion is done, which keeps such pixels exact."""
    try:
        transform = ImageCms.buildTransform(
            ImageCms.ImageCmsProfile(io.BytesIO(profile)),
            ImageCms.createProfile("sRGB"),
            "RGB",
            "RGB",
        )
        moved = np.asarray(ImageCms.applyTransform(Image.fromarray(_PATCHES), transform))
    except (ImageCms.PyCMSError, OSError):
        return False
    return int(np.abs(moved.astype(int) - _PATCHES).max()) <= 1
