"""The items of an AVIF or HEIC: a file taken apart, and written anew.

An AVIF keeps everything, pictures and metadata, as items of its meta box: `iinf` names them, `iloc`
says where their bytes are, `iref` what they describe, `iprp` their properties (ISO/IEC 14496-12
8.11; ISO/IEC 23008-12; MIAF, ISO/IEC 23000-22). A file is written with one `mdat`, so that nothing
that was removed stays in its bytes.
"""

import struct
from collections.abc import Iterable
from dataclasses import dataclass

from lean_parcel.core.metadata.containers import FilePart, boxes

_IN_FILE, _IN_META = 0, 1
#: The boxes beside meta and mdat that a still picture may have; others mean a sequence.
_OF_STILL = {b"ftyp", b"free", b"skip", b"uuid"}


class UnknownAvif(ValueError):
    """A file that is built in a way that is not rewritten here."""


@dataclass(frozen=True, slots=True)
class Item:
    """An item: its number, `infe` box, kind and bytes, and where those begin in the file."""

    number: int
    info: bytes
    kind: bytes
    payload: bytes
    first_at: int = 0


@dataclass(frozen=True, slots=True)
class Avif:
    """A file taken apart."""

    ftyp: bytes
    primary: int
    items: tuple[Item, ...]
    references: tuple[bytes, ...]
    #: The other boxes of meta that show the picture: hdlr and pitm before the items, iprp after.
    before: bytes
    after: bytes


def parsed(data: bytes) -> Avif:
    """A file taken apart. Raises UnknownAvif for what is not a still picture of items."""
    top = by_kind(boxes(data))
    if set(top) - _OF_STILL - {b"meta", b"mdat"} or not {b"ftyp", b"meta"} <= set(top):
        raise UnknownAvif("not a still picture of items")
    try:
        parts = in_meta(data)
        inside = by_kind(parts)
        return Avif(
            ftyp=_whole(data, top[b"ftyp"]),
            primary=primary_of(data, inside[b"pitm"]),
            items=_items(data, inside[b"iinf"], inside[b"iloc"], inside.get(b"idat")),
            references=references_of(data, inside.get(b"iref")),
            before=_joined(data, parts, {b"hdlr", b"pitm"}),
            after=_joined(data, parts, {b"iprp"}),
        )
    except (KeyError, IndexError, struct.error) as error:
        raise UnknownAvif(str(error)) from error


def main_properties(data: bytes) -> dict[bytes, list[bytes]]:
    """The properties of the main picture of an AVIF or HEIC, by their kind. Raises UnknownAvif."""
    inside = by_kind(in_meta(data))
    try:
        parts = properties_of(data, inside.get(b"iprp")).get(primary_of(data, inside[b"pitm"]), [])
    except (KeyError, IndexError) as error:
        raise UnknownAvif(str(error)) from error
    found: dict[bytes, list[bytes]] = {}
    for part in parts:
        found.setdefault(part.kind, []).append(data[part.payload_start : part.end])
    return found


def properties_of(data: bytes, iprp: FilePart | None) -> dict[int, list[FilePart]]:
    """The properties of each item, in their order (ISO/IEC 23008-12 9.3)."""
    if iprp is None:
        return {}
    inside = by_kind(boxes(data, iprp.payload_start, iprp.end))
    properties = list(boxes(data, inside[b"ipco"].payload_start, inside[b"ipco"].end))
    ipma = inside[b"ipma"]
    version, is_wide = data[ipma.payload_start], data[ipma.payload_start + 3] & 1
    reader = _Reader(data, ipma.payload_start + 4)
    found: dict[int, list[FilePart]] = {}
    for _ in range(reader.number(4)):
        number = reader.number(4 if version else 2)
        for _ in range(reader.number(1)):
            index = reader.number(2) & 0x7FFF if is_wide else reader.number(1) & 0x7F
            if 0 < index <= len(properties):
                found.setdefault(number, []).append(properties[index - 1])
    return found


def parts_of(reference: bytes) -> tuple[bytes, int, list[int]]:
    """The kind of a reference, the item that has it, and the items that it names."""
    reader = _Reader(reference, 8)
    number = reader.number(2)
    return reference[4:8], number, [reader.number(2) for _ in range(reader.number(2))]


def in_meta(data: bytes) -> list[FilePart]:
    """The boxes of the meta box. Raises UnknownAvif where there is none."""
    for box in boxes(data):
        if box.kind == b"meta":
            return list(boxes(data, box.payload_start + 4, box.end))
    raise UnknownAvif("no items")


def by_kind(parts: Iterable[FilePart]) -> dict[bytes, FilePart]:
    """Boxes by their kind; of several of one kind the last."""
    return {part.kind: part for part in parts}


def _whole(data: bytes, part: FilePart) -> bytes:
    return data[part.start : part.end]


def _joined(data: bytes, parts: Iterable[FilePart], kinds: set[bytes]) -> bytes:
    return b"".join(_whole(data, part) for part in parts if part.kind in kinds)


def primary_of(data: bytes, pitm: FilePart) -> int:
    """The number of the main item."""
    if data[pitm.payload_start]:
        raise UnknownAvif("numbers of 32 bits")
    return int.from_bytes(data[pitm.payload_start + 4 : pitm.payload_start + 6], "big")


