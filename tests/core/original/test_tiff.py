"""Kinds of TIFF: opened rightly, or called a kind that cannot be opened, never damaged."""

import io
import struct
from contextlib import suppress

import numpy as np
import pytest
import pyvips
from PIL import Image

from lean_parcel.core.arrays import U8
from lean_parcel.core.errors import PhotoError, UnsupportedPhoto
from lean_parcel.core.original.photo import open_pixels
from lean_parcel.core.original.source import Limits
from tests.builders import cutout, photo

PIXELS = photo(200, 150)
VIPS = pyvips.Image.new_from_array(PIXELS)


def by_pillow(mode: str) -> bytes:
    out = io.BytesIO()
    Image.fromarray(PIXELS).convert(mode).save(out, "TIFF")
    return out.getvalue()


def planar(pixels: U8) -> bytes:
    """A TIFF with a plane for each sample, written by hand: no library here writes one."""
    height, width, count = pixels.shape
    planes = [np.ascontiguousarray(pixels[..., i]).tobytes() for i in range(count)]
    starts = [8 + i * width * height for i in range(count)]
    tags = {256: width, 257: height, 259: 1, 262: 2, 277: count, 278: height, 284: 2}
    lists = {258: ("H", [8] * count), 273: ("I", starts), 279: ("I", [width * height] * count)}
    if count == 4:
        tags[338] = 2
    directory_at = 8 + sum(map(len, planes))
    extra_at = directory_at + 6 + 12 * (len(tags) + len(lists))
    entries, extra = b"", b""
    for tag in sorted([*tags, *lists]):
        if tag in tags:
            entries += struct.pack("<HHIHH", tag, 3, 1, tags[tag], 0)
            continue
        letter, values = lists[tag]
        kind = 3 if letter == "H" else 4
        entries += struct.pack("<HHII", tag, kind, count, extra_at + len(extra))
        extra += struct.pack(f"<{count}{letter}", *values)
    directory = struct.pack("<H", len(tags) + len(lists)) + entries + bytes(4)
    return b"II*\0" + struct.pack("<I", directory_at) + b"".join(planes) + directory + extra


def error_codes(data: bytes, wanted: U8 = PIXELS) -> float:
    opened = open_pixels(data, "a.tif", Limits())
    return float(np.abs(opened.astype(int) - wanted).mean())


@pytest.mark.parametrize(
    ("options", "most"),
    [
        ({"tile": True, "tile_width": 64, "tile_height": 64}, 0),
        ({"tile": True, "pyramid": True}, 0),
        ({"tile": True, "compression": "jpeg", "Q": 95}, 2.5),
        ({"compression": "lzw"}, 0),
        ({"compression": "deflate", "predictor": "horizontal"}, 0),
        ({"bigtiff": True}, 0),
    ],
)
def test_strips_tiles_and_common_compressions(options: dict[str, object], most: float) -> None:
    assert error_codes(VIPS.tiffsave_buffer(**options)) <= most


def test_planes() -> None:
    assert error_codes(planar(PIXELS)) == 0
    assert error_codes(planar(cutout(200, 150)), cutout(200, 150)) == 0


def test_lab_and_ycbcr_have_their_colours() -> None:
    assert error_codes(by_pillow("LAB")) < 1.5
    assert error_codes(by_pillow("YCbCr")) < 1.5
    assert error_codes(VIPS.colourspace("labs").tiffsave_buffer()) < 1


def test_what_neither_decoder_opens_is_not_called_damaged() -> None:
    for data in (by_pillow("I"), of_compression(34_661), of_compression(65_001)):
        with pytest.raises(UnsupportedPhoto, match="kind of TIFF"):
            open_pixels(data, "a.tif", Limits())


def of_compression(number: int) -> bytes:
    data = bytearray(by_pillow("RGB"))
    at = data.index(struct.pack("<HHI", 259, 3, 1))
    data[at + 8 : at + 10] = struct.pack("<H", number)
    return bytes(data)


def test_broken_directories_raise_photo_errors() -> None:
    whole = by_pillow("RGB")
    directory_at = int.from_bytes(whole[4:8], "little")
    random = np.random.default_rng(1)
    for _ in range(150):
        data = bytearray(whole)
        for at in random.integers(directory_at, len(whole), 3):
            data[at] = random.integers(0, 256)
        with suppress(PhotoError):
            open_pixels(bytes(data), "a.tif", Limits(max_pixels=10_000_000))
