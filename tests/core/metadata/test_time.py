"""Files of strangers are taken apart in a time that grows with their length: each of these is
doubled."""

import contextlib
import struct
import time
from collections.abc import Callable

import pytest

from lean_parcel.core.metadata import avif_parts
from lean_parcel.core.metadata.avif_items import auxiliary_items, strip_avif
from lean_parcel.core.metadata.avif_parts import UnknownAvif
from lean_parcel.core.metadata.embed import stripped
from lean_parcel.core.metadata.scans import first_picture_bytes
from lean_parcel.core.original.photo import identify
from lean_parcel.core.original.signalled import signalled
from tests.builders import file, photo

JPEG, PNG, WEBP = (file(photo(24, 16), name) for name in ("JPEG", "PNG", "WEBP"))
AVIF = file(photo(24, 16), "AVIF")


def jpeg_segments(count: int) -> bytes:
    return JPEG[:2] + b"\xff\xe5\0\x03x" * count + JPEG[2:]


def jpeg_fill(count: int) -> bytes:
    return JPEG[:2] + b"\xff" * count + JPEG[2:]


def jpeg_stuffed_scan(count: int) -> bytes:
    return JPEG[:-2] + b"\xff\0" * count + JPEG[-2:]


def jpeg_scans(count: int) -> bytes:
    return JPEG[:-2] + b"\xff\xda\0\x08\x01\x01\0\0\x3f\0x" * count + JPEG[-2:]


def png_chunks(count: int) -> bytes:
    return PNG[:33] + b"\0\0\0\0tEXt\0\0\0\0" * count + PNG[33:]


def webp_chunks(count: int) -> bytes:
    body = WEBP[12:] + b"oddC\0\0\0\0" * count
    return b"RIFF" + struct.pack("<I", 4 + len(body)) + b"WEBP" + body


def avif_boxes(count: int) -> bytes:
    return AVIF + b"\0\0\0\x08free" * count


def avif_chain(count: int) -> bytes:
    """A picture made of another, which is made of another, the last named first."""
    count = min(count, 60_000)
    avif = avif_parts.parsed(AVIF)
    box = avif_parts.box_of
    infos = [
        box(b"infe", b"\2\0\0\0" + struct.pack(">HH4s", n, 0, b"grid") + b"\0")
        for n in range(2, count + 2)
    ]
    items = [avif_parts.Item(n + 2, info, b"grid", b"x") for n, info in enumerate(infos)]
    chain = [box(b"dimg", struct.pack(">HHH", n, 1, n + 1)) for n in range(1, count + 1)]
    made = avif_parts.Avif(
        ftyp=avif.ftyp,
        primary=avif.primary,
        items=(*avif.items, *items),
        references=tuple(reversed(chain)),
        before=avif.before,
        after=avif.after,
    )
    return avif_parts.written(made)


def seconds(data: bytes) -> float:
    start = time.process_time()
    name = identify(data, "a")
    with contextlib.suppress(ValueError):
        stripped(data, name)  # type: ignore[arg-type]
    signalled(data, name)
    first_picture_bytes(data)
    if name == "avif":
        auxiliary_items(data)
    return time.process_time() - start


@pytest.mark.parametrize(
    "make",
    [
        jpeg_segments,
        jpeg_fill,
        jpeg_stuffed_scan,
        jpeg_scans,
        png_chunks,
        webp_chunks,
        avif_boxes,
        avif_chain,
    ],
)
def test_twice_the_parts_take_about_twice_the_time(make: Callable[[int], bytes]) -> None:
    small, large = make(10_000), make(20_000)
    assert any(seconds(large) < 3 * seconds(small) + 0.05 for _ in range(3))


def test_bytes_that_are_named_again_and_again_are_not_gathered() -> None:
    """Each extent is all of the file: a small one would come to gigabytes."""
    avif = avif_parts.parsed(AVIF)
    data = avif_parts.written(avif)
    at = data.index(b"iloc") + 4
    entry = struct.pack(">IHHHHHH", 1 << 24, 0x4400, 1, 1, 0, 0, 2_000)
    places = entry + struct.pack(">II", 0, len(data)) * 2_000
    size = struct.pack(">I", 8 + len(places))
    end = at - 8 + int.from_bytes(data[at - 8 : at - 4], "big")
    meta_at = data.index(b"meta") - 4
    grown = len(places) + 8 - (end - (at - 8))
    meta = struct.pack(">I", int.from_bytes(data[meta_at : meta_at + 4], "big") + grown)
    hostile = data[:meta_at] + meta + data[meta_at + 4 : at - 8] + size + b"iloc" + places
    with pytest.raises(UnknownAvif, match="more than once"):
        strip_avif(hostile + data[end:])
