"""Reading what a file carries: EXIF, XMP, IPTC, ICC profiles, text chunks, and the credit in them.

Faulty metadata never makes a photo unusable: what cannot be read is left out.
"""

import io
import logging
from typing import Any, NamedTuple

import pillow_heif
from PIL import ExifTags, Image, IptcImagePlugin

from lean_parcel.core.metadata.values import Credit, SourceMetadata
from lean_parcel.core.metadata.xmp import Xmp

_log = logging.getLogger(__name__)
EXIF_PREFIX = b"Exif\0\0"
_IFD, _BASE = ExifTags.IFD, ExifTags.Base
#: IPTC-IIM datasets (record, number) and the XMP properties that took their place (IPTC Photo
#: Metadata Standard 2023).
_IIM_TO_XMP = {
    (2, 80): "dc:creator",
    (2, 110): "photoshop:Credit",
    (2, 116): "dc:rights",
    (2, 105): "photoshop:Headline",
    (2, 115): "photoshop:Source",
    (2, 120): "dc:description",
}


def read_metadata(data: bytes, kind: str) -> SourceMetadata:
    """What a file of a known format carries."""
    try:
        return _read_heic(data) if kind == "heic" else _read(data)
    except Exception as error:  # whatever a metadata reader raises, the picture still opens
        _log.info("metadata not read: %r", error)
        return SourceMetadata(is_whole=False)


def _read(data: bytes) -> SourceMetadata:
    with Image.open(io.BytesIO(data)) as image:
        info = image.info
        exif = bytes(info.get("exif", b"")) or _exif_of_tags(image)
        iptc = IptcImagePlugin.getiptcinfo(image) or {}
        dpi = info.get("dpi")
        texts = getattr(image, "text", {}) if image.format == "PNG" else {}
        xmp = info.get("xmp") or texts.get("XML:com.adobe.xmp", b"")
        return SourceMetadata(
            exif=exif.removeprefix(EXIF_PREFIX),
            xmp=xmp.encode() if isinstance(xmp, str) else bytes(xmp),
            icc=bytes(info.get("icc_profile") or b""),
            iptc=_iptc_texts(iptc),
            iptc_size_bytes=sum(5 + len(value) for value in _flat(iptc)),
            texts=tuple((k, str(v)) for k, v in texts.items() if k != "XML:com.adobe.xmp"),
            dpi=float(dpi[0]) if dpi and float(dpi[0]) > 1 else None,
            frames=_frames(image),
        )


def _frames(image: Image.Image) -> int:
    """The frames or pages of a file. The further pictures of a JPEG are no frames."""
    return 1 if image.format in ("JPEG", "MPO") else int(getattr(image, "n_frames", 1))


def _exif_of_tags(image: Image.Image) -> bytes:
    """A TIFF is itself what EXIF is made of: its tags that say something about the photo."""
    if image.format != "TIFF":
        return b""
    exif = Image.Exif()
    for tag in (_BASE.ImageDescription, _BASE.Make, _BASE.Model, _BASE.Artist, _BASE.Copyright):
        value = image.getexif().get(tag)
        if value:
            exif[tag] = value
    return exif.tobytes() if len(exif) else b""


def _iptc_texts(datasets: dict[tuple[int, int], Any]) -> tuple[tuple[str, str], ...]:
    named = ((name, datasets.get(key, b"")) for key, name in _IIM_TO_XMP.items())
    return tuple(
        (name, ", ".join(_decoded(part) for part in _flat({(2, 0): value})))
        for name, value in named
        if value
    )


def _flat(datasets: dict[tuple[int, int], Any]) -> list[bytes]:
    """The values of datasets, of which some may come more than once."""
    values = (v if isinstance(v, list) else [v] for v in datasets.values())
    return [value for several in values for value in several]


def _read_heic(data: bytes) -> SourceMetadata:
    info: dict[str, Any] = pillow_heif.open_heif(data).info
    return SourceMetadata(
        exif=bytes(info.get("exif") or b"").removeprefix(EXIF_PREFIX),
        xmp=bytes(info.get("xmp") or b""),
        icc=bytes(info.get("icc_profile") or b""),
    )


class ParsedExif(NamedTuple):
    """The tags of an EXIF block that can be read and written again, and whether those are all."""

    tags: Image.Exif
    is_whole: bool


def parsed_exif(exif: bytes) -> ParsedExif:
    """An EXIF block as tags. A tag with a broken value is left out, and all of them where the block
    cannot be read."""
    tags = Image.Exif()
    if not exif:
        return ParsedExif(tags, True)
    try:
        tags.load(EXIF_PREFIX + exif)
        directories = (tags, tags.get_ifd(_IFD.Exif), tags.get_ifd(_IFD.GPSInfo))
        if _can_be_written(tags):
            return ParsedExif(tags, True)
        for directory in directories:
            for tag, value in list(directory.items()):
                if not _can_be_written(_exif_of(tag, value)):
                    del directory[tag]
        return ParsedExif(tags if _can_be_written(tags) else Image.Exif(), False)
    except Exception as error:  # whatever a metadata reader raises, the picture still opens
        _log.info("EXIF not read: %r", error)
        return ParsedExif(Image.Exif(), False)


def _exif_of(tag: int, value: object) -> Image.Exif:
    exif = Image.Exif()
    exif[tag] = value
    return exif


def _can_be_written(exif: Image.Exif) -> bool:
    try:
        exif.tobytes()
    except Exception as error:  # a broken value shows only here, as any error at all
        _log.info("EXIF not written: %r", error)
        return False
    return True


def find_credit(metadata: SourceMetadata) -> Credit:
    """Whom a file names, from XMP, else IPTC, else EXIF, else PNG's texts."""
    xmp, iptc, exif = Xmp(metadata.xmp), dict(metadata.iptc), parsed_exif(metadata.exif).tags
    texts = dict(metadata.texts)

    def first(*values: object) -> str:
        return next((text for text in (exif_text(v) for v in values) if text), "")

    return Credit(
        author=first(
            xmp.get("dc:creator"),
            iptc.get("dc:creator"),
            exif.get(_BASE.Artist),
            texts.get("Author"),
        ),
        credit=first(xmp.get("photoshop:Credit"), iptc.get("photoshop:Credit")),
        rights=first(
            xmp.get("dc:rights"),
            iptc.get("dc:rights"),
            exif.get(_BASE.Copyright),
            texts.get("Copyright"),
        ),
        licence=first(
            xmp.get("xmpRights:WebStatement"),
            xmp.get("cc:license"),
            xmp.get("xmpRights:UsageTerms"),
        ),
    )


def exif_text(value: object) -> str:
    """The text of an EXIF value, whatever encoding its writer used."""
    if isinstance(value, bytes):
        return _decoded(value)
    text = str(value or "").strip("\0 ")
    try:  # EXIF is ASCII, but UTF-8 is what is found in it; Pillow reads it as Latin-1
        return text.encode("latin-1").decode()
    except UnicodeError:
        return text


def _decoded(value: bytes) -> str:
    try:
        return value.decode().strip("\0 ")
    except UnicodeDecodeError:
        return value.decode("latin-1").strip("\0 ")
