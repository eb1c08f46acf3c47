"""Findings on an original, in plain words, with the bytes of each part.

A Finding is ready to be read by a person; `topic` is its stable code. Sizes are measured in the
file; an estimate says "about".
"""

import io
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import PurePath

import cv2
import numpy as np
from PIL import ExifTags, Image, ImageCms

from lean_parcel.core.formats import FORMAT_NAMES, FORMAT_OF_EXTENSION
from lean_parcel.core.metadata.policy import HISTORY_XMP
from lean_parcel.core.metadata.reading import parsed_exif
from lean_parcel.core.metadata.values import Credit, SourceMetadata
from lean_parcel.core.metadata.xmp import Xmp
from lean_parcel.core.original.block_steps import visible_block_share
from lean_parcel.core.original.companions import CompanionKind, find_companions
from lean_parcel.core.original.jpeg_quality import estimate_quality
from lean_parcel.core.original.picture_kind import PictureKind, advise_format
from lean_parcel.core.original.signalled import Signalled, signalled
from lean_parcel.core.original.source import Source
from lean_parcel.core.picture.gamut import is_srgb_profile

#: A JPEG was compressed hard below this quality, or where so many of its blocks' borders are seen,
#: whatever it was saved at since. See docs/metrics.md.
_HARD_QUALITY, _HARD_SHARE = 50, 0.2
_GREY = cv2.IMREAD_GRAYSCALE | cv2.IMREAD_IGNORE_ORIENTATION
_KIND_WORDS = {"photo": "A photo", "graphic": "A graphic", "mixed": "Between photo and graphic"}
_KIND_NOTES = {
    "photo": "Its colours change from pixel to pixel: it is not searched in PNG by itself.",
    "graphic": "Large parts of it are even, in few colours: lossless formats may win.",
    "mixed": "Parts of it are even, parts are not: every format may win.",
}
_ORIENTATIONS = {
    2: "mirrored",
    3: "upside down",
    4: "upside down and mirrored",
    5: "on its side and mirrored",
    6: "on its left side",
    7: "on its side and mirrored",
    8: "on its right side",
}
_THUMBNAIL_LENGTH_TAG = 0x0202
#: The topic of the format to begin with.
ADVICE_TOPIC = "advice"


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """One thing to know of a photo: a title, one or two sentences, the bytes that it takes in the
    file where it has any, and whether it is a warning."""

    topic: str
    title: str
    note: str
    size_bytes: int | None = None
    is_warning: bool = False


def find(
    data: bytes,
    name: str,
    source: Source,
    orientation: int,
    metadata: SourceMetadata,
    credit: Credit,
    kind: PictureKind,
) -> tuple[Finding, ...]:
    """All findings on an original, the most important first; its picture is of a kind."""
    return (
        _format(data, source),
        *_name(name, source),
        *_hard_compression(data, source),
        _kind(kind),
        _advice(kind),
        *_transparency(kind),
        *_frames(metadata, source),
        *_companions(data, source),
        *_orientation(orientation),
        _profile(metadata, signalled(data, source.format)),
        *_exif(metadata),
        *_unreadable(metadata),
        *_xmp(metadata),
        *_iptc(metadata),
        *_credit(credit),
        *_dpi(metadata),
    )


def find_pixel_surplus(source: Source, framed_pixels: int, place_pixels: int) -> Finding:
    """How many pixels the framed part of an original has for each one that its place needs."""
    ratio = framed_pixels / place_pixels
    pixels = f"{source.width_px} × {source.height_px} pixels"
    if ratio <= 1:
        return Finding(
            topic="pixels",
            title=pixels,
            note="No more pixels than its place can show, so framing saves none.",
        )
    return Finding(
        topic="pixels",
        title=pixels,
        note=f"{ratio:.1f} times more pixels than its place needs.",
    )


def _format(data: bytes, source: Source) -> Finding:
    name = FORMAT_NAMES[source.format]
    quality = estimate_quality(data) if source.format == "jpeg" else None
    a_pixel = source.size_bytes / (source.width_px * source.height_px)
    return Finding(
        topic="format",
        title=f"{name}, last saved at about quality {quality}" if quality else name,
        note=f"{a_pixel:.2f} bytes a pixel.",
        size_bytes=source.size_bytes,
    )


def _name(name: str, source: Source) -> Iterator[Finding]:
    promised = FORMAT_OF_EXTENSION.get(PurePath(name).suffix.lower(), source.format)
    if promised != source.format:
        yield Finding(
            topic="name",
            title=f"Named like a {FORMAT_NAMES[promised]}",
            note=f"It is a {FORMAT_NAMES[source.format]}, and was opened as one. What is saved here"
            " gets the ending of what it is.",
        )


