"""Encoding: settings in, one file's bytes out, in JPEG, PNG, WebP and AVIF.

Owns every encoder and the settings that reach it. The same pixels and settings give the same bytes:
one thread an encode, no clock, and no metadata but the blocks that are given. Settings are plain
values, so that they can be stored, compared and sent to a worker.
"""

import io
from collections.abc import Callable
from dataclasses import asdict, dataclass
from typing import Any, Literal

import imagequant
import numpy as np
import oxipng
import pyvips
from PIL import Image

from lean_parcel.core.arrays import U8
from lean_parcel.core.embed import embed_in_jpeg, embed_in_png, embed_in_webp
from lean_parcel.core.metadata import NO_BLOCKS, Blocks
from lean_parcel.core.pixels import has_alpha, over_background

Format = Literal["jpeg", "png", "webp", "avif"]
FORMATS: tuple[Format, ...] = ("jpeg", "png", "webp", "avif")
Chroma = Literal["4:2:0", "4:4:4"]
MEDIA_TYPES = {name: f"image/{name}" for name in FORMATS}


@dataclass(frozen=True, slots=True, kw_only=True)
class JpegSettings:
    """MozJPEG, progressive with trellis quantisation. `quality` 1 to 100; `background` fills
    transparency, as sRGB hex."""

    quality: int
    chroma: Chroma
    background: str = "#ffffff"
    format: Literal["jpeg"] = "jpeg"


@dataclass(frozen=True, slots=True, kw_only=True)
class WebpSettings:
    """libwebp. `quality` 0 to 100; a lossless file is tried harder for with more of it, and from 75
    to 100 gains under 5 % for six times the time. `effort` 0 to 6."""

    quality: int
    lossless: bool = False
    effort: int = 6
    format: Literal["webp"] = "webp"


@dataclass(frozen=True, slots=True, kw_only=True)
class AvifSettings:
    """libaom through libavif. `quality` 0 to 100, 64 of which differ; `speed` 0 to 10 (quick)."""

    quality: int
    chroma: Chroma
    speed: int = 6
    format: Literal["avif"] = "avif"


@dataclass(frozen=True, slots=True, kw_only=True)
class PngSettings:
    """PNG with a palette of `colours` (2 to 256), dithered, or lossless where `colours` is None.
    `effort` is that of the last, lossless squeeze: 0 (quick) to 6."""

    colours: int | None
    effort: int = 2
    format: Literal["png"] = "png"


Settings = JpegSettings | WebpSettings | AvifSettings | PngSettings
_SETTINGS: dict[str, Callable[..., Settings]] = {
    "jpeg": JpegSettings,
    "webp": WebpSettings,
    "avif": AvifSettings,
    "png": PngSettings,
}


def settings_from(values: dict[str, Any]) -> Settings:
    """Settings from the plain values that `dataclasses.asdict` gives."""
    return _SETTINGS[values["format"]](**values)


def settings_values(settings: Settings) -> dict[str, Any]:
    """The plain values of settings, `format` first."""
    values = asdict(settings)
    return {"format": values.pop("format"), **values}


def encode(pixels: U8, settings: Settings, blocks: Blocks = NO_BLOCKS) -> bytes:
    """One file of 8-bit pixels, (H, W, 3), or (H, W, 4) with straight alpha, in sRGB or in the
    gamut of the profile among the blocks.

    JPEG has no alpha and is composed on its background. Costs, at a megapixel on one core: JPEG
    0.1 to 0.4 s, WebP 0.3 to 0.9 s, AVIF 0.8 to 5 s (the more the higher the quality), PNG palette
    1 to 1.5 s, PNG lossless 1 to 2 s.
    """
    match settings:
        case JpegSettings():
            return embed_in_jpeg(_encode_jpeg(pixels, settings), blocks)
        case WebpSettings():
            return _with_blocks(_encode_webp(pixels, settings), pixels, blocks)
        case AvifSettings():
            return _encode_avif(pixels, settings, blocks)
        case PngSettings():
            return embed_in_png(_encode_png(pixels, settings), blocks)


def _with_blocks(webp: bytes, pixels: U8, blocks: Blocks) -> bytes:
    height_px, width_px = pixels.shape[:2]
    return embed_in_webp(
        webp, blocks, width_px=width_px, height_px=height_px, has_alpha=has_alpha(pixels)
    )


def block_costs(blocks: Blocks) -> dict[Format, int]:
    """The bytes that blocks add to a file of each format, measured on one of 16 x 16 pixels."""
    pixels = np.zeros((16, 16, 3), np.uint8)
    smallest: tuple[Settings, ...] = (
        JpegSettings(quality=50, chroma="4:2:0"),
        PngSettings(colours=2, effort=0),
        WebpSettings(quality=50, effort=0),
        AvifSettings(quality=50, chroma="4:2:0", speed=10),
    )
    return {
        settings.format: len(encode(pixels, settings, blocks)) - len(encode(pixels, settings))
        for settings in smallest
    }


def probe_size_bytes(pixels: U8) -> int:
    """How much there is to encode: the size of a baseline JPEG at quality 75, 10 ms a megapixel.

    Sizes in every format move together with it, which gives a search its first guess.
    """
    opaque = over_background(pixels, "#ffffff")
    return len(_vips(opaque).jpegsave_buffer(Q=75, trellis_quant=False, keep="none"))


def _vips(pixels: U8) -> pyvips.Image:
    return pyvips.Image.new_from_array(pixels).copy(interpretation="srgb")


def _encode_jpeg(pixels: U8, settings: JpegSettings) -> bytes:
    return bytes(
        _vips(over_background(pixels, settings.background)).jpegsave_buffer(
            Q=settings.quality,
            subsample_mode="on" if settings.chroma == "4:2:0" else "off",
            interlace=True,
            optimize_coding=True,
            optimize_scans=True,
            trellis_quant=True,
            overshoot_deringing=True,
            quant_table=3,
            keep="none",
        )
    )


def _encode_webp(pixels: U8, settings: WebpSettings) -> bytes:
    return bytes(
        _vips(pixels).webpsave_buffer(
            Q=settings.quality, lossless=settings.lossless, effort=settings.effort, keep="none"
        )
    )


def _encode_avif(pixels: U8, settings: AvifSettings, blocks: Blocks) -> bytes:
    """`tune=ssimulacra2` (libaom 3.13; it does not go with quality 100) won half a point to two
    points of likeness at equal bytes on the demo photos over the default; see docs/metrics.md."""
    out = io.BytesIO()
    Image.fromarray(pixels).save(
        out,
        "AVIF",
        quality=settings.quality,
        subsampling=settings.chroma,
        speed=settings.speed,
        max_threads=1,
        advanced={"color:tune": "ssimulacra2"} if settings.quality < 100 else {},
        exif=blocks.exif,
        xmp=blocks.xmp,
        icc_profile=blocks.icc,
    )
    return out.getvalue()


def _encode_png(pixels: U8, settings: PngSettings) -> bytes:
    image = Image.fromarray(pixels)
    if settings.colours is not None:
        image = _with_palette(image, settings.colours)
    out = io.BytesIO()
    image.save(out, "PNG", compress_level=1)
    return bytes(oxipng.optimize_from_memory(out.getvalue(), level=settings.effort))


def _with_palette(image: Image.Image, colours: int) -> Image.Image:
    indices, palette = imagequant.quantize_raw_rgba_bytes(
        image.convert("RGBA").tobytes(), *image.size, dithering_level=1.0, max_colors=colours
    )
    reduced = Image.frombytes("P", image.size, indices)
    reduced.putpalette(palette, "RGBA")
    return reduced
