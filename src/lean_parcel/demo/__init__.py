"""The demo: made-up photographs that ship with the product, and what they are for.

They are offered twice: as the two pages with which a demo begins, and as the *Shingle Bank Picture
Library*, a simulated stand-in for a service that offers photos in several sizes and asks for a
credit.
"""

import io
import json
from dataclasses import dataclass
from functools import lru_cache
from importlib import resources
from pathlib import PurePath
from typing import Any

from PIL import Image, ImageOps

from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.metadata.embed import embedded
from lean_parcel.core.metadata.policy import segments_for
from lean_parcel.core.metadata.values import Credit, Segments, SourceMetadata

_FOLDER = resources.files("lean_parcel.demo")
LIBRARY_NAME = "Shingle Bank Picture Library"
#: Widths that the library offers below the original's.
_LIBRARY_WIDTHS_PX = (800, 1600)
_LICENCE = "https://library.example/licence/web-use"
_LIBRARY_JPEG_QUALITY = 92
_THUMBNAIL_PX = 160
_THUMBNAIL_QUALITY = 75


@dataclass(frozen=True, slots=True, kw_only=True)
class Sample:
    """A demo photo: file name, title, what it shows, its page, how large it stands there, and what
    it may weigh, where that is its own."""

    file: str
    title: str
    alt: str
    page: str
    size: str
    limit_bytes: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class SamplePage:
    """A page of the demo, its budget, the density of its screens, and what its photos may weigh."""

    key: str
    name: str
    budget_bytes: int
    density: float
    limit_bytes: int


@dataclass(frozen=True, slots=True, kw_only=True)
class LibraryPhoto:
    """A photo as the library offers it, in these widths, the original's last."""

    file: str
    title: str
    alt: str
    widths_px: tuple[int, ...]
    credit: Credit

    def file_name(self, width_px: int) -> str:
        """The name of the file in one of its widths."""
        path = PurePath(self.file)
        return f"{path.stem}-{width_px}{path.suffix}"


@lru_cache
def samples() -> tuple[Sample, ...]:
    """All demo photos."""
    return tuple(
        Sample(
            file=picture["file"],
            title=picture["title"],
            alt=picture["alt"],
            page=picture["page"],
            size=picture["size"],
            limit_bytes=picture.get("limit_bytes"),
        )
        for picture in _manifest()["pictures"]
    )


def sample_pages() -> tuple[SamplePage, ...]:
    """The pages of the demo."""
    return tuple(SamplePage(key=key, **page) for key, page in _manifest()["pages"].items())


def original(file: str) -> bytes:
    """A demo photo's bytes. Raises NotFoundError."""
    if file not in {sample.file for sample in samples()}:
        raise NotFoundError(f"There is no demo photo “{file}”.")
    return (_FOLDER / file).read_bytes()


@lru_cache
def library() -> tuple[LibraryPhoto, ...]:
    """All that the library offers."""
    return tuple(
        LibraryPhoto(
            file=picture["file"],
            title=picture["title"],
            alt=picture["alt"],
            widths_px=_widths_px(picture),
            credit=Credit(
                author="Quillfen Pottery studio",
                credit=LIBRARY_NAME,
                rights="© Quillfen Pottery",
                licence=_LICENCE,
            ),
        )
        for picture in _manifest()["pictures"]
    )


def _widths_px(picture: dict[str, Any]) -> tuple[int, ...]:
    """Widths on offer, of the upright picture."""
    width_px, height_px = picture["pixels"]
    own_px = height_px if picture["exif_orientation"] >= 5 else width_px
    return (*(width for width in _LIBRARY_WIDTHS_PX if width < own_px), own_px)


def library_photo(file: str) -> LibraryPhoto:
    """A photo of the library. Raises NotFoundError."""
    for photo in library():
        if photo.file == file:
            return photo
    raise NotFoundError(f"The library has no photo “{file}”.")


def fetch(file: str, width_px: int) -> bytes:
    """What the library sends: the original, or a smaller copy, with its credit in the file. Raises
    NotFoundError for a photo or a width that it does not offer."""
    photo = library_photo(file)
    if width_px not in photo.widths_px:
        raise NotFoundError(f"The library does not offer “{file}” {width_px} pixels wide.")
    if width_px == photo.widths_px[-1]:
        return original(file)
    segments = segments_for("credit", SourceMetadata(), photo.credit)
    return _smaller(original(file), width_px, segments)


def _smaller(data: bytes, width_px: int, segments: Segments) -> bytes:
    with Image.open(io.BytesIO(data)) as stored:
        image = ImageOps.exif_transpose(stored)
        height_px = round(image.height * width_px / image.width)
        is_png = stored.format == "PNG"
        mode = ("RGBA" if "A" in image.mode else "RGB") if is_png else image.mode
        small = image.convert(mode).resize((width_px, height_px), Image.Resampling.LANCZOS)
        out = io.BytesIO()
        if is_png:
            small.save(out, "PNG")
            return embedded(out.getvalue(), "png", segments)
        icc = stored.info.get("icc_profile")
        small.save(out, "JPEG", quality=_LIBRARY_JPEG_QUALITY, icc_profile=icc)
        return embedded(out.getvalue(), "jpeg", segments)


@lru_cache
def library_thumbnail(file: str) -> bytes:
    """A small WebP of a photo of the library. Raises NotFoundError."""
    with Image.open(io.BytesIO(original(file))) as stored:
        stored.draft("RGB", (2 * _THUMBNAIL_PX, 2 * _THUMBNAIL_PX))
        image = ImageOps.exif_transpose(stored)
        image.thumbnail((_THUMBNAIL_PX, _THUMBNAIL_PX))
        out = io.BytesIO()
        image.save(out, "WEBP", quality=_THUMBNAIL_QUALITY)
    return out.getvalue()


@lru_cache
def _manifest() -> dict[str, Any]:
    manifest: dict[str, Any] = json.loads((_FOLDER / "manifest.json").read_text())
    return manifest
