"""Metadata in finished files: taken out, put in, without touching the picture.

JPEG has APP segments (JFIF, EXIF 2.32 4.7.2), PNG chunks (PNG 3rd edition), WebP an extended
container (RFC 9649), AVIF items. A colour profile belongs to the picture, and stays.
"""

import struct
import zlib
from dataclasses import dataclass

from lean_parcel.core.formats import Format
from lean_parcel.core.metadata.avif_items import avif_item_bytes, embed_in_avif, strip_avif
from lean_parcel.core.metadata.containers import (
    PNG_SIGNATURE,
    FilePart,
    jpeg_parts,
    png_parts,
    webp_parts,
)
from lean_parcel.core.metadata.values import NO_SEGMENTS, Segments

_XMP_MARKER = b"http://ns.adobe.com/xap/1.0/\0"
_XMP_CHUNK = b"XML:com.adobe.xmp\0\0\0\0\0"
_ICC_FLAG, _ALPHA_FLAG, _EXIF_FLAG, _XMP_FLAG = 0x20, 0x10, 0x08, 0x04


@dataclass(frozen=True, slots=True, kw_only=True)
class SegmentSizes:
    """The bytes of segments, where their bytes themselves are not needed."""

    exif_bytes: int = 0
    xmp_bytes: int = 0

    @classmethod
    def of(cls, segments: Segments) -> "SegmentSizes":
        """Of segments."""
        return cls(exif_bytes=len(segments.exif), xmp_bytes=len(segments.xmp))


NO_SIZES = SegmentSizes()


def exchanged(data: bytes, name: Format, segments: Segments) -> bytes:
    """A file with these segments in the place of all metadata that it has. Raises ValueError for an
    AVIF that is built in an unknown way."""
    return embedded(stripped(data, name), name, segments)


def stripped(data: bytes, name: Format) -> bytes:
    """A file with the parts that show its picture, and no others: what is not known to be needed
    goes. The same bytes where it has nothing more. Raises ValueError as `exchanged` does, and for
    what is no whole file of this format."""
    match name:
        case "jpeg":
            return _strip_jpeg(data)
        case "png":
            return _strip_png(data)
        case "webp":
            return _strip_webp(data)
        case "avif":
            return strip_avif(data)


def embedded(data: bytes, name: Format, segments: Segments) -> bytes:
    """A file without metadata, with these segments. Raises ValueError as `exchanged` does."""
    if segments == NO_SEGMENTS:
        return data
    match name:
        case "jpeg":
            return _embed_in_jpeg(data, segments)
        case "png":
            return _embed_in_png(data, segments)
        case "webp":
            return _embed_in_webp(data, segments)
        case "avif":
            return embed_in_avif(data, segments)


def added_bytes(name: Format, sizes: SegmentSizes, container_bytes: int) -> int:
    """What segments add to a file, to the byte: `len(embedded(...)) - len(data)`."""
    if sizes == NO_SIZES:
        return 0
    return container_bytes + _segment_bytes(name, sizes)


_PROBE = Segments(exif=b"II*\0\x08\0\0\0\0\0\0\0\0\0", xmp=b"<x/>")


def container_bytes(data: bytes, name: Format) -> int:
    """What the first metadata adds to the container of a file without any, beside itself."""
    grown = len(embedded(data, name, _PROBE)) - len(data)
    return grown - _segment_bytes(name, SegmentSizes.of(_PROBE))


def _segment_bytes(name: Format, sizes: SegmentSizes) -> int:
    exif, xmp = sizes.exif_bytes, sizes.xmp_bytes
    match name:
        case "jpeg":
            return (exif and 4 + 6 + exif) + (xmp and 4 + len(_XMP_MARKER) + xmp)
        case "png":
            return (exif and 12 + exif) + (xmp and 12 + len(_XMP_CHUNK) + xmp)
        case "webp":
            return (exif and 8 + exif + exif % 2) + (xmp and 8 + xmp + xmp % 2)
        case "avif":
            return avif_item_bytes(exif, xmp)


