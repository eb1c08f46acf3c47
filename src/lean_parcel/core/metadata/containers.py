"""The parts of a file, by the container that its format has: where each begins and ends.

JPEG has marker segments (ITU-T T.81 annex B), PNG chunks (PNG 3rd edition 5.3), WebP RIFF chunks
(RFC 9649) and AVIF boxes (ISO/IEC 14496-12 4.2). Nothing is decoded. Where a file is cut off or
broken, the parts end.
"""

from collections.abc import Iterator
from dataclasses import dataclass

_SOI, _EOI, _SOS = 0xD8, 0xD9, 0xDA
_RESTARTS = range(0xD0, 0xD8)
_STANDALONE = {0x01, _SOI, _EOI, *_RESTARTS}
PNG_SIGNATURE = b"\x89PNG\r\n\x1a\n"


@dataclass(frozen=True, slots=True)
class FilePart:
    """A part of a file: its kind, where it begins and ends with its header, and where its payload
    begins. A JPEG marker is the kind as one byte."""

    kind: bytes
    start: int
    payload_start: int
    end: int

    @property
    def size_bytes(self) -> int:
        """The bytes of all of it."""
        return self.end - self.start


def jpeg_parts(data: bytes, at: int = 0) -> Iterator[FilePart]:
    """The segments of a JPEG that begins here, up to the end of its picture. Scans have their
    entropy-coded data."""
    while at + 2 <= len(data) and data[at] == 0xFF:
        marker = data[at + 1]
        if marker == 0xFF:  # a fill byte
            at += 1
            continue
        end = payload_start = at + 2
        if marker not in _STANDALONE:
            length = int.from_bytes(data[end : end + 2], "big")
            payload_start, end = end + 2, end + length
            if length < 2 or end > len(data):
                return
            if marker == _SOS:
                end = _scan_end(data, end)
        yield FilePart(bytes([marker]), at, payload_start, end)
        if marker == _EOI:
            return
        at = end


def _scan_end(data: bytes, at: int) -> int:
    """Where the next marker stands that is neither a stuffed byte nor a restart."""
    while (at := data.find(b"\xff", at)) >= 0 and at + 1 < len(data):
        if data[at + 1] != 0 and data[at + 1] not in _RESTARTS:
            return at
        at += 2
    return len(data)


def png_parts(data: bytes) -> Iterator[FilePart]:
    """The chunks of a PNG, up to IEND."""
    at = len(PNG_SIGNATURE)
    while at + 12 <= len(data):
        end = at + 12 + int.from_bytes(data[at : at + 4], "big")
        if end > len(data):
            return
        kind = data[at + 4 : at + 8]
        yield FilePart(kind, at, at + 8, end)
        if kind == b"IEND":
            return
        at = end


def webp_parts(data: bytes) -> Iterator[FilePart]:
    """The chunks of a WebP, their padding included."""
    at, whole = 12, min(len(data), 8 + int.from_bytes(data[4:8], "little"))
    while at + 8 <= whole:
        length = int.from_bytes(data[at + 4 : at + 8], "little")
        end = at + 8 + length + length % 2
        if at + 8 + length > len(data):
            return
        yield FilePart(data[at : at + 4], at, at + 8, min(end, len(data)))
        at = end


def boxes(data: bytes, start: int = 0, end: int | None = None) -> Iterator[FilePart]:
    """The boxes of an ISO base media file, or of a part of one."""
    at, whole = start, len(data) if end is None else end
    while at + 8 <= whole:
        size, header = int.from_bytes(data[at : at + 4], "big"), 8
        if size == 1:
            size, header = int.from_bytes(data[at + 8 : at + 16], "big"), 16
        box_end = whole if size == 0 else at + size
        if box_end < at + header or box_end > whole:
            return
        yield FilePart(data[at + 4 : at + 8], at, at + header, box_end)
        at = box_end
