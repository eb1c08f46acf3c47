"""What a photo carries beside its picture, and what of it travels on.

Reads EXIF, XMP, IPTC, ICC profiles and text chunks of every format that comes in, finds the credit
in them, and makes the blocks that a policy lets through. Faulty metadata never makes a photo
unusable: what cannot be read is left out.
"""

import io
import logging
from dataclasses import dataclass, replace
from typing import Any, get_args

import pillow_heif
from PIL import ExifTags, Image, IptcImagePlugin

from lean_parcel.core.framing import MetadataPolicy
from lean_parcel.core.xmp import Xmp

_log = logging.getLogger(__name__)
POLICIES: tuple[MetadataPolicy, ...] = get_args(MetadataPolicy)
_EXIF_PREFIX = b"Exif\0\0"
_IFD, _BASE = ExifTags.IFD, ExifTags.Base
#: A JPEG segment holds 65,533 bytes, its marker of XMP or EXIF included.
MAX_BLOCK_BYTES = 65_000
_TEXT_TAGS = (_BASE.ImageDescription, _BASE.Artist, _BASE.Copyright)
#: True of the original and no longer of what is made from it.
_STALE_TAGS = (_BASE.Orientation, _BASE.ImageWidth, _BASE.ImageLength)
_STALE_EXIF_TAGS = (_BASE.ExifImageWidth, _BASE.ExifImageHeight)
_STALE_XMP = (
    "tiff:Orientation",
    "tiff:ImageWidth",
    "tiff:ImageLength",
    "exif:PixelXDimension",
    "exif:PixelYDimension",
    "xmp:Thumbnails",
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


@dataclass(frozen=True, slots=True, kw_only=True)
class Credit:
    """Who is to be named: the maker, the credit line asked for, the rights, and where the licence
    is. Empty texts where nothing is known."""

    author: str = ""
    credit: str = ""
    rights: str = ""
    licence: str = ""

    @property
    def line(self) -> str:
        """One line to set under the photo; empty where nobody is named."""
        names = [name for name in dict.fromkeys((self.author, self.credit)) if name]
        return " / ".join(names) or self.rights


@dataclass(frozen=True, slots=True, kw_only=True)
class Carried:
    """What a file carries: blocks as their standards have them (EXIF from the TIFF header on), IPTC
    texts by the XMP property that took their place, the texts of PNG, dots per inch, and how many
    frames."""

    exif: bytes = b""
    xmp: bytes = b""
    icc: bytes = b""
    iptc: tuple[tuple[str, str], ...] = ()
    iptc_size_bytes: int = 0
    texts: tuple[tuple[str, str], ...] = ()
    dpi: float | None = None
    frames: int = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class Blocks:
    """What goes into a file beside its picture; none where empty."""

    exif: bytes = b""
    xmp: bytes = b""
    icc: bytes = b""


NO_BLOCKS = Blocks()


def read_carried(data: bytes, kind: str) -> Carried:
    """What a file of a known format carries."""
    try:
        return _read_heic(data) if kind == "heic" else _read(data)
    except Exception as error:  # whatever a metadata reader trips over, the picture still opens
        _log.info("metadata not read: %r", error)
        return Carried()


def _read(data: bytes) -> Carried:
    with Image.open(io.BytesIO(data)) as image:
        info = image.info
        exif = bytes(info.get("exif", b"")) or _exif_of_tags(image)
        iptc = IptcImagePlugin.getiptcinfo(image) or {}
        dpi = info.get("dpi")
        texts = getattr(image, "text", {}) if image.format == "PNG" else {}
        xmp = info.get("xmp") or texts.get("XML:com.adobe.xmp", b"")
        return Carried(
            exif=exif.removeprefix(_EXIF_PREFIX),
            xmp=xmp.encode() if isinstance(xmp, str) else bytes(xmp),
            icc=bytes(info.get("icc_profile") or b""),
            iptc=_iptc_texts(iptc),
            iptc_size_bytes=sum(5 + len(value) for value in _flat(iptc)),
            texts=tuple((k, str(v)) for k, v in texts.items() if k != "XML:com.adobe.xmp"),
            dpi=float(dpi[0]) if dpi and float(dpi[0]) > 1 else None,
            frames=int(getattr(image, "n_frames", 1)),
        )


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


def _read_heic(data: bytes) -> Carried:
    info: dict[str, Any] = pillow_heif.open_heif(data).info
    return Carried(
        exif=bytes(info.get("exif") or b"").removeprefix(_EXIF_PREFIX),
        xmp=bytes(info.get("xmp") or b""),
        icc=bytes(info.get("icc_profile") or b""),
    )


def parsed_exif(exif: bytes) -> Image.Exif:
    """The tags of an EXIF block; none where it cannot be read."""
    tags = Image.Exif()
    if exif:
        try:
            tags.load(_EXIF_PREFIX + exif)
            for ifd in (_IFD.Exif, _IFD.GPSInfo):
                tags.get_ifd(ifd)
        except Exception as error:
            _log.info("EXIF not read: %r", error)
            return Image.Exif()
    return tags


def _decoded(value: bytes) -> str:
    try:
        return value.decode().strip("\0 ")
    except UnicodeDecodeError:
        return value.decode("latin-1").strip("\0 ")


def find_credit(carried: Carried) -> Credit:
    """Whom a file names, from XMP, else IPTC, else EXIF, else PNG's texts."""
    xmp, iptc, exif = Xmp(carried.xmp), dict(carried.iptc), parsed_exif(carried.exif)
    texts = dict(carried.texts)

    def first(*values: object) -> str:
        return next((text for text in (_exif_text(v) for v in values) if text), "")

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


def _exif_text(value: object) -> str:
    if isinstance(value, bytes):
        return _decoded(value)
    text = str(value or "").strip("\0 ")
    try:  # EXIF is ASCII, but UTF-8 is what is found in it; Pillow reads it as Latin-1
        return text.encode("latin-1").decode()
    except UnicodeError:
        return text


def blocks_for(policy: MetadataPolicy, carried: Carried, credit: Credit) -> Blocks:
    """What a policy lets through, without a profile. The embedded thumbnail, which would show the
    photo as it was before framing, goes in every case, and so does what is true of the original
    only: its orientation and size."""
    match policy:
        case "nothing":
            return NO_BLOCKS
        case "credit":
            return _only_credit(credit)
        case "no-position" | "everything":
            return _carried_on(carried, credit, has_position=policy == "everything")


def _only_credit(credit: Credit) -> Blocks:
    exif = Image.Exif()
    if credit.author:
        exif[_BASE.Artist] = credit.author.encode()
    if credit.rights:
        exif[_BASE.Copyright] = credit.rights.encode()
    xmp = Xmp()
    if credit.credit or credit.licence:
        _add_credit(xmp, credit)
    return Blocks(exif=_exif_bytes(exif), xmp=xmp.packet())


def _carried_on(carried: Carried, credit: Credit, *, has_position: bool) -> Blocks:
    exif, xmp = parsed_exif(carried.exif), Xmp(carried.xmp)
    for tag in _TEXT_TAGS:
        if isinstance(exif.get(tag), str):  # bytes, or Pillow would write ? for what is not ASCII
            exif[tag] = _exif_text(exif[tag]).encode()
    for tag in _STALE_TAGS:
        exif.pop(tag, None)
    for tag in _STALE_EXIF_TAGS:
        exif.get_ifd(_IFD.Exif).pop(tag, None)
    xmp.remove(*_STALE_XMP)
    for name, text in dict(carried.iptc).items():
        if not xmp.get(name):
            xmp.set(name, text)
    _add_credit(xmp, credit)
    if not has_position:
        _remove_position(exif)
        xmp.remove(*_POSITION_XMP)
    return _held_in_bounds(exif, xmp)


def _remove_position(exif: Image.Exif) -> None:
    """The GPS directory, and the camera's own notes, which nobody can search for one."""
    exif.pop(_IFD.GPSInfo, None)
    exif._ifds.pop(_IFD.GPSInfo, None)  # Pillow writes what it has parsed
    exif.get_ifd(_IFD.Exif).pop(_IFD.MakerNote, None)


def _held_in_bounds(exif: Image.Exif, xmp: Xmp) -> Blocks:
    """Where a block is too long for a JPEG segment, the camera's notes and the history go first,
    then the block."""
    blocks = Blocks(exif=_exif_bytes(exif))
    if len(blocks.exif) > MAX_BLOCK_BYTES:
        exif.get_ifd(_IFD.Exif).pop(_IFD.MakerNote, None)
        shorter = _exif_bytes(exif)
        blocks = Blocks(exif=shorter if len(shorter) <= MAX_BLOCK_BYTES else b"")
    packet = xmp.packet()
    if len(packet) > MAX_BLOCK_BYTES:
        shorter_xmp = Xmp(packet)
        shorter_xmp.remove(*HISTORY_XMP, "photoshop:DocumentAncestors")
        packet = shorter_xmp.packet()
    return replace(blocks, xmp=packet if len(packet) <= MAX_BLOCK_BYTES else b"")


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
    return exif.tobytes().removeprefix(_EXIF_PREFIX) if len(exif) else b""