#: Markers of JPEG segments that show the picture (ITU-T T.81, table B.1): frames and their tables,
#: restarts, scans, and where the picture begins and ends.
_JPEG_MARKERS = frozenset([*range(0xC0, 0xC8), *range(0xC9, 0xE0)])
_EOI = 0xD9
#: JFIF's header without a thumbnail (ITU-T T.871, 10.1), and Adobe's, which says how colours are
#: coded (ITU-T T.872, 6.5.3): markers, and the bytes of their payloads.
_JFIF_BYTES, _ADOBE_BYTES = 14, 12


def _strip_jpeg(data: bytes) -> bytes:
    parts = list(jpeg_parts(data))
    if not parts or parts[-1].kind[0] != _EOI:
        raise ValueError("no whole JPEG")
    return b"".join(_of_jpeg(data, part) for part in parts)


def _of_jpeg(data: bytes, part: FilePart) -> bytes:
    """What of a segment is needed to show the picture: of APP segments JFIF's without its
    thumbnail, ICC profiles and Adobe's."""
    marker, payload = part.kind[0], data[part.payload_start : part.end]
    whole = data[part.start : part.end]
    if marker in _JPEG_MARKERS or (payload.startswith(b"ICC_PROFILE\0") and marker == 0xE2):
        return whole
    if marker == 0xE0 and payload.startswith(b"JFIF\0") and len(payload) >= _JFIF_BYTES:
        return _app_segment(marker, b"", payload[: _JFIF_BYTES - 2] + b"\0\0")
    if marker == 0xEE and payload.startswith(b"Adobe") and len(payload) >= _ADOBE_BYTES:
        return _app_segment(marker, b"", payload[:_ADOBE_BYTES])
    return b""


#: PNG chunks that show the picture: its pixels, and what their codes mean (PNG 3rd edition, 11).
_PNG_CHUNKS = frozenset(b"IHDR PLTE tRNS IDAT IEND cICP iCCP sRGB gAMA cHRM sBIT mDCV cLLI".split())


def _strip_png(data: bytes) -> bytes:
    parts = list(png_parts(data))
    if not parts or parts[-1].kind != b"IEND":
        raise ValueError("no whole PNG")
    return PNG_SIGNATURE + _kept(data, [part for part in parts if part.kind in _PNG_CHUNKS])


def _kept(data: bytes, parts: list[FilePart]) -> bytes:
    if not parts:
        raise ValueError("nothing of a picture is left")
    return b"".join(data[part.start : part.end] for part in parts)


def _embed_in_jpeg(data: bytes, segments: Segments) -> bytes:
    """After the JFIF header."""
    at = 2
    if data[2:4] == b"\xff\xe0":
        at += 2 + int.from_bytes(data[4:6], "big")
    return (
        data[:at]
        + _app_segment(0xE1, b"Exif\0\0", segments.exif)
        + _app_segment(0xE1, _XMP_MARKER, segments.xmp)
        + data[at:]
    )


def _app_segment(marker: int, name: bytes, payload: bytes) -> bytes:
    if not payload:
        return b""
    return b"\xff" + bytes([marker]) + struct.pack(">H", 2 + len(name + payload)) + name + payload


def _embed_in_png(data: bytes, segments: Segments) -> bytes:
    """Right after the header chunk, or the profile, which has to come before the palette."""
    header_and_profile = [p for p in png_parts(data) if p.kind in (b"IHDR", b"iCCP")]
    if not header_and_profile:
        raise ValueError("no PNG")
    at = header_and_profile[-1].end
    chunks = _chunk(b"eXIf", segments.exif)
    if segments.xmp:
        chunks += _chunk(b"iTXt", _XMP_CHUNK + segments.xmp)
    return data[:at] + chunks + data[at:]


