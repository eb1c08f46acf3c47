"""Putting metadata and a profile into a finished file, without touching its picture.

JPEG takes APP segments (JFIF, EXIF 2.32 4.7.2, ICC.1 annex B.4), PNG chunks (PNG 3rd edition) and
WebP an extended container (RFC 9649). An AVIF gets its segments from its encoder.
"""

import struct
import zlib

from lean_parcel.core.metadata.values import NO_SEGMENTS, Segments


def embed_in_jpeg(data: bytes, segments: Segments) -> bytes:
    """A JPEG with the segments after its JFIF header."""
    at = 2
    if data[2:4] == b"\xff\xe0":
        at += 2 + int.from_bytes(data[4:6], "big")
    markers = b"".join(
        b"\xff" + marker + struct.pack(">H", len(payload) + 2) + payload
        for marker, payload in (
            (b"\xe1", b"Exif\0\0" + segments.exif if segments.exif else b""),
            (b"\xe1", b"http://ns.adobe.com/xap/1.0/\0" + segments.xmp if segments.xmp else b""),
            (b"\xe2", b"ICC_PROFILE\0\x01\x01" + segments.icc if segments.icc else b""),
        )
        if payload
    )
    return data[:at] + markers + data[at:]


def embed_in_png(data: bytes, segments: Segments) -> bytes:
    """A PNG with the segments right after its header chunk."""
    after_header = 8 + 25
    xmp_header = b"XML:com.adobe.xmp\0\0\0\0\0"
    chunks = b"".join(
        struct.pack(">I", len(payload))
        + kind
        + payload
        + struct.pack(">I", zlib.crc32(kind + payload))
        for kind, payload in (
            (b"iCCP", b"icc\0\0" + zlib.compress(segments.icc, 9) if segments.icc else b""),
            (b"eXIf", segments.exif),
            (b"iTXt", xmp_header + segments.xmp if segments.xmp else b""),
        )
        if payload
    )
    return data[:after_header] + chunks + data[after_header:]


_ICC_FLAG, _ALPHA_FLAG, _EXIF_FLAG, _XMP_FLAG = 0x20, 0x10, 0x08, 0x04


def embed_in_webp(
    data: bytes, segments: Segments, *, width_px: int, height_px: int, has_alpha: bool
) -> bytes:
    """A WebP in the extended container with the segments; as it is where there are none."""
    if segments == NO_SEGMENTS:
        return data
    picture = data[12:]
    if picture[:4] == b"VP8X":
        picture = picture[18:]
    flags = (
        (_ICC_FLAG if segments.icc else 0)
        | (_ALPHA_FLAG if has_alpha else 0)
        | (_EXIF_FLAG if segments.exif else 0)
        | (_XMP_FLAG if segments.xmp else 0)
    )
    header = bytes([flags, 0, 0, 0]) + b"".join(
        (side_px - 1).to_bytes(3, "little") for side_px in (width_px, height_px)
    )
    content = (
        b"WEBP"
        + _riff_chunk(b"VP8X", header)
        + _riff_chunk(b"ICCP", segments.icc)
        + picture
        + _riff_chunk(b"EXIF", segments.exif)
        + _riff_chunk(b"XMP ", segments.xmp)
    )
    return b"RIFF" + struct.pack("<I", len(content)) + content


def _riff_chunk(kind: bytes, payload: bytes) -> bytes:
    if not payload:
        return b""
    return kind + struct.pack("<I", len(payload)) + payload + b"\0" * (len(payload) % 2)
