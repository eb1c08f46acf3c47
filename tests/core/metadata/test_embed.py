"""Metadata taken out of finished files and put in, to the byte, with the picture untouched."""

import io
import struct
import zlib
from contextlib import suppress
from dataclasses import replace
from functools import cache
from itertools import product

import numpy as np
import pytest
import pyvips
from hypothesis import given
from hypothesis import settings as examples
from hypothesis import strategies as st
from PIL import Image, PngImagePlugin

from lean_parcel.core.arrays import U8
from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    EncoderSettings,
    JpegSettings,
    PngSettings,
    WebpSettings,
)
from lean_parcel.core.formats import Format
from lean_parcel.core.metadata import avif_parts
from lean_parcel.core.metadata.avif_items import auxiliary_items
from lean_parcel.core.metadata.avif_parts import UnknownAvif
from lean_parcel.core.metadata.containers import boxes
from lean_parcel.core.metadata.embed import (
    SegmentSizes,
    added_bytes,
    container_bytes,
    embedded,
    exchanged,
    stripped,
)
from lean_parcel.core.metadata.policy import POLICY_NAMES, segments_for
from lean_parcel.core.metadata.reading import read_metadata
from lean_parcel.core.metadata.values import NO_SEGMENTS, Credit, Segments
from lean_parcel.core.picture.gamut import Gamut
from lean_parcel.core.picture.serialisation import decode
from tests.builders import cutout, file, photo
from tests.files import full_jpeg, parsed

SETTINGS: list[EncoderSettings] = [
    JpegSettings(quality=70, chroma="4:2:0"),
    JpegSettings(quality=70, chroma="4:2:2", progressive=False),
    WebpSettings(quality=70),
    WebpSettings(quality=75, lossless=True),
    AvifSettings(quality=60, chroma="4:4:4"),
    AvifSettings(quality=60, chroma="4:2:0", depth=10),
    PngSettings(colours=64),
    PngSettings(colours=None),
]
PICTURES = [photo(), cutout(), photo(33, 17)]
GAMUTS: tuple[Gamut, ...] = ("srgb", "display-p3")
Case = tuple[EncoderSettings, int, Gamut]
CASES: list[Case] = list(product(SETTINGS, range(len(PICTURES)), GAMUTS))
SOME = Segments(exif=parsed(b"Ada"), xmp=b"<x:xmpmeta xmlns:x='adobe:ns:meta/'/>")


@cache
def made(case: Case) -> tuple[Format, bytes]:
    """A file of an encoder, and its format."""
    settings, picture, gamut = case
    return settings.format, encode(PICTURES[picture], settings, gamut)


def pictures(data: bytes) -> list[U8]:
    """A file as two independent decoders show it."""
    with Image.open(io.BytesIO(data)) as image:
        by_pillow = np.asarray(image.convert("RGBA"))
    by_vips = pyvips.Image.new_from_buffer(data, "").numpy()
    return [decode(data), by_pillow, np.asarray(by_vips)]


@pytest.mark.parametrize("case", CASES, ids=str)
def test_metadata_comes_and_goes_and_the_picture_stays(case: Case) -> None:
    name, data = made(case)
    with_some = embedded(data, name, SOME)
    for before, after in zip(pictures(data), pictures(with_some), strict=True):
        np.testing.assert_array_equal(before, after)
    with Image.open(io.BytesIO(with_some)) as image, Image.open(io.BytesIO(data)) as bare:
        assert image.getexif()[315] == "Ada"
        assert image.info.get("xmp") or image.text  # type: ignore[attr-defined]
        assert image.info.get("icc_profile") == bare.info.get("icc_profile")
    assert stripped(data, name) == data
    without = stripped(with_some, name)
    assert b"Ada" not in without
    assert b"xmpmeta" not in without
    assert embedded(without, name, SOME) == with_some
    if name != "avif":  # which is written anew
        assert without in (data, _in_extended_container(data, name))


def _in_extended_container(data: bytes, name: Format) -> bytes | None:
    """A WebP keeps the container that it was given for its metadata."""
    return stripped(embedded(data, name, SOME), name) if name == "webp" else None


