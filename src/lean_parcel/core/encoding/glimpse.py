"""A glimpse: the part of an encode that somebody looks at, encoded on its own and in a hurry. It is
a draft, of how that part will look and not of what it will weigh.
"""

import io
import math
from dataclasses import dataclass, replace

import numpy as np

from lean_parcel.core.arrays import U8
from lean_parcel.core.encoding.encoders import encode, with_fewer_colours
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    EncoderSettings,
    JpegSettings,
    PngSettings,
    WebpSettings,
    draft_settings,
)
from lean_parcel.core.formats import Format
from lean_parcel.core.metadata.embed import with_png_profile
from lean_parcel.core.picture.box import Box, box_between
from lean_parcel.core.picture.gamut import Gamut, profile_of

#: Sides of the largest block of a coder: a part that begins on one is cut into blocks as the whole
#: is.
_BLOCK_PX: dict[Format, int] = {"jpeg": 16, "webp": 16, "avif": 64, "png": 1}
#: Pixels of a glimpse at most, so that it takes 50 to 200 ms on one core.
_MOST_PX: dict[Format, int] = {"jpeg": 400_000, "webp": 400_000, "avif": 250_000, "png": 80_000}
#: Pixels of the whole picture that help to choose the palette of a part.
_SAMPLE_PX = 20_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Glimpse:
    """The file of a part, in the format of its encode; and where the part lies among the pixels
    sent."""

    format: Format
    box: Box
    data: bytes


def glimpse(sent: U8, settings: EncoderSettings, box: Box, gamut: Gamut = "srgb") -> Glimpse:
    """The glimpse of a box of the pixels sent, 8-bit (H, W, 3) or (H, W, 4): as far as it lies in
    them, narrower about its middle where it is large, and wider by the rest of its blocks."""
    height_px, width_px = sent.shape[:2]
    inside = _at_most(box.within(width_px, height_px), _MOST_PX[settings.format])
    box = _aligned(inside, _BLOCK_PX[settings.format]).within(width_px, height_px)
    left, top = box.left_px, box.top_px
    part = np.ascontiguousarray(sent[top : top + box.height_px, left : left + box.width_px])
    data = _in_a_hurry(part, sent, settings, gamut)
    return Glimpse(format=settings.format, box=box, data=data)


def _at_most(box: Box, most_px: int) -> Box:
    """The middle of a box that has too many pixels."""
    share = math.sqrt(most_px / (box.width_px * box.height_px))
    if share >= 1:
        return box
    width_px, height_px = round(box.width_px * share), round(box.height_px * share)
    return Box(
        left_px=box.left_px + (box.width_px - width_px) // 2,
        top_px=box.top_px + (box.height_px - height_px) // 2,
        width_px=width_px,
        height_px=height_px,
    )


def _aligned(box: Box, block_px: int) -> Box:
    """The blocks that a box touches."""
    left_px, right_px = _blocks(box.left_px, box.width_px, block_px)
    top_px, bottom_px = _blocks(box.top_px, box.height_px, block_px)
    return box_between(left_px, top_px, right_px, bottom_px)


def _blocks(start_px: int, length_px: int, block_px: int) -> tuple[int, int]:
    first, last = start_px // block_px, -(-(start_px + length_px) // block_px)
    return first * block_px, last * block_px


def _in_a_hurry(part: U8, sent: U8, settings: EncoderSettings, gamut: Gamut) -> bytes:
    match settings:
        case JpegSettings():
            return encode(part, draft_settings(settings), gamut)
        case WebpSettings() if settings.lossless and not settings.near_lossless:
            return encode(part, replace(settings, quality=0, effort=0), gamut)
        case WebpSettings():
            return encode(part, replace(settings, effort=0), gamut)
        case AvifSettings():
            return encode(part, draft_settings(settings), gamut)
        case PngSettings():
            return with_png_profile(_quick_png(part, sent, settings), profile_of(gamut))


def _quick_png(part: U8, sent: U8, settings: PngSettings) -> bytes:
    """A PNG that is not optimised. The palette is that of the part and of a sample of the whole."""
    height_px, width_px, channels = part.shape
    apart = max(1, math.isqrt(sent.shape[0] * sent.shape[1] // _SAMPLE_PX))
    sample = sent[::apart, ::apart].reshape(-1, channels)
    rows = len(sample) // width_px if settings.colours else 0
    below = sample[: rows * width_px].reshape(rows, width_px, channels)
    image = with_fewer_colours(np.concatenate([part, below]), settings)
    out = io.BytesIO()
    image.crop((0, 0, width_px, height_px)).save(out, "PNG", compress_level=1)
    return out.getvalue()
