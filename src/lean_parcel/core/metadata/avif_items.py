"""The items of an AVIF or HEIC: taking metadata out of an AVIF, and putting other metadata in.

An AVIF keeps everything, pictures and metadata, as items of its meta box: `iinf` names them, `iloc`
says where their bytes are, `iref` what they describe (ISO/IEC 14496-12 8.11; MIAF, ISO/IEC
23000-22). A file is taken apart and written anew with one `mdat`, so that nothing removed stays in
its bytes; what decoders need of the pictures is carried over as it is.
"""

import struct
from collections.abc import Iterable
from dataclasses import dataclass, replace

from lean_parcel.core.metadata.containers import Part, boxes
from lean_parcel.core.metadata.values import Segments

_XMP_TYPE = b"application/rdf+xml\0"
_IN_FILE, _IN_META = 0, 1
#: The boxes beside meta and mdat that a still picture may have; others mean a sequence.
_OF_STILL = {b"ftyp", b"free", b"skip", b"uuid"}
#: What shows a picture, and may stay: kinds of items (AV1 Image File Format 1.2, 2 and 4; HEIF
#: 6.6), references between them, names that encoders give them, boxes of meta, and properties.
_SHOWN_KINDS = {b"av01", b"grid", b"iovl", b"iden"}
_SHOWN_REFERENCES = {b"dimg", b"auxl", b"prem"}
_SHOWN_NAMES = {b"", b"Color", b"Alpha"}
_SHOWN_BOXES = {b"hdlr", b"pitm", b"iloc", b"iinf", b"iref", b"iprp"}
_SHOWN_PROPERTIES = frozenset(
    b"ispe pixi av1C colr auxC irot imir clap pasp clli mdcv cclv amve a1op a1lx lsel free".split()
)
_ALPHA = {b"urn:mpeg:mpegB:cicp:systems:auxiliary:alpha", b"urn:mpeg:hevc:2015:auxid:1"}


class UnknownAvif(ValueError):
    """A file that is built in a way that is not rewritten here."""


@dataclass(frozen=True, slots=True)
class _Item:
    """An item: its number, `infe` box, kind and bytes, and where those begin in the file."""

    number: int
    info: bytes
    kind: bytes
    payload: bytes
    first_at: int = 0


@dataclass(frozen=True, slots=True)
class _Avif:
    """A file taken apart."""

    ftyp: bytes
    primary: int
    items: tuple[_Item, ...]
    references: tuple[bytes, ...]
    #: The other boxes of meta that show the picture: hdlr and pitm before the items, iprp after.
    before: bytes
    after: bytes


def strip_avif(data: bytes) -> bytes:
    """An AVIF with its main picture and its transparency only: without metadata, thumbnails, depth
    and gain maps, names, and bytes that belong to no item. Raises UnknownAvif."""
    avif = _parsed(data)
    try:
        shown = _shown(data, avif)
        bare = replace(
            avif,
            items=tuple(_without_name(item) for item in avif.items if item.number in shown),
            references=tuple(box for box in avif.references if _is_among(box, shown)),
            after=_with_known_properties(avif.after),
        )
    except (KeyError, IndexError) as error:
        raise UnknownAvif(str(error)) from error
    return data if bare == avif and not _has_more(data, avif) else _written(bare)


def _shown(data: bytes, avif: _Avif) -> set[int]:
    """The items that show the picture: the main one, what it is made of, and their alpha."""
    urns = _urns(data, _by_kind(_in_meta(data)).get(b"iprp"))
    following: dict[int, list[int]] = {}
    for kind, number, others in map(_parts_of, avif.references):
        if kind == b"dimg":
            following.setdefault(number, []).extend(others)
        if kind == b"auxl" and urns.get(number) in _ALPHA:
            for other in others:
                following.setdefault(other, []).append(number)
    shown, waiting = {avif.primary}, [avif.primary]
    while waiting:
        new = [each for each in following.pop(waiting.pop(), ()) if each not in shown]
        shown.update(new)
        waiting += new
    if any(item.kind not in _SHOWN_KINDS for item in avif.items if item.number in shown):
        raise UnknownAvif("a picture of another kind")
    return shown


