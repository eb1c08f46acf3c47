"""What came in: telling a photo's format, reading it, and bringing its colours to one gamut.

Owns every decoder. A photo is read as a lazy libvips image, so that a frame of it can be made in
one streaming pass; nothing is decoded before its pixel count was checked against the limits.
Formats are told by content, never by name; a name that promises another format is an error, since
web servers go by the name.
"""

import io
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from functools import lru_cache
from pathlib import PurePath

import numpy as np
import pillow_heif
import pyvips
from PIL import Image, ImageCms

from lean_parcel.core.errors import (
    DamagedPhoto,
    EmptyPhoto,
    MisnamedPhoto,
    OutOfMemory,
    TooManyBytes,
    TooManyPixels,
    TruncatedPhoto,
    UnsupportedPhoto,
)
from lean_parcel.core.framing import Gamut

#: Extensions by format, the usual one first.
EXTENSIONS = {
    "jpeg": (".jpg", ".jpeg", ".jpe", ".jfif"),
    "png": (".png",),
    "webp": (".webp",),
    "avif": (".avif",),
    "heic": (".heic", ".heif", ".hif"),
    "tiff": (".tif", ".tiff"),
    "gif": (".gif",),
}
_FORMAT_OF_EXTENSION = {e: name for name, extensions in EXTENSIONS.items() for e in extensions}
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
_AVIF_BRANDS = {b"avif", b"avis"}
_HEIC_BRANDS = {b"heic", b"heix", b"hevc", b"hevx", b"heim", b"heis", b"mif1", b"msf1"}
#: Offsets and lengths of strips and of tiles (TIFF 6.0).
_TIFF_DATA_TAGS = ((273, 279), (324, 325))
# Pixels are counted here, before Pillow sees a file.
Image.MAX_IMAGE_PIXELS = None
#: The name of a profile among the metadata of a libvips image.
PROFILE = "icc-profile-data"
_VIPS_PROFILES: dict[Gamut, str] = {"srgb": "srgb", "display-p3": "p3"}
_ORIENTATION = "orientation"


@dataclass(frozen=True, slots=True, kw_only=True)
class Limits:
    """What a photo may cost before it is refused."""

    max_pixels: int = 150_000_000
    max_size_bytes: int = 200_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Source:
    """An original as it came in; width and height are those of the upright picture."""

    format: str
    size_bytes: int
    width_px: int
    height_px: int
    has_alpha: bool


def identify(data: bytes, name: str) -> str:
    """The format of a file's content: a key of EXTENSIONS.

    Raises EmptyPhoto, UnsupportedPhoto, or MisnamedPhoto where the name's extension is that of
    another format.
    """
    if not data:
        raise EmptyPhoto(f"“{name}” is empty: the file has no bytes.")
    content = _format_of_content(data)
    promised = _FORMAT_OF_EXTENSION.get(PurePath(name).suffix.lower())
    if content is None:
        raise UnsupportedPhoto(
            f"“{name}” is not a picture that can be opened here."
            " JPEG, PNG, WebP, AVIF, HEIC, TIFF and GIF can."
        )
    if promised not in (None, content):
        raise MisnamedPhoto(
            f"“{name}” is named like a {promised.upper() if promised else ''} but holds a"
            f" {content.upper()}. Rename it to end in {EXTENSIONS[content][0]}, then add it again."
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


@contextmanager
def reading(name: str) -> Iterator[None]:
    """Translates what decoders raise into PhotoErrors that name the photo."""
    try:
        yield
    except MemoryError as error:
        raise OutOfMemory(f"“{name}” needs more memory than a photo may take.") from error
    except (pyvips.Error, OSError, ValueError, SyntaxError, EOFError) as error:
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
    how to turn it upright, which is cheaper after shrinking (see `frame`). GIF and animated WebP
    give their first frame. Raises a PhotoError; faults deeper in the file show when pixels are
    pulled, so do that inside `reading` too.
    """
    if len(data) > limits.max_size_bytes:
        raise TooManyBytes(
            f"“{name}” has {len(data):,} bytes; a photo may have {limits.max_size_bytes:,}."
        )
    kind = identify(data, name)
    with reading(name):
        image = (
            _load_heic(data, name, limits) if kind == "heic" else _load(kind, data, name, limits)
        )
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
    image = pyvips.Image.new_from_buffer(data, "", access="sequential", fail_on="truncated")
    _check_pixels(image.width, image.height, name, limits)
    if kind == "tiff":
        _check_tiff_reach(data)
    return image


def _check_tiff_reach(data: bytes) -> None:
    """libtiff makes up lengths that point past the end, so a cut file would open in part."""
    with Image.open(io.BytesIO(data)) as image:
        tags = image.tag_v2  # type: ignore[attr-defined] # TIFF images have it, the base has not
        for offsets, lengths in _TIFF_DATA_TAGS:
            reaches = zip(tags.get(offsets, ()), tags.get(lengths, ()), strict=False)
            if max((start + length for start, length in reaches), default=0) > len(data):
                raise EOFError("unexpected end of file")


def _load_heic(data: bytes, name: str, limits: Limits) -> pyvips.Image:
    """HEIC through Pillow's plug-in, which turns the picture upright itself."""
    header = pillow_heif.open_heif(data, convert_hdr_to_8bit=False)
    width_px, height_px = header.size
    _check_pixels(width_px, height_px, name, limits)
    pixels = np.asarray(header)
    image = pyvips.Image.new_from_array(pixels)
    profile = header.info.get("icc_profile")
    if profile:
        image = image.copy()
        image.set_type(pyvips.GValue.blob_type, PROFILE, profile)
    return image


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
    does not go with its picture is left aside."""
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


_PATCHES = (
    np.stack(np.meshgrid(*[np.linspace(0, 255, 6)] * 3), -1).astype(np.uint8).reshape(1, -1, 3)
)


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