def with_png_profile(data: bytes, icc: bytes) -> bytes:
    """A PNG with a colour profile."""
    if not icc:
        return data
    at = len(PNG_SIGNATURE) + 25
    return data[:at] + _chunk(b"iCCP", b"icc\0\0" + zlib.compress(icc, 9)) + data[at:]


def _chunk(kind: bytes, payload: bytes) -> bytes:
    if not payload:
        return b""
    checksum = struct.pack(">I", zlib.crc32(kind + payload))
    return struct.pack(">I", len(payload)) + kind + payload + checksum


def with_jpeg_profile(data: bytes, icc: bytes) -> bytes:
    """A JPEG with a colour profile of less than 64 kB (ICC.1 annex B.4)."""
    at = 2 + 2 + int.from_bytes(data[4:6], "big") if data[2:4] == b"\xff\xe0" else 2
    return data[:at] + _app_segment(0xE2, b"ICC_PROFILE\0\x01\x01" if icc else b"", icc) + data[at:]


def with_webp_profile(data: bytes, icc: bytes) -> bytes:
    """A WebP with a colour profile."""
    if not icc:
        return data
    extended = _extended(data, _ICC_FLAG)
    at = 12 + 18
    return _riff(extended[12:at] + _riff_chunk(b"ICCP", icc) + extended[at:])


#: WebP chunks that show a still picture (RFC 9649, 2.7); a frame of an animation may hold any.
_WEBP_CHUNKS = frozenset([b"VP8X", b"VP8 ", b"VP8L", b"ALPH", b"ICCP"])


def _strip_webp(data: bytes) -> bytes:
    kept = _kept(data, [part for part in webp_parts(data) if part.kind in _WEBP_CHUNKS])
    if kept[:4] == b"VP8X":
        kept = kept[:8] + bytes([kept[8] & ~(_EXIF_FLAG | _XMP_FLAG)]) + kept[9:]
    return _riff(kept)


def _embed_in_webp(data: bytes, segments: Segments) -> bytes:
    flags = (_EXIF_FLAG if segments.exif else 0) | (_XMP_FLAG if segments.xmp else 0)
    extended = _extended(data, flags)
    return _riff(
        extended[12:] + _riff_chunk(b"EXIF", segments.exif) + _riff_chunk(b"XMP ", segments.xmp)
    )


def _extended(data: bytes, flags: int) -> bytes:
    """A WebP in the extended container, with these flags more."""
    first = next(webp_parts(data), None)
    if first is None:
        raise ValueError("no WebP")
    if first.kind == b"VP8X":
        at = first.payload_start
        return data[:at] + bytes([data[at] | flags]) + data[at + 1 :]
    payload = data[first.payload_start : first.payload_start + 10]
    if first.kind == b"VP8L":  # 14 bits of width, 14 of height, and whether alpha is used
        bits = int.from_bytes(payload[1:5], "little")
        width_px, height_px = (bits & 0x3FFF) + 1, (bits >> 14 & 0x3FFF) + 1
        flags |= _ALPHA_FLAG if bits >> 28 & 1 else 0
    else:
        width_px, height_px = (
            int.from_bytes(payload[at : at + 2], "little") & 0x3FFF for at in (6, 8)
        )
    if not width_px or not height_px:
        raise ValueError("no WebP")
    size = b"".join((side_px - 1).to_bytes(3, "little") for side_px in (width_px, height_px))
    header = _riff_chunk(b"VP8X", bytes([flags, 0, 0, 0]) + size)
    return data[:12] + header + data[12:]


def _riff(chunks: bytes) -> bytes:
    return b"RIFF" + struct.pack("<I", 4 + len(chunks)) + b"WEBP" + chunks


def _riff_chunk(kind: bytes, payload: bytes) -> bytes:
    if not payload:
        return b""
    return kind + struct.pack("<I", len(payload)) + payload + b"\0" * (len(payload) % 2)