def _parts_of(reference: bytes) -> tuple[bytes, int, list[int]]:
    """The kind of a reference, the item that has it, and the items that it names."""
    reader = _Reader(reference, 8)
    number = reader.number(2)
    return reference[4:8], number, [reader.number(2) for _ in range(reader.number(2))]


def _is_among(reference: bytes, numbers: set[int]) -> bool:
    kind, number, others = _parts_of(reference)
    return kind in _SHOWN_REFERENCES and {number, *others} <= numbers


def _without_name(item: _Item) -> _Item:
    """An item without a name, unless it is one that encoders give."""
    fixed, name = item.info[:20], item.info[20:].partition(b"\0")
    if name[0] in _SHOWN_NAMES and not name[2]:
        return item
    return replace(item, info=_box(b"infe", fixed[8:] + b"\0"))


def _with_known_properties(iprp: bytes) -> bytes:
    """The properties, and free space in the place of those that show nothing: they are named by
    their order."""
    changed = bytearray(iprp)
    for box in boxes(iprp, 8):
        if box.kind != b"ipco":
            continue
        for each in boxes(iprp, box.payload_start, box.end):
            if each.kind not in _SHOWN_PROPERTIES:
                changed[each.start + 4 : each.end] = b"free" + bytes(each.size_bytes - 8)
    return bytes(changed)


def embed_in_avif(data: bytes, segments: Segments) -> bytes:
    """An AVIF without metadata, with these segments as items. Raises UnknownAvif."""
    if not segments.exif and not segments.xmp:
        return data
    avif = _parsed(data)
    number = max(item.number for item in avif.items)
    items, references = list(avif.items), list(avif.references)
    for kind, media_type, payload in (
        (b"Exif", b"", b"\0\0\0\0" + segments.exif if segments.exif else b""),
        (b"mime", _XMP_TYPE, segments.xmp),
    ):
        if payload:
            number += 1
            entry = struct.pack(">HH4sB", number, 0, kind, 0) + media_type
            info = _box(b"infe", b"\x02\0\0\0" + entry)
            items.append(_Item(number, info, kind, payload))
            references.append(_box(b"cdsc", struct.pack(">HHH", number, 1, avif.primary)))
    return _written(replace(avif, items=tuple(items), references=tuple(references)))


def with_primaries(data: bytes, primaries: int) -> bytes:
    """A file of this machine's encoder whose numbers say other primaries (ITU-T H.273)."""
    iprp = _by_kind(_in_meta(data))[b"iprp"]
    properties = _properties(data, iprp)
    changed = bytearray(data)
    for part in (part for parts in properties.values() for part in parts if part.kind == b"colr"):
        at = part.payload_start + 4
        changed[at : at + 2] = primaries.to_bytes(2, "big")
    return bytes(changed)


def with_alpha_of(colours: bytes, alpha: bytes) -> bytes:
    """The colours of one file of this machine's encoder with the alpha of another, which was
    encoded from as many pixels, with the same options."""
    whole, shown = _parsed(alpha), _parsed(colours)
    (payload,) = (item.payload for item in shown.items if item.number == shown.primary)
    items = [
        replace(item, payload=payload) if item.number == whole.primary else item
        for item in whole.items
    ]
    (old,), (new,) = (main_properties(data)[b"av1C"] for data in (alpha, colours))
    after = whole.after.replace(b"av1C" + old, b"av1C" + new, 1)
    return _written(replace(whole, items=tuple(items), after=after))


def auxiliary_items(data: bytes) -> list[tuple[bytes, int]]:
    """What a HEIC or AVIF has beside its main picture: for each auxiliary picture the URN of its
    type, `iso:ts:21496:-1` for the gain map of a tone-mapped picture, `thmb` for a thumbnail; and
    its bytes. Raises UnknownAvif."""
    inside = _by_kind(_in_meta(data))
    try:
        sizes = _item_bytes(data, inside[b"iinf"], inside[b"iloc"])
        urns = _urns(data, inside.get(b"iprp"))
        found = []
        for reference in _references(data, inside.get(b"iref")):
            kind, number, others = _parts_of(reference)
            item_kind = sizes.get(number, (b"", 0))[0]
            if kind == b"thmb":
                found.append((b"thmb", sizes[number][1]))
            elif kind == b"auxl":
                found.append((urns.get(number, b""), sizes[number][1]))
            elif kind == b"dimg" and item_kind == b"tmap":
                found.append((b"iso:ts:21496:-1", sum(sizes[other][1] for other in others[1:])))
        return found
    except (KeyError, IndexError) as error:
        raise UnknownAvif(str(error)) from error


