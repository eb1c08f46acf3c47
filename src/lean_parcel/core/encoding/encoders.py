"""Encoding: pixels and settings in, one file's bytes out, in JPEG, PNG, WebP and AVIF.

Owns every encoder. The same pixels and settings give the same bytes: one thread an encode, no
clock, and no metadata, which is put into a file when it is handed out.
"""

import io

import cv2
import imagequant
import mozjpeg_lossless_optimization as mozjpeg
import numpy as np
import oxipng
import pyjpegli
import pyvips
from PIL import Image

from lean_parcel.core.arrays import U8
from lean_parcel.core.encoding.qualities import quantiser
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    EncoderSettings,
    JpegSettings,
    PassThrough,
    PngSettings,
    Settings,
    WebpSettings,
)
from lean_parcel.core.errors import UsageError
from lean_parcel.core.formats import Format
from lean_parcel.core.metadata.avif_items import with_alpha_of, with_primaries
from lean_parcel.core.metadata.embed import (
    embedded,
    with_jpeg_profile,
    with_png_profile,
    with_webp_profile,
)
from lean_parcel.core.metadata.values import Segments
from lean_parcel.core.picture.gamut import Gamut, profile_of
from lean_parcel.core.picture.pixels import (
    has_alpha,
    is_grey,
    is_opaque,
    over_background,
    with_hidden_filled,
)
from lean_parcel.core.picture.resample import bayer
from lean_parcel.core.picture.serialisation import tagged


def encode(pixels: U8, settings: Settings, gamut: Gamut = "srgb") -> bytes:
    """One file of 8-bit pixels, (H, W, 3), or (H, W, 4) with straight alpha, in a gamut, which it
    says by an ICC profile, an 8-bit AVIF by numbers; sRGB needs neither. Of a grey picture only
    lightness is kept (but with adaptive quantisation, and at 10 and 12 bits), and no gamut: greys
    are the same in every one that there is.

    JPEG has no alpha and is composed on its background. Raises UsageError `invalid_settings` for a
    PassThrough, and `too_large_for_format` for a side that a WebP cannot have. Costs, at a
    megapixel on one core: JPEG 0.1 to 0.4 s, WebP 0.3 to 0.9 s, AVIF 0.8 to 5 s (the more the
    higher the quality), PNG palette 1 to 1.5 s, PNG lossless 1 to 2 s.
    """
    if isinstance(settings, JpegSettings):
        pixels = over_background(pixels, settings.background, gamut)
    if is_grey(pixels):
        gamut = "srgb"
    icc = profile_of(gamut)
    match settings:
        case JpegSettings():
            return with_jpeg_profile(_encode_jpeg(pixels, settings), icc)
        case WebpSettings():
            return with_webp_profile(_encode_webp(pixels, settings), icc)
        case AvifSettings(depth=8):
            return _encode_avif(pixels, settings, gamut)
        case AvifSettings():
            return _encode_deep_avif(pixels, settings, icc)
        case PngSettings():
            return with_png_profile(_encode_png(pixels, settings), icc)
        case PassThrough():
            raise UsageError("An original is passed through, not encoded.", "invalid_settings")


#: RFC 9649, 2.7: 14 bits a side.
_WEBP_SIDE_PX = 16_383
_TINY = np.zeros((16, 16, 3), np.uint8)
_SMALLEST: tuple[EncoderSettings, ...] = (
    JpegSettings(quality=50, chroma="4:2:0"),
    PngSettings(colours=2, effort=0),
    WebpSettings(quality=50, effort=0),
    AvifSettings(quality=50, chroma="4:2:0", speed=10),
)


def segment_costs(segments: Segments) -> dict[Format, int]:
    """The bytes that segments add to a file of each format, measured on one of 16 x 16 pixels."""
    files = ((settings.format, encode(_TINY, settings)) for settings in _SMALLEST)
    return {name: len(embedded(data, name, segments)) - len(data) for name, data in files}


