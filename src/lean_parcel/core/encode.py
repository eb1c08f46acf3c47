"""Encoding: settings in, one file's bytes out, in JPEG, PNG, WebP and AVIF.

Owns every encoder and the settings that reach it. The same pixels and settings give the same bytes:
one thread an encode, no clock, and no metadata but the blocks that are given. Settings are plain
values, so that they can be stored, compared and sent to a worker.
"""

import io
from collections.abc import Callable
from dataclasses import asdict, dataclass
from typing import Any, Literal

import cv2
import imagequant
import numpy as np
import oxipng
import pyvips
from PIL import Image

from lean_parcel.core.arrays import U8
from lean_parcel.core.embed import embed_in_jpeg, embed_in_png, embed_in_webp
from lean_parcel.core.errors import UsageError
from lean_parcel.core.metadata import NO_BLOCKS, Blocks
from lean_parcel.core.pixels import has_alpha, over_background

Format = Literal["jpeg", "png", "webp", "avif"]
FORMATS: tuple[Format, ...] = ("jpeg", "png", "webp", "avif")
Chroma = Literal["4:2:0", "4:2:2", "4:4:4"]
MEDIA_TYPES = {name: f"image/{name}" for name in FORMATS}


@dataclass(frozen=True, slots=True, kw_only=True)
class JpegSettings:
    """MozJPEG, by default progressive with trellis quantisation; with chroma 4:2:2, which libvips
    does not offer, libjpeg-turbo. `quality` 1 to 100; `table` 0 to 8, MozJPEG's quantisation
    tables; `smoothing_px` the sigma of a Gaussian before encoding; `background` fills transparency,
    as sRGB hex."""

    quality: int
    chroma: Chroma
    progressive: bool = True
    trellis: bool = True
    deringing: bool = True
    table: int = 3
    smoothing_px: float = 0.0
    background: str = "#ffffff"
    format: Literal["jpeg"] = "jpeg"


@dataclass(frozen=True, slots=True, kw_only=True)
class WebpSettings:
    """libwebp. `quality` 0 to 100; a lossless file is tried harder for with more of it, and from 75
    to 100 gains under 5 % for six times the time; near-lossless, it is how near. `effort` 0 to 6;
    `alpha_quality` 0 to 100, lossless at 100."""

    quality: int
    lossless: bool = False
    near_lossless: bool = False
    effort: int = 6
    sharp_chroma: bool = False
    deblock: bool = False
    alpha_quality: int = 100
    format: Literal["webp"] = "webp"


@dataclass(frozen=True, slots=True, kw_only=True)
class AvifSettings:
    """libaom: through libavif at 8 bits a sample, through libheif at 10 and 12. `quality` 0 to 100,
    64 of which differ; `speed` 0 to 10 (quick); `alpha_quality` None is that of the colours;
    `denoise` 0 to 50 takes grain out, and has the browser put made grain in."""

    quality: int
    chroma: Chroma
    speed: int = 6
    depth: Literal[8, 10, 12] = 8
    alpha_quality: int | None = None
    denoise: int = 0
    format: Literal["avif"] = "avif"


@dataclass(frozen=True, slots=True, kw_only=True)
class PngSettings:
    """PNG with a palette of `colours` (2 to 256), dithered by 0 to 1, or lossless where `colours`
    is None; `bits` 1 to 8 of each sample are kept before that. `effort` is that of the last,
    lossless squeeze: 0 (quick) to 6."""

    colours: int | None
    dither: float = 1.0
    bits: int = 8
    effort: int = 2
    format: Literal["png"] = "png"


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptSettings:
    """Nothing is encoded: the original is kept as it came, in its own format."""

    format: Format
    kept: Literal[True] = True


EncoderSettings = JpegSettings | WebpSettings | AvifSettings | PngSettings
Settings = EncoderSettings | KeptSettings
_SETTINGS: dict[str, Callable[..., EncoderSettings]] = {
    "jpeg": JpegSettings,
    "webp": WebpSettings,
    "avif": AvifSettings,
    "png": PngSettings,
}


def settings_from(values: dict[str, Any]) -> Settings:
    """Settings from the plain values that `dataclasses.asdict` gives."""
    return KeptSettings(**values) if values.get("kept") else encoder_settings_from(values)


def encoder_settings_from(values: dict[str, Any]) -> EncoderSettings:
    """The same for what is encoded."""
    return _SETTINGS[values["format"]](**values)


def settings_values(settings: Settings) -> dict[str, Any]:
    """The plain values of settings, `format` first."""
    values = asdict(settings)
    return {"format": values.pop("format"), **values}