def _item_bytes(data: bytes, iinf: Part, iloc: Part) -> dict[int, tuple[bytes, int]]:
    """The kind and the bytes of each item; of one that is made of others, theirs are not in it."""
    places = _places(data, iloc)
    return {
        number: (kind, sum(length for _, length in places.get(number, (_IN_FILE, ()))[1]))
        for number, (_, kind) in _infos(data, iinf).items()
    }


def main_properties(data: bytes) -> dict[bytes, list[bytes]]:
    """The properties of the main picture of an AVIF or HEIC, by their kind. Raises UnknownAvif."""
    inside = _by_kind(_in_meta(data))
    try:
        parts = _properties(data, inside.get(b"iprp")).get(_primary(data, inside[b"pitm"]), [])
    except (KeyError, IndexError) as error:
        raise UnknownAvif(str(error)) from error
    found: dict[bytes, list[bytes]] = {}
    for part in parts:
        found.setdefault(part.kind, []).append(data[part.payload_start : part.end])
    return found


def _urns(data: bytes, iprp: Part | None) -> dict[int, bytes]:
    """The types of auxiliary pictures by item (ISO/IEC 23008-12 6.5.8)."""
    return {
        number: data[box.payload_start + 4 : box.end].partition(b"\0")[0]
        for number, parts in _properties(data, iprp).items()
        for box in parts
        if box.kind == b"auxC"
    }


def _properties(data: bytes, iprp: Part | None) -> dict[int, list[Part]]:
    """The properties of each item, in their order (ISO/IEC 23008-12 9.3)."""
    if iprp is None:
        return {}
    inside = _by_kind(boxes(data, iprp.payload_start, iprp.end))
    properties = list(boxes(data, inside[b"ipco"].payload_start, inside[b"ipco"].end))
    ipma = inside[b"ipma"]
    version, is_wide = data[ipma.payload_start], data[ipma.payload_start + 3] & 1
    reader = _Reader(data, ipma.payload_start + 4)
    found: dict[int, list[Part]] = {}
    for _ in range(reader.number(4)):
        number = reader.number(4 if version else 2)
        for _ in range(reader.number(1)):
            index = reader.number(2) & 0x7FFF if is_wide else reader.number(1) & 0x7F
            if 0 < index <= len(properties):
                found.setdefault(number, []).append(properties[index - 1])
    return found


def avif_item_bytes(segments_exif_bytes: int, segments_xmp_bytes: int) -> int:
    """What the items of segments add to a file that has been written here."""
    an_item = 21 + 16 + 14  # infe, its place in iloc, cdsc
    exif = an_item + 4 + segments_exif_bytes if segments_exif_bytes else 0
    return exif + (an_item + len(_XMP_TYPE) + segments_xmp_bytes if segments_xmp_bytes else 0)


def _parsed(data: bytes) -> _Avif:
    top = _by_kind(boxes(data))
    if set(top) - _OF_STILL - {b"meta", b"mdat"} or not {b"ftyp", b"meta"} <= set(top):
        raise UnknownAvif("not a still picture of items")
    try:
        parts = _in_meta(data)
        inside = _by_kind(parts)
        return _Avif(
            ftyp=_whole(data, top[b"ftyp"]),
            primary=_primary(data, inside[b"pitm"]),
            items=_items(data, inside[b"iinf"], inside[b"iloc"], inside.get(b"idat")),
            references=_references(data, inside.get(b"iref")),
            before=_joined(data, parts, {b"hdlr", b"pitm"}),
            after=_joined(data, parts, {b"iprp"}),
        )
    except (KeyError, IndexError, struct.error) as error:
        raise UnknownAvif(str(error)) from error


def _has_more(data: bytes, avif: _Avif) -> bool:
    """Whether there are bytes beside those that show the picture."""
    known = list(boxes(data))
    in_meta = {box.kind for box in _in_meta(data)}
    is_plain = {box.kind for box in known} <= {b"ftyp", b"meta", b"mdat"}
    stored = sum(box.end - box.payload_start for box in known if box.kind == b"mdat")
    used = sum(len(item.payload) for item in avif.items)
    return not (
        is_plain and in_meta <= _SHOWN_BOXES and known[-1].end == len(data) and stored == used
    )