def _hard_compression(data: bytes, source: Source) -> Iterator[Finding]:
    if source.format != "jpeg":
        return
    quality = estimate_quality(data)
    is_coarse = quality is not None and quality < _HARD_QUALITY
    if is_coarse or _has_visible_blocks(data):
        yield Finding(
            topic="hard_compression",
            title="Compressed hard before",
            note="What was lost then stays lost: more bytes cannot bring it back, and damage that"
            " is in the original counts as likeness. Look for a better original.",
            is_warning=True,
        )


def _has_visible_blocks(data: bytes) -> bool:
    luma = cv2.imdecode(np.frombuffer(data, np.uint8), _GREY)
    return luma is not None and visible_block_share(np.asarray(luma, np.uint8)) >= _HARD_SHARE


def _kind(kind: PictureKind) -> Finding:
    return Finding(
        topic="character",
        title=_KIND_WORDS[kind.name],
        note=_KIND_NOTES[kind.name],
    )


def _advice(kind: PictureKind) -> Finding:
    """A guess from the kind alone; once formats were measured the winner takes its place."""
    advice = advise_format(kind)
    return Finding(
        topic=ADVICE_TOPIC,
        title=f"Begin with {FORMAT_NAMES[advice.format]}",
        note=f"Of pictures like this, within the same bytes, it looked best, or as good, in"
        f" {advice.right} of {advice.tried} trials. What wins here is measured by weighing it.",
    )


def _transparency(kind: PictureKind) -> Iterator[Finding]:
    if kind.uses_alpha:
        yield Finding(
            topic="transparency",
            title="Transparent in parts",
            note="PNG, WebP and AVIF keep it; JPEG is filled with the background colour.",
        )
    elif kind.has_alpha:
        yield Finding(
            topic="transparency",
            title="Transparency that nothing uses",
            note="There is an alpha channel and every pixel is opaque: it costs bytes for nothing,"
            " and is not kept.",
        )


def _frames(metadata: SourceMetadata, source: Source) -> Iterator[Finding]:
    if metadata.frames > 1:
        is_pages = source.format == "tiff"
        yield Finding(
            topic="pages" if is_pages else "animation",
            title=f"{metadata.frames} pages" if is_pages else f"Animated, {metadata.frames} frames",
            note=f"Only the first {'page' if is_pages else 'frame'} is used.",
            is_warning=True,
        )


_COMPANIONS: dict[CompanionKind, tuple[str, str]] = {
    "gain_map": (
        "Gain map (HDR)",
        "It makes bright parts brighter on screens that can. It is left out: what is saved looks"
        " the same on every screen.",
    ),
    "depth_map": ("Depth map", "How far away things are, to blur them later. It is left out."),
    "preview": (
        "Embedded preview",
        "A smaller copy of the whole picture, as it was before any crop. It is left out.",
    ),
    "video": (
        "Video",
        "A short film that the camera took along, perhaps with sound. It is left out.",
    ),
    "picture": ("A further picture", "Only the first picture of the file is used."),
    "unknown": (
        "Bytes after the picture's end",
        "No picture needs them, and it is not known what they are. They are left out.",
    ),
}


def _companions(data: bytes, source: Source) -> Iterator[Finding]:
    sizes_bytes: dict[CompanionKind, list[int]] = {}
    for companion in find_companions(data, source.format):
        sizes_bytes.setdefault(companion.kind, []).append(companion.size_bytes)
    for kind, sizes in sizes_bytes.items():
        title, note = _COMPANIONS[kind]
        count = f" ({len(sizes)})" if len(sizes) > 1 else ""
        yield Finding(topic=kind, title=title + count, note=note, size_bytes=sum(sizes))


def _orientation(orientation: int) -> Iterator[Finding]:
    if orientation in _ORIENTATIONS:
        yield Finding(
            topic="orientation",
            title=f"Stored {_ORIENTATIONS[orientation]}",
            note=f"Its flag says how to turn it (EXIF orientation {orientation}). It is shown, and"
            " saved, upright.",
        )


