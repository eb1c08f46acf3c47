"""What an AVIF holds beside its colours: metadata taken out and put in, and transparency joined;
what a HEIC has beside its picture. What decoders need is carried over as it is.
"""

import struct
from dataclasses import replace

from lean_parcel.core.metadata.avif_parts import (
    Avif,
    Item,
    UnknownAvif,
    box_of,
    by_kind,
    in_meta,
    infos_of,
    main_properties,
    parsed,
    parts_of,
    places_of,
    properties_of,
    references_of,
    written,
)
from lean_parcel.core.metadata.containers import FilePart, boxes
from lean_parcel.core.metadata.values import Segments

_XMP_TYPE = b"application/rdf+xml\0"
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


def strip_avif(data: bytes) -> bytes:
    """An AVIF with its main picture and its transparency only: without metadata, thumbnails, depth
    and gain maps, names, and bytes that belong to no item. Raises UnknownAvif."""
    avif = parsed(data)
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
    return data if bare == avif and not _has_more(data, avif) else written(bare)


def _shown(data: bytes, avif: Avif) -> set[int]:
    """The items that show the picture: the main one, what it is made of, and their alpha."""
    urns = _urns(data, by_kind(in_meta(data)).get(b"iprp"))
    following: dict[int, list[int]] = {}
    for kind, number, others in map(parts_of, avif.references):
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


def _is_among(reference: bytes, numbers: set[int]) -> bool:
    kind, number, others = parts_of(reference)
    return kind in _SHOWN_REFERENCES and {number, *others} <= numbers


def _without_name(item: Item) -> Item:
    """An item without a name, unless it is one that encoders give."""
    fixed, name = item.info[:20], item.info[20:].partition(b"\0")
    if name[0] in _SHOWN_NAMES and not name[2]:
        return item
    return replace(item, info=box_of(b"infe", fixed[8:] + b"\0"))


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
    avif = parsed(data)
    number = max(item.number for item in avif.items)
    items, references = list(avif.items), list(avif.references)
    for kind, media_type, payload in (
        (b"Exif", b"", b"\0\0\0\0" + segments.exif if segments.exif else b""),
        (b"mime", _XMP_TYPE, segments.xmp),
    ):
        if payload:
            number += 1
            entry = struct.pack(">HH4sB", number, 0, kind, 0) + media_type
            info = box_of(b"infe", b"\x02\0\0\0" + entry)
            items.append(Item(number, info, kind, payload))
            references.append(box_of(b"cdsc", struct.pack(">HHH", number, 1, avif.primary)))
    return written(replace(avif, items=tuple(items), references=tuple(references)))


def with_primaries(data: bytes, primaries: int) -> bytes:
    """A file of this machine's encoder whose numbers say other primaries (ITU-T H.273)."""
    iprp = by_kind(in_meta(data))[b"iprp"]
    properties = properties_of(data, iprp)
    changed = bytearray(data)
    for part in (part for parts in properties.values() for part in parts if part.kind == b"colr"):
        at = part.payload_start + 4
        changed[at : at + 2] = primaries.to_bytes(2, "big")
    return bytes(changed)


def with_alpha_of(colours: bytes, alpha: bytes) -> bytes:
    """The colours of one file of this machine's encoder with the alpha of another, which was
    encoded from as many pixels, with the same options."""
    whole, shown = parsed(alpha), parsed(colours)
    (payload,) = (item.payload for item in shown.items if item.number == shown.primary)
    items = [
        replace(item, payload=payload) if item.number == whole.primary else item
        for item in whole.items
    ]
    (old,), (new,) = (main_properties(data)[b"av1C"] for data in (alpha, colours))
    after = whole.after.replace(b"av1C" + old, b"av1C" + new, 1)
    return written(replace(whole, items=tuple(items), after=after))


def auxiliary_items(data: bytes) -> list[tuple[bytes, int]]:
    """What a HEIC or AVIF has beside its main picture: for each auxiliary picture the URN of its
    type, `iso:ts:21496:-1` for the gain map of a tone-mapped picture, `thmb` for a thumbnail; and
    its bytes. Raises UnknownAvif."""
    inside = by_kind(in_meta(data))
    try:
        sizes = _item_bytes(data, inside[b"iinf"], inside[b"iloc"])
        urns = _urns(data, inside.get(b"iprp"))
        found = []
        for reference in references_of(data, inside.get(b"iref")):
            kind, number, others = parts_of(reference)
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


def _item_bytes(data: bytes, iinf: FilePart, iloc: FilePart) -> dict[int, tuple[bytes, int]]:
    """The kind and the bytes of each item; of one that is made of others, theirs are not in it."""
    places = places_of(data, iloc)
    return {
        number: (kind, sum(length for _, length in places.get(number, (0, ()))[1]))
        for number, (_, kind) in infos_of(data, iinf).items()
    }


def _urns(data: bytes, iprp: FilePart | None) -> dict[int, bytes]:
    """The types of auxiliary pictures by item (ISO/IEC 23008-12 6.5.8)."""
    return {
        number: data[box.payload_start + 4 : box.end].partition(b"\0")[0]
        for number, parts in properties_of(data, iprp).items()
        for box in parts
        if box.kind == b"auxC"
    }


def avif_item_bytes(segments_exif_bytes: int, segments_xmp_bytes: int) -> int:
    """What the items of segments add to a file that has been written here."""
    an_item = 21 + 16 + 14  # infe, its place in iloc, cdsc
    exif = an_item + 4 + segments_exif_bytes if segments_exif_bytes else 0
    return exif + (an_item + len(_XMP_TYPE) + segments_xmp_bytes if segments_xmp_bytes else 0)


def _has_more(data: bytes, avif: Avif) -> bool:
    """Whether there are bytes beside those that show the picture."""
    known = list(boxes(data))
    kinds = {box.kind for box in in_meta(data)}
    is_plain = {box.kind for box in known} <= {b"ftyp", b"meta", b"mdat"}
    stored = sum(box.end - box.payload_start for box in known if box.kind == b"mdat")
    used = sum(len(item.payload) for item in avif.items)
    return not (
        is_plain and kinds <= _SHOWN_BOXES and known[-1].end == len(data) and stored == used
    )
