"""What stands in a file beside its picture: gain maps, depth maps, previews, video, further
pictures, and bytes after the picture's end that nothing names.

Cameras append them to a JPEG and list them in MPF (CIPA DC-007) or in a directory in XMP (Android's
motion photo format 1.0 and gain maps; ISO 21496-1); in HEIC and AVIF they are items (ISO/IEC
23008-12 6.4, 6.6). Each is told by what it is, else by what the directory calls it.
"""

import re
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from typing import Literal

from lean_parcel.core.metadata.avif_items import auxiliary_items
from lean_parcel.core.metadata.avif_parts import UnknownAvif
from lean_parcel.core.metadata.containers import (
    PNG_SIGNATURE,
    FilePart,
    boxes,
    jpeg_parts,
    png_parts,
)

CompanionKind = Literal["gain_map", "depth_map", "preview", "video", "picture", "unknown"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Companion:
    """A part of a file that is not its picture, and its bytes."""

    kind: CompanionKind
    size_bytes: int


#: After so many, the rest is taken as one.
_MOST_COMPANIONS = 32
#: In so much of a file it is told what it is.
_HEAD_BYTES = 65_536
_JPEG = b"\xff\xd8\xff"
_APP1, _APP2, _EOI = b"\xe1", b"\xe2", b"\xd9"
_XMP, _XMP_EXTENSION = b"http://ns.adobe.com/xap/1.0/\0", b"http://ns.adobe.com/xmp/extension/\0"
#: What the head of a file, or the type of an item, has in it.
_SIGNS: tuple[tuple[CompanionKind, tuple[bytes, ...]], ...] = (
    ("gain_map", (b"hdr-gain-map", b"hdrgainmap", b"HDRGainMap", b"iso:ts:21496:-1")),
    ("depth_map", (b"depth", b"Depth", b"disparity", b"hevc:2015:auxid:2")),
)
_SEMANTICS: dict[bytes, CompanionKind] = {
    b"GainMap": "gain_map",
    b"Depth": "depth_map",
    b"DepthMap": "depth_map",
    b"MotionPhoto": "video",
}
_SEMANTIC = re.compile(rb"Semantic(?:=[\"']|>)\s*(\w+)")
#: MPF's types of a picture: large thumbnails, then disparity; others are further pictures.
_MPF_KINDS: dict[int, CompanionKind] = {
    0x010001: "preview",
    0x010002: "preview",
    0x020002: "depth_map",
}


def find_companions(data: bytes, name: str) -> tuple[Companion, ...]:
    """All companions in a file of a known format, in their order."""
    match name:
        case "jpeg":
            return tuple(_in_jpeg(data))
        case "png":
            chunks = list(png_parts(data))
            return tuple(_after(data, chunks[-1].end if chunks else len(PNG_SIGNATURE)))
        case "webp":
            return tuple(_after(data, 8 + int.from_bytes(data[4:8], "little")))
        case "heic" | "avif":
            return tuple(_in_items(data))
        case _:
            return ()


def _in_jpeg(data: bytes) -> Iterator[Companion]:
    parts = list(jpeg_parts(data))
    if not parts or parts[-1].kind != _EOI:
        return
    heads = [(part, data[part.payload_start : part.end]) for part in parts if part.kind == _APP1]
    xmp = b"".join(payload for _, payload in heads if payload.startswith(_XMP))
    extension = [part for part, payload in heads if payload.startswith(_XMP_EXTENSION)]
    if extension and b"GDepth" in xmp:
        yield Companion(kind="depth_map", size_bytes=sum(part.size_bytes for part in extension))
    listed = [_SEMANTICS.get(word, "picture") for word in _SEMANTIC.findall(xmp)][1:]
    yield from _after(data, parts[-1].end, listed or _mpf_kinds(data, parts))


def _mpf_kinds(data: bytes, parts: list[FilePart]) -> list[CompanionKind]:
    """The kinds of all pictures but the first, as MPF lists them."""
    for part in parts:
        payload = data[part.payload_start : part.end]
        if part.kind == _APP2 and payload.startswith(b"MPF\0"):
            return [_MPF_KINDS.get(number, "picture") for number in _mpf_types(payload[4:])][1:]
    return []


def _mpf_types(tiff: bytes) -> Iterator[int]:
    order: Literal["little", "big"] = "little" if tiff[:2] == b"II" else "big"
    first = int.from_bytes(tiff[4:8], order)
    for number in range(int.from_bytes(tiff[first : first + 2], order)):
        entry = tiff[first + 2 + 12 * number : first + 14 + 12 * number]
        if int.from_bytes(entry[:2], order) == 0xB002:  # MPEntry: 16 bytes a picture
            length, at = (int.from_bytes(entry[i : i + 4], order) for i in (4, 8))
            for start in range(at, min(at + length, len(tiff)), 16):
                yield int.from_bytes(tiff[start : start + 4], order) & 0xFFFFFF


def _after(data: bytes, at: int, listed: list[CompanionKind] | None = None) -> Iterator[Companion]:
    """What comes after the picture's end; `listed` are the kinds that a directory names."""
    names = iter(listed or [])
    for _ in range(_MOST_COMPANIONS):
        if at >= len(data):
            return
        companion = _piece(data, at, names)
        yield companion
        at += companion.size_bytes
    yield Companion(kind="unknown", size_bytes=len(data) - at)


def _piece(data: bytes, at: int, names: Iterator[CompanionKind]) -> Companion:
    if data.startswith(_JPEG, at):
        end = max((part.end for part in jpeg_parts(data, at)), default=at + 2)
        named: CompanionKind = next(names, "picture")
        told = _told(data[at : min(end, at + _HEAD_BYTES)])
        return Companion(kind=told or named, size_bytes=end - at)
    if data[at + 4 : at + 8] == b"ftyp":
        next(names, None)
        end = max((box.end for box in boxes(data, at)), default=len(data))
        return Companion(kind="video", size_bytes=end - at)
    signatures = (data.find(_JPEG, at), data.find(b"ftyp", at) - 4)
    end = min((found for found in signatures if found > at), default=len(data))
    return Companion(kind="unknown", size_bytes=end - at)


def _told(text: bytes) -> CompanionKind | None:
    for kind, signs in _SIGNS:
        if any(sign in text for sign in signs):
            return kind
    return None


def _in_items(data: bytes) -> Iterator[Companion]:
    with suppress(UnknownAvif):
        for word, size_bytes in auxiliary_items(data):
            if b"alpha" not in word and b"hevc:2015:auxid:1" not in word:
                yield Companion(kind=_kind_of_item(word), size_bytes=size_bytes)
    top = list(boxes(data))
    for box in top:
        if box.kind == b"mpvd":
            yield Companion(kind="video", size_bytes=box.size_bytes)
    if top and top[-1].end < len(data):
        yield from _after(data, top[-1].end)


def _kind_of_item(word: bytes) -> CompanionKind:
    return "preview" if word == b"thmb" else _told(word) or "unknown"
