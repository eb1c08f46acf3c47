"""Opening a photo: recognising its format, checking its limits, and reading its pixels.

Owns every decoder of foreign files. A photo is read as a lazy libvips image, so that it can be
framed in one streaming pass; nothing is decoded before its pixel count was checked against the
limits. Formats are recognised by content, never by name: browsers save files under names that
promise another format.
"""

import io
import struct
from collections.abc import Iterator
from contextlib import contextmanager

import numpy as np
import pillow_heif
import pyvips
from PIL import Image, ImageOps

from lean_parcel.core.arrays import U8, U16
from lean_parcel.core.errors import (
    DamagedPhoto,
    EmptyPhoto,
    OutOfMemory,
    TooManyBytes,
    TooManyPixels,
    TruncatedPhoto,
    UnsupportedPhoto,
)
from lean_parcel.core.original.hdr import tone_mapped
from lean_parcel.core.original.signalled import signalled
from lean_parcel.core.original.source import Limits, Source
from lean_parcel.core.original.tiff import Tiff
from lean_parcel.core.picture.gamut import PROFILE, Gamut, in_gamut
from lean_parcel.core.picture.orientation import shown
from lean_parcel.core.picture.resample import resampled

_SIGNATURES = {
    b"\xff\xd8\xff": "jpeg",
    b"\x89PNG\r\n\x1a\n": "png",
    b"GIF87a": "gif",
    b"GIF89a": "gif",
    b"II*\0": "tiff",
    b"MM\0*": "tiff",
    b"II+\0": "tiff",
    b"MM\0+": "tiff",
}
_AVIF_SEQUENCE = b"avis"
_AVIF_BRANDS = {b"avif", _AVIF_SEQUENCE}
_HEIC_BRANDS = {b"heic", b"heix", b"hevc", b"hevx", b"heim", b"heis", b"mif1", b"msf1"}
# Pixels are counted here, before Pillow sees a file.
Image.MAX_IMAGE_PIXELS = None
_ORIENTATION = "orientation"


def identify(data: bytes, name: str) -> str:
    """The format of a file's content: a key of FORMAT_NAMES.

    Raises EmptyPhoto or UnsupportedPhoto.
    """
    if not data:
        raise EmptyPhoto(f"“{name}” is empty: the file has no bytes.")
    content = _format_of_content(data)
    if content is None:
        raise UnsupportedPhoto(
            f"“{name}” is not a picture that can be opened here."
            " JPEG, PNG, WebP, AVIF, HEIC, TIFF and GIF can."
        )
    return content


def _format_of_content(data: bytes) -> str | None:
    for signature, name in _SIGNATURES.items():
        if data.startswith(signature):
            return name
    if data[:4] == b"RIFF" and data[8:12] == b"WEBP":
        return "webp"
    if data[4:8] == b"ftyp":
        end = min(int.from_bytes(data[:4], "big"), 256)
        brands = {data[8:12]} | {data[i : i + 4] for i in range(16, end, 4)}
        if brands & _AVIF_BRANDS:
            return "avif"
        if brands & _HEIC_BRANDS:
            return "heic"
    return None


#: What decoders raise; libheif's binding RuntimeErrors, and an IndexError for a file of no picture.
_RAISED = (
    pyvips.Error,
    OSError,
    ValueError,
    SyntaxError,
    EOFError,
    IndexError,
    RuntimeError,
    struct.error,
)


@contextmanager
def reading(name: str) -> Iterator[None]:
    """Translates what decoders raise into PhotoErrors that name the photo."""
    try:
        yield
    except MemoryError as error:
        raise OutOfMemory(f"“{name}” needs more memory than a photo may take.") from error
    except _RAISED as error:
        detail = str(error)
        text = detail.lower()
        if "out of memory" in text or "unable to allocate" in text:
            raise OutOfMemory(
                f"“{name}” needs more memory than a photo may take.", detail
            ) from error
        if any(sign in text for sign in _TRUNCATION_SIGNS):
            raise TruncatedPhoto(
                f"“{name}” is cut off: the file ends before the picture does.", detail
            ) from error
        raise DamagedPhoto(
            f"“{name}” is damaged: its picture cannot be decoded.", detail
        ) from error


_TRUNCATION_SIGNS = (
    "premature end",
    "truncated",
    "unexpected end",
    "end of stream",
    "end of file",
    "read error",
    "read past",
    "not enough data",
    "not enough bytes",
    "insufficient data",
    "exhausted",
)


def open_photo(
    data: bytes, name: str, limits: Limits, gamut: Gamut = "srgb"
) -> tuple[Source, pyvips.Image]:
    """A photo's facts and its pixels as a lazy image, in the gamut, 8 or 16 bit, with or without
    alpha.

    The image is sequential and still turned as it was stored: `_ORIENTATION` in its metadata tells
    how to turn it upright, which is cheaper after shrinking (see `frame`). What moves gives its
    first frame. Raises a PhotoError; faults deeper in the file show when pixels are
    pulled, so do that inside `reading` too.
    """
    if len(data) > limits.max_size_bytes:
        raise TooManyBytes(
            f"“{name}” has {len(data):,} bytes; a photo may have {limits.max_size_bytes:,}."
        )
    kind = identify(data, name)
    with reading(name):
        image = _load(kind, data, name, limits)
        orientation = orientation_of(image)
        width_px, height_px = image.width, image.height
        if orientation >= 5:
            width_px, height_px = height_px, width_px
        converted = in_gamut(image, gamut)
        source = Source(
            format=kind,
            size_bytes=len(data),
            width_px=width_px,
            height_px=height_px,
            has_alpha=bool(converted.hasalpha()),
        )
        return source, converted