def references_of(data: bytes, iref: FilePart | None) -> tuple[bytes, ...]:
    """The boxes by which items refer to each other."""
    if iref is None:
        return ()
    if data[iref.payload_start]:
        raise UnknownAvif("references of 32 bits")
    return tuple(_whole(data, box) for box in boxes(data, iref.payload_start + 4, iref.end))


def _items(data: bytes, iinf: FilePart, iloc: FilePart, idat: FilePart | None) -> tuple[Item, ...]:
    places = places_of(data, iloc)
    if sum(length for _, extents in places.values() for _, length in extents) > len(data):
        raise UnknownAvif("bytes that are used more than once")
    return tuple(
        _item(data, number, info, kind, idat, *places.get(number, (_IN_FILE, ())))
        for number, (info, kind) in infos_of(data, iinf).items()
    )


def infos_of(data: bytes, iinf: FilePart) -> dict[int, tuple[bytes, bytes]]:
    """The `infe` box and the kind of each item."""
    count_bytes = 4 if data[iinf.payload_start] else 2
    infos = {}
    for box in boxes(data, iinf.payload_start + 4 + count_bytes, iinf.end):
        if data[box.payload_start] != 2:
            raise UnknownAvif("entries of another version")
        at = box.payload_start + 4
        number = int.from_bytes(data[at : at + 2], "big")
        infos[number] = (_whole(data, box), data[at + 4 : at + 8])
    return infos


def _item(
    data: bytes,
    number: int,
    info: bytes,
    kind: bytes,
    idat: FilePart | None,
    method: int,
    extents: tuple[tuple[int, int], ...],
) -> Item:
    start, end = 0, len(data)
    if method == _IN_META and idat:
        start, end = idat.payload_start, idat.end
    elif method != _IN_FILE:
        raise UnknownAvif("bytes of another item")
    if any(start + at + length > end for at, length in extents):
        raise UnknownAvif("bytes outside the file")
    payload = b"".join(data[start + at : start + at + length] for at, length in extents)
    first_at = start + min((at for at, _ in extents), default=0)
    return Item(number, info, kind, payload, first_at)


def places_of(data: bytes, iloc: FilePart) -> dict[int, tuple[int, tuple[tuple[int, int], ...]]]:
    """Construction method and extents (offset, length) by item."""
    version = data[iloc.payload_start]
    if version > 1:
        raise UnknownAvif("numbers of 32 bits")
    reader = _Reader(data, iloc.payload_start + 4)
    sizes = reader.number(2)
    offset_bytes, length_bytes, base_bytes = sizes >> 12, sizes >> 8 & 15, sizes >> 4 & 15
    index_bytes = sizes & 15 if version == 1 else 0
    places = {}
    for _ in range(reader.number(2)):
        number = reader.number(2)
        method = reader.number(2) & 15 if version == 1 else _IN_FILE
        if reader.number(2):
            raise UnknownAvif("bytes in another file")
        base = reader.number(base_bytes)
        extents = []
        for _ in range(reader.number(2)):
            reader.number(index_bytes)
            offset = base + reader.number(offset_bytes)
            extents.append((offset, reader.number(length_bytes)))
        places[number] = (method, tuple(extents))
    return places


class _Reader:
    """Reads numbers one after the other. Raises IndexError past the end."""

    def __init__(self, data: bytes, at: int) -> None:
        self._data, self._at = data, at

    def number(self, size_bytes: int) -> int:
        self._at += size_bytes
        if self._at > len(self._data):
            raise IndexError("past the end")
        return int.from_bytes(self._data[self._at - size_bytes : self._at], "big")


def written(avif: Avif) -> bytes:
    """One file, its meta box first."""
    size_bytes = len(avif.ftyp) + len(_meta(avif, 0)) + 8
    payloads = b"".join(item.payload for item in _in_file_order(avif))
    return avif.ftyp + _meta(avif, size_bytes) + box_of(b"mdat", payloads)


def _in_file_order(avif: Avif) -> list[Item]:
    """Items in the order in which their bytes stood; what is new comes last."""
    last = max(item.first_at for item in avif.items)
    return sorted(avif.items, key=lambda item: item.first_at or last + item.number)


def _meta(avif: Avif, payload_at: int) -> bytes:
    count = struct.pack(">H", len(avif.items))
    iinf = box_of(b"iinf", bytes(4) + count + b"".join(item.info for item in avif.items))
    iref = box_of(b"iref", bytes(4) + b"".join(avif.references)) if avif.references else b""
    iloc = _iloc(avif, payload_at)
    return box_of(b"meta", bytes(4) + avif.before + iloc + iinf + iref + avif.after)


def _iloc(avif: Avif, payload_at: int) -> bytes:
    places = {}
    for item in _in_file_order(avif):
        places[item.number] = (payload_at, len(item.payload))
        payload_at += len(item.payload)
    entries = b"".join(
        struct.pack(">HHHHII", item.number, _IN_FILE, 0, 1, *places[item.number])
        for item in avif.items
    )
    return box_of(b"iloc", struct.pack(">IHH", 1 << 24, 0x4400, len(avif.items)) + entries)


def box_of(kind: bytes, payload: bytes) -> bytes:
    """A box with its length and kind before its payload."""
    return struct.pack(">I", 8 + len(payload)) + kind + payload
