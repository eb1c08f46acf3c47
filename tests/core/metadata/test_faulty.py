"""Broken metadata refuses no photo: what cannot be read or carried is left out, and said."""

import io
import random

import pytest
from PIL import Image

from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.metadata.values import Credit
from lean_parcel.core.original.source import Limits
from lean_parcel.work.tasks.framing import frame_task
from lean_parcel.work.tasks.inspection import Inspected, inspect_task
from tests.builders import photo, srgb_profile
from tests.files import full_jpeg

# Pillow warns of what it cannot read.
pytestmark = pytest.mark.filterwarnings("ignore::UserWarning")
#: Bytes that mean something in EXIF: types, counts, the highest.
_MEANINGFUL = (0, 1, 2, 3, 4, 5, 7, 9, 10, 12, 255)


def opened(data: bytes) -> Inspected:
    """A file framed and inspected, as when it is added."""
    frame_task(data, "odd", Framing(), Place(size="32"), Limits())
    return inspect_task(data, "odd", Credit(), Limits())


def says_so(inspected: Inspected) -> bool:
    return "unreadable_metadata" in {finding.topic for finding in inspected.findings}


def damaged(block: bytes, chance: random.Random) -> bytes:
    """A block with some bytes changed behind its header, mostly to those that mean something."""
    changed = bytearray(block)
    for _ in range(chance.choice((1, 1, 2, 4, 16))):
        value = chance.choice((*_MEANINGFUL, chance.randrange(256)))
        changed[chance.randrange(14, len(block))] = value
    return bytes(changed)


@pytest.mark.parametrize("kind", ["JPEG", "PNG", "WEBP", "AVIF"])
@pytest.mark.parametrize("broken", ["exif", "xmp", "icc_profile"])
def test_a_damaged_block_refuses_no_photo(kind: str, broken: str) -> None:
    with Image.open(io.BytesIO(full_jpeg())) as image:
        blocks = {"exif": image.info["exif"], "xmp": image.info["xmp"]}
    blocks["icc_profile"] = srgb_profile()
    for seed in range(12):
        changed = damaged(blocks[broken], random.Random(seed))
        out = io.BytesIO()
        Image.fromarray(photo(48, 32)).save(out, kind, **{**blocks, broken: changed})
        opened(out.getvalue())


def test_any_damaged_segment_of_a_jpeg_refuses_no_photo() -> None:
    data = full_jpeg()
    end = data.index(b"\xff\xdb")  # where its own tables begin
    for seed in range(24):
        chance = random.Random(seed)
        changed = bytearray(data)
        for _ in range(chance.choice((1, 2, 4))):
            at = chance.randrange(24, end)
            if data[at] != 0xFF and data[at - 1] != 0xFF:
                changed[at] = chance.choice(_MEANINGFUL)
        try:
            opened(bytes(changed))
        except ValueError as error:
            raise AssertionError(seed) from error


@pytest.mark.parametrize(
    ("kind", "count", "value"),
    [
        (5, 0, b"\0\0\0\0"),  # a resolution without a value
        (5, 1, b"\xff\xff\xff\0"),  # a rational that lies outside the block
        (2, 4, b"abc\0"),  # words for a resolution
        (3, 1, b"\x48\0\0\0"),
    ],
)
def test_a_resolution_that_is_none_is_left_out(kind: int, count: int, value: bytes) -> None:
    entry = b"\x1a\x01" + kind.to_bytes(2, "little") + count.to_bytes(4, "little") + value
    exif = b"Exif\0\0II*\0\x08\0\0\0\x01\0" + entry + b"\0\0\0\0"
    out = io.BytesIO()
    Image.fromarray(photo(48, 32)).save(out, "JPEG", exif=exif)
    opened(out.getvalue())


def test_metadata_left_out_is_said() -> None:
    out = io.BytesIO()
    Image.fromarray(photo(48, 32)).save(out, "JPEG", xmp=b"<no xmp")
    assert says_so(opened(out.getvalue()))
    assert not says_so(opened(full_jpeg()))