@examples(deadline=None, max_examples=12)
@given(exif=st.binary(max_size=300), xmp=st.binary(max_size=300))
def test_what_segments_add_is_known_to_the_byte(exif: bytes, xmp: bytes) -> None:
    segments = Segments(exif=exif, xmp=xmp)
    for name, data in map(made, CASES):
        added = added_bytes(name, SegmentSizes.of(segments), container_bytes(data, name))
        assert len(embedded(data, name, segments)) == len(data) + added


def test_an_original_loses_all_that_is_not_its_picture() -> None:
    original = full_jpeg() + b"\0\0\0\x18ftypmp42 a hidden video"
    bare = stripped(original, "jpeg")
    np.testing.assert_array_equal(decode(bare), decode(original))
    for trace in (b"Wrenlo", b"Fen", b"hidden", b"Photoshop", b"http://ns.adobe.com"):
        assert trace not in bare
    again = exchanged(original, "jpeg", Segments(exif=parsed(b"Ada")))
    assert b"Ada" in again
    assert b"Wrenlo" not in again


@pytest.mark.parametrize("kind", ["PNG", "WEBP", "AVIF"])
def test_metadata_that_pillow_wrote_is_gone_with_all_its_bytes(kind: str) -> None:
    exif = Image.Exif()
    exif[315], exif[271] = "Ada", "Wrenlo"
    xmp = b"<x:xmpmeta xmlns:x='adobe:ns:meta/'>Fenmouth</x:xmpmeta>"
    options = {"pnginfo": None} if kind == "PNG" else {"xmp": xmp}
    data = file(cutout(), kind, exif=exif, **options)
    bare = stripped(data, kind.lower())  # type: ignore[arg-type]
    np.testing.assert_array_equal(decode(bare), decode(data))
    for trace in (b"Ada", b"Wrenlo", b"Fenmouth"):
        assert trace in data or kind == "PNG"
        assert trace not in bare


def test_what_is_written_in_a_png_goes_with_the_rest() -> None:
    texts = PngImagePlugin.PngInfo()
    texts.add_text("Author", "Ada Wren")
    texts.add_text("Comment", "where Ada lives", zip=True)
    texts.add_itxt("Title", "Schüssel von Ada", lang="de", tkey="Titel", zip=True)
    texts.add_itxt("XML:com.adobe.xmp", "<x:xmpmeta>Ada</x:xmpmeta>")
    data = file(cutout(), "PNG", pnginfo=texts, dpi=(300, 300))
    bare = stripped(data, "png")
    with Image.open(io.BytesIO(bare)) as image:
        image.load()
        assert image.info == {}
    np.testing.assert_array_equal(decode(bare), decode(data))
    for policy in POLICY_NAMES:
        carried = segments_for(policy, read_metadata(data, "png"), Credit())
        handed = exchanged(data, "png", carried)
        with Image.open(io.BytesIO(handed)) as image:
            image.load()
            assert not {"Author", "Comment", "Title"} & image.info.keys()


@pytest.mark.parametrize(
    "data",
    [
        b"",
        b"\0\0\0\x18ftypavif",
        file(photo(), "AVIF")[:150],
        file(photo(), "AVIF").replace(b"mdat", b"moov", 1),
        file(photo(), "AVIF").replace(b"iloc\0", b"iloc\2", 1),
        file(photo(), "AVIF").replace(b"pitm\0", b"pitm\1", 1),
    ],
)
def test_an_avif_of_another_build_is_left_alone(data: bytes) -> None:
    with pytest.raises(UnknownAvif):
        exchanged(data, "avif", NO_SEGMENTS)


