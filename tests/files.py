"""Files with what cameras, editors and standards put beside the pixels."""

import struct
import zlib
from collections.abc import Iterator
from typing import Any

import numpy as np
import pyexiv2
from PIL import Image

from tests.builders import file, photo

#: Codes in grey of the first pixels of `png`.
CODES = (8, 32, 64, 128, 192)


def full_jpeg() -> bytes:
    """A photo with everything: EXIF, position, thumbnail, maker note, IPTC and XMP."""
    with pyexiv2.ImageData(file(photo(), "JPEG")) as image:
        image.modify_exif(
            {
                "Exif.Image.Make": "Wrenlo",
                "Exif.Image.Orientation": "6",
                "Exif.Image.Artist": "Ada Wren",
                "Exif.Photo.FNumber": "28/10",
                "Exif.Photo.PixelXDimension": "4000",
                "Exif.Photo.MakerNote": "87 114 101 110 0 1 2 3 4 5 6 7",
                "Exif.GPSInfo.GPSLatitudeRef": "N",
                "Exif.GPSInfo.GPSLatitude": "47/1 30/1 0/1",
            }
        )
        image.modify_iptc(
            {"Iptc.Application2.Byline": "A. Wren", "Iptc.Application2.Credit": "Fen Press"}
        )
        image.modify_xmp(
            {
                "Xmp.dc.title": {'lang="x-default"': "Bowls"},
                "Xmp.exif.GPSLatitude": "47,30N",
                "Xmp.photoshop.City": "Fenmouth",
                "Xmp.tiff.Orientation": "6",
            }
        )
        image.modify_thumbnail(file(photo(32, 24), "JPEG"))
        return bytes(image.get_bytes())


def read_back(data: bytes) -> dict[str, Any]:
    """All that exiv2 finds in a file."""
    with pyexiv2.ImageData(data) as image:
        return {**image.read_exif(), **image.read_xmp()}


def parsed(artist: bytes) -> bytes:
    """EXIF that names an artist."""
    exif = Image.Exif()
    exif[315] = artist.decode()
    return exif.tobytes().removeprefix(b"Exif\0\0")


def chunk(kind: bytes, payload: bytes) -> bytes:
    """A chunk of a PNG."""
    checksum = struct.pack(">I", zlib.crc32(kind + payload))
    return struct.pack(">I", len(payload)) + kind + payload + checksum


def gamma(value: int) -> bytes:
    """The chunk gAMA."""
    return chunk(b"gAMA", struct.pack(">I", value))


def cicp(primaries: int, transfer: int, matrix: int = 0, full: int = 1) -> bytes:
    """The chunk cICP."""
    return chunk(b"cICP", bytes([primaries, transfer, matrix, full]))


def png(*chunks: bytes, profile: bytes = b"", grey: bool = False) -> bytes:
    """Six pixels: CODES in grey, and an orange, with further chunks."""
    pixels = np.zeros((1, 6, 3), np.uint8)
    pixels[0, :5] = np.array(CODES)[:, None]
    pixels[0, 5] = (250, 60, 0)
    data = file(pixels[..., 0] if grey else pixels, **({"icc_profile": profile} if profile else {}))
    return data[:33] + b"".join(chunks) + data[33:]


def jpeg_segments(data: bytes) -> Iterator[tuple[int, bytes]]:
    """Markers and payloads up to the first scan (ITU-T T.81, annex B)."""
    at = 2
    while data[at + 1] != 0xDA:
        length = int.from_bytes(data[at + 2 : at + 4], "big")
        yield data[at + 1], data[at + 4 : at + 2 + length]
        at += 2 + length
