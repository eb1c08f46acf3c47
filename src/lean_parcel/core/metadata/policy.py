"""Which metadata travels on: four policies, and the segments that each lets through."""

from dataclasses import replace
from typing import Literal

from PIL import ExifTags, Image

from lean_parcel.core.metadata.reading import EXIF_PREFIX, exif_text, parsed_exif
from lean_parcel.core.metadata.values import NO_SEGMENTS, Credit, Segments, SourceMetadata
from lean_parcel.core.metadata.xmp import Xmp

MetadataPolicy = Literal["nothing", "credit", "no-position", "everything"]
#: Every policy and what it is called, the strictest first.
POLICY_NAMES: dict[MetadataPolicy, str] = {
    "nothing": "Nothing",
    "credit": "Credit only",
    "no-position": "All but position",
    "everything": "Everything",
}
_IFD, _BASE = ExifTags.IFD, ExifTags.Base
#: A JPEG segment holds 65,533 bytes, its XMP or EXIF marker included.
MAX_SEGMENT_BYTES = 65_000
_TEXT_TAGS = (_BASE.ImageDescription, _BASE.Artist, _BASE.Copyright)
#: Tags that describe the original's pixels, not those of a file made from it.
_STALE_TAGS = (_BASE.Orientation, _BASE.ImageWidth, _BASE.ImageLength)
_STALE_EXIF_TAGS = (_BASE.ExifImageWidth, _BASE.ExifImageHeight)
_STALE_XMP = (
    "tiff:Orientation",
    "tiff:ImageWidth",
    "tiff:ImageLength",
    "exif:PixelXDimension",
    "exif:PixelYDimension",
    "xmp:Thumbnails",
    # Of gain maps, depth maps and videos, which do not travel along.
    "hdrgm:*",
    "HDRGainMap:*",
    "GContainer:*",
    "GCamera:*",
    "GDepth:*",
    "xmpNote:HasExtendedXMP",
)
_POSITION_XMP = (
    "exif:GPS*",
    "photoshop:City",
    "photoshop:State",
    "photoshop:Country",
    "Iptc4xmpCore:Location",
    "Iptc4xmpCore:CountryCode",
    "Iptc4xmpExt:LocationCreated",
    "Iptc4xmpExt:LocationShown",
)
HISTORY_XMP = ("xmpMM:History", "xmpMM:DerivedFrom", "xmpMM:Ingredients", "xmpMM:Pantry")


def segments_for(policy: MetadataPolicy, metadata: SourceMetadata, credit: Credit) -> Segments:
    """What a policy lets through, without an ICC profile. Every policy removes the embedded
    thumbnail, which shows the photo before framing, and the original's orientation and size."""
    match policy:
        case "nothing":
            return NO_SEGMENTS
        case "credit":
            return _only_credit(credit)
        case "no-position" | "everything":
            return _most_of(metadata, credit, has_position=policy == "everything")


def _only_credit(credit: Credit) -> Segments:
    exif = Image.Exif()
    if credit.author:
        exif[_BASE.Artist] = credit.author.encode()
    if credit.rights:
        exif[_BASE.Copyright] = credit.rights.encode()
    xmp = Xmp()
    if credit.credit or credit.licence:
        _add_credit(xmp, credit)
    return Segments(exif=_exif_bytes(exif), xmp=xmp.packet())


def _most_of(metadata: SourceMetadata, credit: Credit, *, has_position: bool) -> Segments:
    exif, xmp = parsed_exif(metadata.exif).tags, Xmp(metadata.xmp)
    for tag in _TEXT_TAGS:
        if isinstance(exif.get(tag), str):  # bytes, or Pillow would write ? for what is not ASCII
            exif[tag] = exif_text(exif[tag]).encode()
    for tag in _STALE_TAGS:
        exif.pop(tag, None)
    for tag in _STALE_EXIF_TAGS:
        exif.get_ifd(_IFD.Exif).pop(tag, None)
    xmp.remove(*_STALE_XMP)
    for name, text in dict(metadata.iptc).items():
        if not xmp.get(name):
            xmp.set(name, text)
    _add_credit(xmp, credit)
    if not has_position:
        _remove_position(exif)
        xmp.remove(*_POSITION_XMP)
    return _bounded(exif, xmp)


def _remove_position(exif: Image.Exif) -> None:
    """Removes the GPS directory, and the maker note, which may hide a position too."""
    exif.pop(_IFD.GPSInfo, None)
    exif._ifds.pop(_IFD.GPSInfo, None)  # Pillow writes what it has parsed
    exif.get_ifd(_IFD.Exif).pop(_IFD.MakerNote, None)


def _bounded(exif: Image.Exif, xmp: Xmp) -> Segments:
    """Segments that fit a JPEG: from one that is too long the maker note and the history are
    removed, and if it still is, the whole segment."""
    segments = Segments(exif=_exif_bytes(exif))
    if len(segments.exif) > MAX_SEGMENT_BYTES:
        exif.get_ifd(_IFD.Exif).pop(_IFD.MakerNote, None)
        shorter = _exif_bytes(exif)
        segments = Segments(exif=shorter if len(shorter) <= MAX_SEGMENT_BYTES else b"")
    packet = xmp.packet()
    if len(packet) > MAX_SEGMENT_BYTES:
        shorter_xmp = Xmp(packet)
        shorter_xmp.remove(*HISTORY_XMP, "photoshop:DocumentAncestors")
        packet = shorter_xmp.packet()
    return replace(segments, xmp=packet if len(packet) <= MAX_SEGMENT_BYTES else b"")


def _add_credit(xmp: Xmp, credit: Credit) -> None:
    properties = {
        "dc:creator": credit.author,
        "photoshop:Credit": credit.credit,
        "dc:rights": credit.rights,
        "xmpRights:WebStatement" if "://" in credit.licence else "xmpRights:UsageTerms": (
            credit.licence
        ),
    }
    for name, text in properties.items():
        if text and not xmp.get(name):
            xmp.set(name, text)


def _exif_bytes(exif: Image.Exif) -> bytes:
    return exif.tobytes().removeprefix(EXIF_PREFIX) if len(exif) else b""