def _in_meta(data: bytes) -> list[Part]:
    """The boxes of the meta box. Raises UnknownAvif where there is none."""
    for box in boxes(data):
        if box.kind == b"meta":
            return list(boxes(data, box.payload_start + 4, box.end))
    raise UnknownAvif("no items")


def _by_kind(parts: Iterable[Part]) -> dict[bytes, Part]:
    return {part.kind: part for part in parts}


def _whole(data: bytes, part: Part) -> bytes:
    return data[part.start : part.end]


def _joined(data: bytes, parts: Iterable[Part], kinds: set[bytes]) -> bytes:
    return b"".join(_whole(data, part) for part in parts if part.kind in kinds)


def _primary(data: bytes, pitm: Part) -> int:
    if data[pitm.payload_start]:
        raise UnknownAvif("numbers of 32 bits")
    return int.from_bytes(data[pitm.payload_start + 4 : pitm.payload_start + 6], "big")


def _references(data: bytes, iref: Part | None) -> tuple[bytes, ...]:
    if iref is None:
        return ()
    if data[iref.payload_start]:
        raise UnknownAvif("references of 32 bits")
    return tuple(_whole(data, box) for box in boxes(data, iref.payload_start + 4, iref.end))


def _items(data: bytes, iinf: Part, iloc: Part, idat: Part | None) -> tuple[_Item, ...]:
    places = _places(data, iloc)
    if sum(length for _, extents in places.values() for _, length in extents) > len(data):
        raise UnknownAvif("bytes that are used more than once")
    return tuple(
        _item(data, number, info, kind, idat, *places.get(number, (_IN_FILE, ())))
        for number, (info, kind) in _infos(data, iinf).items()
    )


def _infos(data: bytes, iinf: Part) -> dict[int, tuple[bytes, bytes]]:
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
    idat: Part | None,
    method: int,
    extents: tuple[tuple[int, int], ...],
) -> _Item:
    start, end = 0, len(data)
    if method == _IN_META and idat:
        start, end = idat.payload_start, idat.end
    elif method != _IN_FILE:
        raise UnknownAvif("bytes of another item")
    if any(start + at + length > end for at, length in extents):
        raise UnknownAvif("bytes outside the file")
    payload = b"".join(data[start + at : start + at + length] for at, length in extents)
    first_at = start + min((at for at, _ in extents), default=0)
    return _Item(number, info, kind, payload, first_at)


def _places(data: bytes, iloc: Part) -> dict[int, tuple[int, tuple[tuple[int, int], ...]]]:
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


def _written(avif: _Avif) -> bytes:
    """One file, its meta box first."""
    size_bytes = len(avif.ftyp) + len(_meta(avif, 0)) + 8
    payloads = b"".join(item.payload for item in _in_file_order(avif))
    return avif.ftyp + _meta(avif, size_bytes) + _box(b"mdat", payloads)


def _in_file_order(avif: _Avif) -> list[_Item]:
    """Items in the order in which their bytes stood; what is new comes last."""
    last = max(item.first_at for item in avif.items)
    return sorted(avif.items, key=lambda item: item.first_at or last + item.number)


def _meta(avif: _Avif, payload_at: int) -> bytes:
    count = struct.pack(">H", len(avif.items))
    iinf = _box(b"iinf", bytes(4) + count + b"".join(item.info for item in avif.items))
    iref = _box(b"iref", bytes(4) + b"".join(avif.references)) if avif.references else b""
    iloc = _iloc(avif, payload_at)
    return _box(b"meta", bytes(4) + avif.before + iloc + iinf + iref + avif.after)


def _iloc(avif: _Avif, payload_at: int) -> bytes:
    places = {}
    for item in _in_file_order(avif):
        places[item.number] = (payload_at, len(item.payload))
        payload_at += len(item.payload)
    entries = b"".join(
        struct.pack(">HHHHII", item.number, _IN_FILE, 0, 1, *places[item.number])
        for item in avif.items
    )
    return _box(b"iloc", struct.pack(">IHH", 1 << 24, 0x4400, len(avif.items)) + entries)


def _box(kind: bytes, payload: bytes) -> bytes:
    return struct.pack(">I", 8 + len(payload)) + kind + payload