@pytest.mark.parametrize("case", CASES[::2], ids=str)
def test_of_cut_off_files_at_most_a_value_error_is_raised(case: Case) -> None:
    name, data = made(case)
    for end in range(0, len(data), max(1, len(data) // 40)):
        with suppress(ValueError):
            stripped(data[:end], name)


def jfif_thumbnail(data: bytes) -> bytes:
    """A JPEG whose JFIF header has a thumbnail of two pixels."""
    assert data[2:4] == b"\xff\xe0"
    header = data[6:18] + b"\x02\x01" + b"secret"
    return data[:2] + b"\xff\xe0" + (2 + len(header)).to_bytes(2, "big") + header + data[20:]


def chunks_in_png(data: bytes) -> bytes:
    return (
        data[:33]
        + b"".join(
            png_chunk(kind, b"secret of somebody") for kind in (b"caBX", b"prVW", b"pHYs", b"bKGD")
        )
        + data[33:]
    )


def png_chunk(kind: bytes, payload: bytes) -> bytes:
    checksum = struct.pack(">I", zlib.crc32(kind + payload))
    return struct.pack(">I", len(payload)) + kind + payload + checksum


def chunks_in_webp(data: bytes) -> bytes:
    body = data[12:] + b"C2PA" + struct.pack("<I", 6) + b"secret" + b"oddC\6\0\0\0secret"
    return b"RIFF" + struct.pack("<I", 4 + len(body)) + b"WEBP" + body


def boxes_in_avif(data: bytes) -> bytes:
    """An AVIF with a thumbnail, a named item, a description, a box of credentials, and bytes of no
    item."""
    avif = avif_parts.parsed(data)
    first = avif.items[0]
    number = max(item.number for item in avif.items) + 1
    info = avif_parts.box_of(
        b"infe", b"\2\0\0\0" + struct.pack(">HH4s", number, 0, b"av01") + b"\0"
    )
    thumbnail = avif_parts.Item(number, info, b"av01", b"secret thumbnail")
    named = replace(first, info=avif_parts.box_of(b"infe", first.info[8:20] + b"secret name\0"))
    reference = avif_parts.box_of(b"thmb", struct.pack(">HHH", number, 1, avif.primary))
    described = replace(
        avif,
        items=(named, *avif.items[1:], thumbnail),
        references=(*avif.references, reference),
        after=with_description(avif.after),
    )
    credentials = avif_parts.box_of(b"uuid", b"x" * 16 + b"secret")
    return avif_parts.written(described) + credentials


def with_description(iprp: bytes) -> bytes:
    """Properties with one more that describes the picture in words; nothing has it."""
    ipco, *rest = (iprp[box.start : box.end] for box in boxes(iprp, 8))
    more = avif_parts.box_of(b"udes", b"\0\0\0\0en\0secret\0\0\0")
    return avif_parts.box_of(b"iprp", avif_parts.box_of(b"ipco", ipco[8:] + more) + b"".join(rest))


@pytest.mark.parametrize(
    ("name", "data"),
    [
        ("jpeg", jfif_thumbnail(file(photo(), "JPEG", quality=90))),
        ("jpeg", file(photo(), "JPEG").replace(b"\xff\xdb", b"\xff\xeb\0\x08secret\xff\xdb", 1)),
        ("png", chunks_in_png(file(cutout()))),
        ("webp", chunks_in_webp(file(photo(), "WEBP"))),
        ("avif", boxes_in_avif(file(cutout(), "AVIF"))),
        ("avif", boxes_in_avif(file(photo(), "AVIF"))),
    ],
)
def test_only_parts_that_show_the_picture_stay(name: Format, data: bytes) -> None:
    assert b"secret" in data
    bare = stripped(data, name)
    assert b"secret" not in bare
    for before, after in zip(pictures(data), pictures(bare), strict=True):
        np.testing.assert_array_equal(before, after)
    assert stripped(bare, name) == bare


@pytest.mark.parametrize("case", CASES[::6], ids=str)
def test_of_a_file_that_is_not_whole_no_part_is_given(case: Case) -> None:
    name, data = made(case)
    if name in ("jpeg", "png"):
        with pytest.raises(ValueError, match="no whole"):
            stripped(data[: len(data) * 2 // 3], name)


def test_an_auxiliary_picture_that_is_not_there_is_refused() -> None:
    avif = file(cutout(), "AVIF")
    at = avif.index(b"auxl") + 4
    (urn,) = (urn for urn, _ in auxiliary_items(avif))
    assert urn.endswith(b"auxiliary:alpha")
    with pytest.raises(UnknownAvif):
        auxiliary_items(avif[:at] + b"\0\x63" + avif[at + 2 :])


def test_what_fuzzing_found_is_refused() -> None:
    """An AVIF whose properties belong to nothing, and a WebP without a width."""
    with pytest.raises(UnknownAvif):
        stripped(file(cutout(), "AVIF").replace(b"ipma", b"ipmb"), "avif")
    webp = file(photo(), "WEBP", quality=50)
    at = webp.index(b"VP8 ") + 8 + 6
    with pytest.raises(ValueError, match="no WebP"):
        embedded(webp[:at] + bytes(4) + webp[at + 4 :], "webp", SOME)
