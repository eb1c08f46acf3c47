"""Small files that promise very many pixels, and directories that never end."""

import io
import struct
import time
import zlib

import pytest
from PIL import Image

from lean_parcel.core.errors import PhotoError, TooManyPixels
from lean_parcel.core.framing.frame import frame_photo
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.metadata.reading import read_metadata
from lean_parcel.core.original.photo import identify
from lean_parcel.core.original.source import Limits
from tests.builders import file, photo

LIMITS = Limits()
PLACE = Place(size="40")
SIDE_PX = 60_000


def opened(data: bytes, name: str) -> None:
    frame_photo(data, name, Framing(), PLACE, LIMITS)


def png_bomb() -> bytes:
    """3.6 gigapixels of nothing, in a few bytes."""
    head = struct.pack(">IIBBBBB", SIDE_PX, SIDE_PX, 8, 2, 0, 0, 0)
    parts = [(b"IHDR", head), (b"IDAT", zlib.compress(b"\0" * 1_000_000)), (b"IEND", b"")]
    chunks = (
        struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
        for kind, data in parts
    )
    return b"\x89PNG\r\n\x1a\n" + b"".join(chunks)


def jpeg_bomb() -> bytes:
    data = file(photo(), "JPEG")
    at = data.index(b"\xff\xc0")
    return data[: at + 5] + struct.pack(">HH", SIDE_PX, SIDE_PX) + data[at + 9 :]


def gif_bomb() -> bytes:
    data = file(photo(), "GIF")
    size = struct.pack("<HH", SIDE_PX, SIDE_PX)
    frame = data.index(b",", 13 + 3 * 2 ** ((data[10] & 7) + 1))  # behind the palette
    return data[:6] + size + data[10 : frame + 5] + size + data[frame + 9 :]


def webp_bomb() -> bytes:
    """A lossless WebP whose header promises as many pixels as WebP can have."""
    out = io.BytesIO()
    Image.new("RGB", (40, 30), "#204060").save(out, "WEBP", lossless=True)
    data = out.getvalue()
    at = data.index(b"VP8L") + 9  # behind the signature: 14 bits of width and of height, less 1
    rest = int.from_bytes(data[at : at + 4], "little") >> 28 << 28
    size = (rest | 16_382 << 14 | 16_382).to_bytes(4, "little")
    return data[:at] + size + data[at + 4 :]


def ispe_bomb(kind: str) -> bytes:
    """An AVIF or HEIC whose size is told by a property of the container."""
    data = file(photo(64, 64), kind)
    at = data.index(b"ispe") + 8
    return data[:at] + struct.pack(">II", SIDE_PX, SIDE_PX) + data[at + 8 :]


def tiff_bomb() -> bytes:
    data = bytearray(file(photo(), "TIFF"))
    for tag in (256, 257):
        at = data.index(struct.pack("<HHI", tag, 4, 1))
        data[at + 8 : at + 12] = struct.pack("<I", SIDE_PX)
    return bytes(data)


BOMBS = {
    "png": png_bomb,
    "jpeg": jpeg_bomb,
    "gif": gif_bomb,
    "webp": webp_bomb,
    "avif": lambda: ispe_bomb("AVIF"),
    "heic": lambda: ispe_bomb("HEIF"),
    "tiff": tiff_bomb,
}


@pytest.mark.parametrize("kind", BOMBS)
def test_a_bomb_is_refused_before_it_is_decoded(kind: str) -> None:
    data = BOMBS[kind]()
    assert identify(data, "x") == kind
    start_s = time.process_time()
    with pytest.raises(PhotoError) as refused:
        opened(data, "x")
    assert time.process_time() - start_s < 2
    # What the container and the picture itself disagree on is damaged.
    assert isinstance(refused.value, TooManyPixels) or kind in ("avif", "heic")


@pytest.mark.parametrize("kind", ["jpeg", "png"])
def test_a_picture_of_no_pixels_is_refused(kind: str) -> None:
    data = BOMBS[kind]().replace(struct.pack(">I", SIDE_PX), bytes(4))
    both = struct.pack(">HH", SIDE_PX, SIDE_PX), struct.pack("<HH", SIDE_PX, SIDE_PX)
    for size in both:
        data = data.replace(size, bytes(4))
    with pytest.raises(PhotoError):
        opened(data, "x")


def test_directories_that_name_each_other_end() -> None:
    """EXIF whose only directory is followed by itself, and has itself for its GPS."""
    entry = struct.pack("<HHII", 0x8825, 4, 1, 8)
    loop = b"II*\0" + struct.pack("<IH", 8, 1) + entry + struct.pack("<I", 8)
    data = file(photo(), "JPEG", exif=b"Exif\0\0" + loop)
    start_s = time.process_time()
    read_metadata(data, "jpeg")
    opened(data, "x")
    assert time.process_time() - start_s < 2


def test_a_tiff_that_is_followed_by_itself_shows_its_first_picture() -> None:
    data = bytearray(file(photo(), "TIFF"))
    first = struct.unpack("<I", data[4:8])[0]
    count = struct.unpack("<H", data[first : first + 2])[0]
    following = first + 2 + 12 * count
    data[following : following + 4] = struct.pack("<I", first)
    start_s = time.process_time()
    opened(bytes(data), "x")  # its first picture is sound
    assert time.process_time() - start_s < 2
