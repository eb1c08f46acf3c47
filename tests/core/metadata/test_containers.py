"""Parts of files by their headers."""

import pytest

from lean_parcel.core.metadata.containers import boxes, jpeg_parts


def box(kind: bytes, payload: bytes, *, is_large: bool = False) -> bytes:
    """A box of an ISO base media file (ISO/IEC 14496-12, 4.2), with 32 or 64 bits for its size."""
    if is_large:
        return b"\0\0\0\1" + kind + (16 + len(payload)).to_bytes(8, "big") + payload
    return (8 + len(payload)).to_bytes(4, "big") + kind + payload


def test_boxes_say_their_size_in_32_or_64_bits_or_reach_to_the_end() -> None:
    last = b"\0\0\0\0last" + b"rest"
    data = box(b"ftyp", b"avif") + box(b"mdat", b"pixels", is_large=True) + box(b"free", b"") + last
    found = [(part.kind, data[part.payload_start : part.end]) for part in boxes(data)]
    assert found == [(b"ftyp", b"avif"), (b"mdat", b"pixels"), (b"free", b""), (b"last", b"rest")]


def test_what_says_that_it_is_smaller_than_its_header_or_larger_than_the_file_ends_it() -> None:
    good = box(b"ftyp", b"avif")
    for size in (2, 7, 40):
        assert len(list(boxes(good + size.to_bytes(4, "big") + b"mdat" + bytes(8)))) == 1
    short = b"\0\0\0\1mdat" + (15).to_bytes(8, "big")
    assert len(list(boxes(good + short))) == 1


SCAN = b"\xff\xd8\xff\xda\0\4\1\2"


@pytest.mark.parametrize(
    ("scan", "left"),
    [
        (b"\1\2\3", b""),
        (b"\1\xff\0\2", b""),  # a stuffed byte
        (b"\1\xff\xd0\2", b""),  # a restart
        (b"\1\xff", b""),  # cut in a marker
        (b"", b""),
        (b"\1\2\xff\xd9", b"\xff\xd9"),
        (b"\1\xff\0\2\xff\xd9", b"\xff\xd9"),
    ],
)
def test_a_scan_reaches_to_the_next_marker_or_to_the_end_of_what_is_cut_off(
    scan: bytes, left: bytes
) -> None:
    data = SCAN + scan
    parts = {part.kind: part for part in jpeg_parts(data)}
    assert data[parts[b"\xda"].end :] == left