def probe_size_bytes(pixels: U8) -> int:
    """How much there is to encode: the size of a baseline JPEG at quality 75, 10 ms a megapixel.

    Sizes in every format move together with it, which gives a search its first guess.
    """
    opaque = over_background(pixels, "#ffffff")
    return len(tagged(opaque).jpegsave_buffer(Q=75, trellis_quant=False, keep="none"))


def _encode_jpeg(opaque: U8, settings: JpegSettings) -> bytes:
    if settings.smoothing_px:
        opaque = np.asarray(cv2.GaussianBlur(opaque, (0, 0), settings.smoothing_px), np.uint8)
    if settings.adaptive:
        return _encode_adaptive_jpeg(opaque, settings)
    if is_grey(opaque):
        opaque = np.ascontiguousarray(opaque[..., 0])
    if settings.chroma == "4:2:2":
        return _encode_jpeg_422(opaque, settings)
    return bytes(
        tagged(opaque).jpegsave_buffer(
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


def _encode_adaptive_jpeg(opaque: U8, settings: JpegSettings) -> bytes:
    """jpegli writes one scan, which MozJPEG arranges anew without loss. It takes colours only, so a
    grey picture has chroma planes, of zeros."""
    height_px, width_px = opaque.shape[:2]
    opaque = np.ascontiguousarray(opaque)
    data = bytes(pyjpegli.encode(opaque, width_px, height_px, quality=settings.quality))
    return bytes(mozjpeg.optimize(data)) if settings.progressive else data


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
    if max(pixels.shape) > _WEBP_SIDE_PX:
        message = f"A WebP has at most {_WEBP_SIDE_PX:,} pixels a side."
        raise UsageError(message, "too_large_for_format")
    return bytes(
        tagged(pixels).webpsave_buffer(
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


#: Code points of Display P3's primaries (ITU-T H.273), and libaom's name for them.
_P3_PRIMARIES, _P3_NAME = 12, "smpte432"


def _encode_avif(pixels: U8, settings: AvifSettings, gamut: Gamut) -> bytes:
    """Alpha is stored straight, since not every decoder takes colours that were multiplied by it:
    colours and alpha are encoded apart and joined."""
    chroma = "4:0:0" if is_grey(pixels) else settings.chroma
    if not is_opaque(pixels):
        pixels = with_hidden_filled(pixels)
    colours = pixels[..., :3]
    if chroma in ("4:2:0", "4:2:2"):
        colours = _against_rounding(colours)
    data = _avif_of(colours, settings, chroma, gamut)
    if not is_opaque(pixels):
        flat = np.dstack([np.full_like(colours, 128), pixels[..., 3]])
        data = with_alpha_of(data, _avif_of(flat, settings, chroma, gamut))
    return with_primaries(data, _P3_PRIMARIES) if gamut == "display-p3" else data


def _avif_of(pixels: U8, settings: AvifSettings, chroma: str, gamut: Gamut) -> bytes:
    """`tune=ssimulacra2` (libaom 3.13, which rejects it at quality 100) won 0.5 to 2 points of
    likeness over the default at equal bytes on the demo photos; without palette blocks and trellis
    quantisation it is 0.1 points better again, and quicker; see docs/metrics.md.

    Opaque pixels go in with an alpha channel, to be multiplied by it: for those libavif converts to
    YCbCr with rounding. Its quicker way truncates, and loses half a code of both chroma planes. An
    alpha channel that is opaque throughout is left out of the file again.
    """
    advanced = {"color:enable-palette": "0", "color:disable-trellis-quant": "1"}
    if settings.quality < 100:
        advanced["color:tune"] = "ssimulacra2"
    if settings.denoise:
        advanced["color:denoise-noise-level"] = str(settings.denoise)
    if settings.alpha_quality is not None and has_alpha(pixels):
        advanced["alpha:cq-level"] = str(quantiser(settings.alpha_quality))
    if gamut == "display-p3":
        advanced["color:color-primaries"] = _P3_NAME
    out = io.BytesIO()
    Image.fromarray(pixels).convert("RGBA").save(
        out,
        "AVIF",
        quality=settings.quality,
        subsampling=chroma,
        speed=settings.speed,
        alpha_premultiplied=not has_alpha(pixels),
        max_threads=1,
        advanced=advanced,
    )
    return out.getvalue()


#: What a shift of both chroma planes by one code does to red, green and blue (BT.601).
_CHROMA_SHIFT = np.array([1.402, -0.344 - 0.714, 1.772])
#: Browsers that enlarge chroma with libyuv round upwards, by an eighth of a code on average; others
#: do not. Two thirds of it leave both less than a quarter of a code off; see docs/metrics.md.
_TAKEN_OFF = 2 / 3 / 8
#: Ordered thresholds (Bayer, 1973): 16 of them, evenly spread.
_THRESHOLDS = ((bayer(2) + 0.5) / 16).astype(np.float32)


def _against_rounding(colours: U8) -> U8:
    """Colours, (H, W, 3), whose chroma is lower by less than a code, on average, as ordered
    dithering has it; those amid equal ones stay, since between them nothing is rounded."""
    height_px, width_px = colours.shape[:2]
    tiles = (height_px // 4 + 1, width_px // 4 + 1)
    thresholds = np.tile(_THRESHOLDS, tiles)[:height_px, :width_px, None]
    shift = (-_TAKEN_OFF * _CHROMA_SHIFT).astype(np.float32)
    colours = np.ascontiguousarray(colours)
    around = np.ones((5, 5), np.uint8)
    is_flat = (cv2.dilate(colours, around) == cv2.erode(colours, around)).all(2, keepdims=True)
    lowered = np.clip(np.floor(colours + shift + thresholds), 0, 255)
    return np.where(is_flat, colours, lowered).astype(np.uint8)


def _encode_deep_avif(pixels: U8, settings: AvifSettings, icc: bytes) -> bytes:
    """libheif takes the upper bits of 16, so samples are spread over all 16: 255 times 257 is
    65535. libavif, as Chromium and Pillow use it, cuts the lower bits of chroma off when it
    decodes; half of what they can hold is added here, which is what is lost on average."""
    spare_bits = settings.depth - 8
    cut_off = (2**spare_bits - 1) / 2 ** (spare_bits + 1)
    samples = pixels.astype(np.float32) * 257
    samples[..., :3] += cut_off * _CHROMA_SHIFT * 257
    deep = np.clip(np.rint(samples), 0, 65535).astype(np.uint16)
    image = pyvips.Image.new_from_array(deep).copy(interpretation="rgb16")
    if icc:
        image.set_type(pyvips.GValue.blob_type, "icc-profile-data", icc)
    return bytes(
        image.heifsave_buffer(
            Q=settings.quality,
            compression="av1",
            encoder="aom",
            effort=9 - min(9, settings.speed),
            bitdepth=settings.depth,
            subsample_mode="on" if settings.chroma == "4:2:0" else "off",
            keep="icc" if icc else "none",
        )
    )


def _encode_png(pixels: U8, settings: PngSettings) -> bytes:
    return optimised_png(with_fewer_colours(pixels, settings), settings.effort)


def optimised_png(image: Image.Image, effort: int) -> bytes:
    """A lossless file of an image, optimised with an effort of 0 to 6."""
    out = io.BytesIO()
    image.save(out, "PNG", compress_level=1)
    return bytes(oxipng.optimize_from_memory(out.getvalue(), level=effort))


def with_fewer_colours(pixels: U8, settings: PngSettings) -> Image.Image:
    """What a PNG with these settings holds: with a palette, or all colours."""
    if settings.bits < 8:
        pixels = _posterised(pixels, settings.bits)
    image = Image.fromarray(pixels)
    if settings.colours is None:
        return image
    return _with_palette(image, settings.colours, settings.dither)


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