def is_stored_turned(data: bytes) -> bool:
    """Whether a file that was opened before is upright only by its EXIF orientation."""
    if data[8:12] == _AVIF_SEQUENCE:  # turned by its container, if at all
        return False
    return orientation_of(pyvips.Image.new_from_buffer(data, "")) != 1


def is_read_whole(data: bytes, kind: str) -> bool:
    """Whether a file of a format is decoded at once and whole, since libvips may not know it."""
    return kind in ("heic", "tiff") or data[8:12] == _AVIF_SEQUENCE


def orientation_of(image: pyvips.Image) -> int:
    """The EXIF orientation, 1 to 8; 1 where there is none or it is out of range."""
    if _ORIENTATION not in image.get_fields():
        return 1
    value = int(image.get(_ORIENTATION))
    return value if 1 <= value <= 8 else 1


def _check_pixels(width_px: int, height_px: int, name: str, limits: Limits) -> None:
    if width_px * height_px > limits.max_pixels:
        raise TooManyPixels(
            f"“{name}” has {width_px:,} × {height_px:,} pixels, which is more than the"
            f" {limits.max_pixels / 1_000_000:.0f} megapixels that can be opened."
        )


def _load(kind: str, data: bytes, name: str, limits: Limits) -> pyvips.Image:
    if kind == "heic":
        return _load_heic(data, name, limits)
    if kind == "tiff":
        tiff = Tiff(data, name)
        _check_pixels(tiff.width_px, tiff.height_px, name, limits)
        return tiff.load()
    if data[8:12] == _AVIF_SEQUENCE:
        return _load_first_frame(data, name, limits)
    image = pyvips.Image.new_from_buffer(data, "", access="sequential", fail_on="truncated")
    _check_pixels(image.width, image.height, name, limits)
    return _as_signalled(image, data, kind)


def _as_signalled(image: pyvips.Image, data: bytes, kind: str) -> pyvips.Image:
    """An image with the colours that its file says beside a profile."""
    found = signalled(data, kind)
    if found is None:
        return image
    image = _with_profile(image, found.profile)
    return tone_mapped(image, found.hdr) if found.hdr else image


def _load_heic(data: bytes, name: str, limits: Limits) -> pyvips.Image:
    """HEIC through Pillow's plug-in, which turns the picture upright itself."""
    header = pillow_heif.open_heif(data, convert_hdr_to_8bit=False)
    width_px, height_px = header.size
    _check_pixels(width_px, height_px, name, limits)
    image = _of_pixels(np.asarray(header), header.info.get("icc_profile"))
    return _as_signalled(image, data, "heic")


def _load_first_frame(data: bytes, name: str, limits: Limits) -> pyvips.Image:
    """The first frame of an AVIF that moves, which libvips does not know, by Pillow; upright."""
    with Image.open(io.BytesIO(data), formats=("AVIF",)) as first:
        _check_pixels(*first.size, name, limits)
        upright = ImageOps.exif_transpose(first)
        image = _of_pixels(np.asarray(upright), first.info.get("icc_profile"))
        return _as_signalled(image, data, "avif")


def _of_pixels(pixels: U8 | U16, profile: bytes | None) -> pyvips.Image:
    image = pyvips.Image.new_from_array(pixels)
    return _with_profile(image, profile) if profile else image


def _with_profile(image: pyvips.Image, profile: bytes) -> pyvips.Image:
    """An image whose RGB codes are those of a profile, or of none where it is empty."""
    if image.bands < 3:  # a profile of three channels does not fit grey
        image = image.colourspace("rgb16" if image.format == "ushort" else "srgb")
    image = image.copy()
    if profile:
        image.set_type(pyvips.GValue.blob_type, PROFILE, profile)
    elif PROFILE in image.get_fields():
        image.remove(PROFILE)
    return image


def is_shown_otherwise(data: bytes, kind: str) -> bool:
    """Whether browsers do not agree on how a file that was opened before looks: the inks of CMYK,
    and more light than paper white."""
    found = signalled(data, kind)
    if found is not None and found.hdr:
        return True
    is_known = data[8:12] != _AVIF_SEQUENCE
    return is_known and pyvips.Image.new_from_buffer(data, "").interpretation == "cmyk"


def is_deep(image: pyvips.Image) -> bool:
    """Whether an image has more than 8 bits a sample."""
    return bool(image.format != "uchar")


def open_pixels(data: bytes, name: str, limits: Limits, gamut: Gamut = "srgb") -> U8:
    """All pixels of a photo, upright: 8-bit (H, W, 3), or (H, W, 4). Raises a PhotoError."""
    _, image = open_photo(data, name, limits, gamut)
    with reading(name):
        samples = np.asarray(image.numpy())
        codes = resampled(
            samples, image.width, image.height, "nearest", "gamma", dithers=is_deep(image)
        )
        return shown(codes, orientation_of(image))