def encode(pixels: U8, settings: Settings, blocks: Blocks = NO_BLOCKS) -> bytes:
    """One file of 8-bit pixels, (H, W, 3), or (H, W, 4) with straight alpha, in sRGB or in the
    gamut of the profile among the blocks.

    JPEG has no alpha and is composed on its background. Raises UsageError `invalid_settings` for an
    original that is kept. Costs, at a megapixel on one core: JPEG
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
        case KeptSettings():
            raise UsageError("An original is kept, not encoded.", "invalid_settings")


def _with_blocks(webp: bytes, pixels: U8, blocks: Blocks) -> bytes:
    height_px, width_px = pixels.shape[:2]
    return embed_in_webp(
        webp, blocks, width_px=width_px, height_px=height_px, has_alpha=has_alpha(pixels)
    )


_TINY = np.zeros((16, 16, 3), np.uint8)
_SMALLEST: tuple[EncoderSettings, ...] = (
    JpegSettings(quality=50, chroma="4:2:0"),
    PngSettings(colours=2, effort=0),
    WebpSettings(quality=50, effort=0),
    AvifSettings(quality=50, chroma="4:2:0", speed=10),
)


def block_costs(blocks: Blocks) -> dict[Format, int]:
    """The bytes that blocks add to a file of each format, measured on one of 16 x 16 pixels."""
    if blocks == NO_BLOCKS:
        return dict.fromkeys(FORMATS, 0)
    return {
        settings.format: len(encode(_TINY, settings, blocks)) - len(encode(_TINY, settings))
        for settings in _SMALLEST
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
    opaque = over_background(pixels, settings.background)
    if settings.smoothing_px:
        opaque = np.asarray(cv2.GaussianBlur(opaque, (0, 0), settings.smoothing_px), np.uint8)
    if settings.chroma == "4:2:2":
        return _encode_jpeg_422(opaque, settings)
    return bytes(
        _vips(opaque).jpegsave_buffer(
            Q=settings.quality,
            subsample_mode="on" if settings.chroma == "4:2:0" else "off",
            interlace=settings.progressive,
            optimize_coding=True,
            optimize_scans=settings.progressive,
            trellis_quant=settings.trellis,
            overshoot_deringing=settings.deringing,
            quant_table=settings.table,
            keep="none",
        )
    )


def _encode_jpeg_422(opaque: U8, settings: JpegSettings) -> bytes:
    out = io.BytesIO()
    Image.fromarray(opaque).save(
        out,
        "JPEG",
        quality=settings.quality,
        subsampling="4:2:2",
        progressive=settings.progressive,
        optimize=True,
    )
    return out.getvalue()


def _encode_webp(pixels: U8, settings: WebpSettings) -> bytes:
    return bytes(
        _vips(pixels).webpsave_buffer(
            Q=settings.quality,
            lossless=settings.lossless,
            near_lossless=settings.near_lossless,
            effort=settings.effort,
            smart_subsample=settings.sharp_chroma,
            smart_deblock=settings.deblock,
            alpha_q=settings.alpha_quality,
            keep="none",
        )
    )


def _encode_avif(pixels: U8, settings: AvifSettings, blocks: Blocks) -> bytes:
    """`tune=ssimulacra2` (libaom 3.13; it does not go with quality 100) won half a point to two
    points of likeness at equal bytes on the demo photos over the default; without palette blocks
    and trellis quantisation it is 0.1 points better still, and quicker; see docs/metrics.md."""
    if settings.depth > 8:
        return _encode_deep_avif(pixels, settings, blocks)
    advanced = {"color:enable-palette": "0", "color:disable-trellis-quant": "1"}
    if settings.quality < 100:
        advanced["color:tune"] = "ssimulacra2"
    if settings.denoise:
        advanced["color:denoise-noise-level"] = str(settings.denoise)
    if settings.alpha_quality is not None and has_alpha(pixels):
        advanced["alpha:cq-level"] = str(quantiser(settings.alpha_quality))
    out = io.BytesIO()
    Image.fromarray(pixels).save(
        out,
        "AVIF",
        quality=settings.quality,
        subsampling=settings.chroma,
        speed=settings.speed,
        max_threads=1,
        advanced=advanced,
        exif=blocks.exif,
        xmp=blocks.xmp,
        icc_profile=blocks.icc,
    )
    return out.getvalue()


def quantiser(quality: int) -> int:
    """The one of aom's 64 quantisers that libavif takes for a quality."""
    return ((100 - quality) * 63 + 50) // 100


def _encode_deep_avif(pixels: U8, settings: AvifSettings, blocks: Blocks) -> bytes:
    image = _vips(pixels).copy()
    for name, block in (("exif", blocks.exif), ("xmp", blocks.xmp), ("icc-profile", blocks.icc)):
        if block:
            image.set_type(pyvips.GValue.blob_type, f"{name}-data", block)
    return bytes(
        image.heifsave_buffer(
            Q=settings.quality,
            compression="av1",
            encoder="aom",
            effort=9 - min(9, settings.speed),
            bitdepth=settings.depth,
            subsample_mode="on" if settings.chroma == "4:2:0" else "off",
            keep="all" if blocks != NO_BLOCKS else "none",
        )
    )


def _encode_png(pixels: U8, settings: PngSettings) -> bytes:
    if settings.bits < 8:
        pixels = _posterised(pixels, settings.bits)
    image = Image.fromarray(pixels)
    if settings.colours is not None:
        image = _with_palette(image, settings.colours, settings.dither)
    out = io.BytesIO()
    image.save(out, "PNG", compress_level=1)
    return bytes(oxipng.optimize_from_memory(out.getvalue(), level=settings.effort))


def _posterised(pixels: U8, bits: int) -> U8:
    """Samples on `2 ** bits` levels, black and white among them."""
    levels = 2**bits - 1
    codes = np.rint(np.rint(np.arange(256) * (levels / 255)) * (255 / levels)).astype(np.uint8)
    return np.asarray(codes[pixels], np.uint8)


def _with_palette(image: Image.Image, colours: int, dither: float) -> Image.Image:
    indices, palette = imagequant.quantize_raw_rgba_bytes(
        image.convert("RGBA").tobytes(), *image.size, dithering_level=dither, max_colors=colours
    )
    reduced = Image.frombytes("P", image.size, indices)
    reduced.putpalette(palette, "RGBA")
    return reduced