def _profile(metadata: SourceMetadata, said: Signalled | None) -> Finding:
    if said and said.hdr:
        return Finding(
            topic="profile",
            title="More light than paper white (HDR)",
            note="Every screen shows what is saved: what is brighter than paper white comes nearer"
            " to it (ITU-R BT.2390), the rest stays.",
            is_warning=True,
        )
    if said:
        return Finding(
            topic="profile",
            title="Colours by numbers of its own",
            note="It has no profile that counts, but says what its codes mean. They are read so, as"
            " browsers do.",
        )
    if not metadata.icc:
        return Finding(
            topic="profile", title="No colour profile", note="Taken as sRGB, as browsers do."
        )
    if is_srgb_profile(metadata.icc):
        note = "The same colours as plain sRGB, so no profile is needed in the files made from it."
    else:
        note = "Converted to sRGB, or to Display P3 where wide gamut is kept."
    return Finding(
        topic="profile",
        title=f"Colour profile: {_profile_name(metadata.icc)}",
        note=note,
        size_bytes=len(metadata.icc),
    )


def _profile_name(icc: bytes) -> str:
    try:
        profile = ImageCms.ImageCmsProfile(io.BytesIO(icc))
        return ImageCms.getProfileDescription(profile).strip() or "without a name"
    except (ImageCms.PyCMSError, OSError):
        return "unreadable"


def _exif(metadata: SourceMetadata) -> Iterator[Finding]:
    if not metadata.exif:
        return
    exif = parsed_exif(metadata.exif).tags
    gps = exif.get_ifd(ExifTags.IFD.GPSInfo)
    thumbnail_bytes = _thumbnail_bytes(exif)
    with_all = len(exif.tobytes())
    exif.pop(ExifTags.IFD.GPSInfo, None)
    exif._ifds.pop(ExifTags.IFD.GPSInfo, None)  # Pillow writes what it has parsed
    gps_bytes = with_all - len(exif.tobytes()) if gps else 0
    yield Finding(
        topic="exif",
        title="Camera notes (EXIF)",
        note="Camera, lens, settings and times. No browser shows them.",
        size_bytes=max(0, len(metadata.exif) - gps_bytes - thumbnail_bytes),
    )
    if gps:
        yield Finding(
            topic="position",
            title="Position (GPS)",
            note="It tells where the photo was taken, perhaps somebody's home. It is left out"
            " unless you keep everything.",
            size_bytes=gps_bytes,
            is_warning=True,
        )
    if thumbnail_bytes:
        yield Finding(
            topic="thumbnail",
            title="Embedded thumbnail",
            note="A small copy, as the photo was before any crop. It is always left out.",
            size_bytes=thumbnail_bytes,
        )


def _thumbnail_bytes(exif: Image.Exif) -> int:
    length = exif.get_ifd(ExifTags.IFD.IFD1).get(_THUMBNAIL_LENGTH_TAG)
    return length if isinstance(length, int) else 0


def _unreadable(metadata: SourceMetadata) -> Iterator[Finding]:
    is_whole = metadata.is_whole and parsed_exif(metadata.exif).is_whole
    if not is_whole or Xmp(metadata.xmp).is_unreadable:
        yield Finding(
            topic="unreadable_metadata",
            title="Metadata that cannot be read",
            note="Some of what the file carries beside its picture is broken. It is left out of"
            " what is saved; the picture is whole.",
        )


def _xmp(metadata: SourceMetadata) -> Iterator[Finding]:
    if not metadata.xmp:
        return
    history_bytes = Xmp(metadata.xmp).remove(*HISTORY_XMP, "photoshop:DocumentAncestors")
    yield Finding(
        topic="xmp",
        title="Descriptions (XMP)",
        note="Titles, keywords, rights and notes of programs.",
        size_bytes=len(metadata.xmp) - history_bytes,
    )
    if history_bytes:
        yield Finding(
            topic="history",
            title="Editing history",
            note="Which programs did what and when. Nobody needs it on a page.",
            size_bytes=history_bytes,
        )


def _iptc(metadata: SourceMetadata) -> Iterator[Finding]:
    if metadata.iptc_size_bytes:
        yield Finding(
            topic="iptc",
            title="Press fields (IPTC)",
            note="Names, captions and rights in their older form; kept as XMP where they are kept.",
            size_bytes=metadata.iptc_size_bytes,
        )


def _credit(credit: Credit) -> Iterator[Finding]:
    if credit.line:
        licence = f" Licence: {credit.licence}." if credit.licence else ""
        rights = f" Rights: {credit.rights}." if credit.rights else ""
        yield Finding(
            topic="credit",
            title=f"Credit: {credit.line}",
            note=f"Kept with the photo, and in its files unless you leave out all metadata."
            f"{rights}{licence}",
        )


def _dpi(metadata: SourceMetadata) -> Iterator[Finding]:
    if metadata.dpi:
        yield Finding(
            topic="dpi",
            title=f"{metadata.dpi:.0f} dpi",
            note="Without effect: a screen shows pixels, and dots per inch are for paper.",
        )
