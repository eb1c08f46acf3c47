"""Metadata that files carry, read back by another library (exiv2)."""

import pyexiv2
import pytest
from PIL import Image

from lean_parcel import demo
from lean_parcel.core.encoding.encoders import encode, segment_costs
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    JpegSettings,
    PngSettings,
    Settings,
    WebpSettings,
)
from lean_parcel.core.metadata.embed import embedded
from lean_parcel.core.metadata.policy import MAX_SEGMENT_BYTES, POLICY_NAMES, segments_for
from lean_parcel.core.metadata.reading import find_credit, parsed_exif, read_metadata
from lean_parcel.core.metadata.values import Credit, SourceMetadata
from lean_parcel.core.metadata.xmp import Xmp
from lean_parcel.core.original.photo import identify
from lean_parcel.core.picture.serialisation import decode
from tests.builders import file, photo
from tests.files import full_jpeg, read_back

CREDIT = Credit(
    author="Ada Wren & Söhne",
    credit="Quillfen Pottery",
    rights="© Ada <Wren>",
    licence="https://library.example/licence",
)
SETTINGS: list[Settings] = [
    JpegSettings(quality=70, chroma="4:2:0"),
    WebpSettings(quality=70),
    WebpSettings(quality=75, lossless=True),
    AvifSettings(quality=60, chroma="4:4:4"),
    PngSettings(colours=64),
    PngSettings(colours=None),
]


def encoded(settings: Settings, policy: str, credit: Credit = CREDIT) -> bytes:
    data = full_jpeg()
    carried = read_metadata(data, "jpeg")
    segments = segments_for(policy, carried, credit)  # type: ignore[arg-type]
    return embedded(encode(photo(), settings), settings.format, segments)


@pytest.mark.parametrize("settings", SETTINGS)
def test_nothing_is_nothing(settings: Settings) -> None:
    assert encoded(settings, "nothing") == encode(photo(), settings)
    assert read_back(encoded(settings, "nothing")) == {}


@pytest.mark.parametrize("settings", SETTINGS)
def test_credit_only_names_who_is_to_be_named_and_nobody_else(settings: Settings) -> None:
    found = read_back(encoded(settings, "credit"))
    assert found["Exif.Image.Artist"] == "Ada Wren & Söhne"
    assert found["Exif.Image.Copyright"] == "© Ada <Wren>"
    assert found["Xmp.dc.creator"] == ["Ada Wren & Söhne"]
    assert found["Xmp.photoshop.Credit"] == "Quillfen Pottery"
    assert found["Xmp.xmpRights.WebStatement"] == "https://library.example/licence"
    assert found["Xmp.dc.rights"] == {'lang="x-default"': "© Ada <Wren>"}
    assert len(found) == 6


@pytest.mark.parametrize("settings", SETTINGS)
def test_all_but_position_leaves_no_trace_of_where(settings: Settings) -> None:
    found = read_back(encoded(settings, "no-position"))
    assert found["Exif.Image.Make"] == "Wrenlo"
    assert found["Exif.Photo.FNumber"] == "14/5"
    assert found["Xmp.dc.title"] == {'lang="x-default"': "Bowls"}
    assert found["Xmp.photoshop.Credit"] == "Fen Press"  # what the file says goes first
    where = ("GPS", "City", "MakerNote", "Orientation", "PixelXDimension", "Thumbnail")
    assert [key for key in found if any(sign in key for sign in where)] == []


@pytest.mark.parametrize("settings", SETTINGS)
def test_everything_keeps_the_position_but_not_what_is_true_of_the_original_only(
    settings: Settings,
) -> None:
    found = read_back(encoded(settings, "everything"))
    assert found["Exif.GPSInfo.GPSLatitude"] == "47/1 30/1 0/1"
    assert found["Xmp.photoshop.City"] == "Fenmouth"
    assert "Exif.Photo.MakerNote" in found
    stale = ("Orientation", "PixelXDimension")
    assert [key for key in found if any(sign in key for sign in stale)] == []


@pytest.mark.parametrize("settings", SETTINGS)
def test_costs_are_what_a_real_file_gains(settings: Settings) -> None:
    carried = read_metadata(full_jpeg(), "jpeg")
    for policy in POLICY_NAMES:
        blocks = segments_for(policy, carried, CREDIT)
        bare = encode(photo(), settings)
        gained = len(embedded(bare, settings.format, blocks)) - len(bare)
        if settings.format != "webp":  # whose extended container replaces a plain one
            assert gained == segment_costs(blocks)[settings.format]
        assert abs(gained - segment_costs(blocks)[settings.format]) <= 2


def test_credit_is_found_wherever_it_stands() -> None:
    with pyexiv2.ImageData(file(photo(), "JPEG")) as image:
        image.modify_iptc({"Iptc.Application2.Byline": "Iva"})
        iptc_only = bytes(image.get_bytes())
    exif = Image.Exif()
    exif[315], exif[33432] = "Exo", "© Exo".encode()
    xmp = Xmp()
    xmp.set("dc:creator", "Xav")
    assert find_credit(read_metadata(iptc_only, "jpeg")).author == "Iva"
    in_webp = file(photo(), "WEBP", exif=exif.tobytes())
    assert find_credit(read_metadata(in_webp, "webp")).line == "Exo"
    in_png = file(photo(), "PNG", exif=exif, pnginfo=None)
    assert find_credit(read_metadata(in_png, "png")).rights == "© Exo"
    both = file(photo(), "AVIF", exif=exif.tobytes(), xmp=xmp.packet())
    assert find_credit(read_metadata(both, "avif")).author == "Xav"
    heic = file(photo(), "HEIF", exif=exif.tobytes())
    assert find_credit(read_metadata(heic, "heic")).author == "Exo"
    in_tiff = file(photo(), "TIFF", tiffinfo={315: "Tia"})
    assert find_credit(read_metadata(in_tiff, "tiff")).author == "Tia"
    assert find_credit(SourceMetadata()).line == ""


def test_a_demo_photo_of_a_phone_loses_its_position_and_keeps_its_camera() -> None:
    data = demo.original("shelves-phone.jpg")
    carried = read_metadata(data, identify(data, "shelves-phone.jpg"))
    kept = segments_for("no-position", carried, find_credit(carried))
    everything = segments_for("everything", carried, find_credit(carried))
    assert parsed_exif(everything.exif).tags.get_ifd(0x8825)
    assert not parsed_exif(kept.exif).tags.get_ifd(0x8825)
    assert parsed_exif(kept.exif).tags[271] == "Wrenlo"


@pytest.mark.parametrize(
    "carried",
    [
        SourceMetadata(exif=b"MM\0*\0\0\0\x08\xff\xff"),
        SourceMetadata(exif=b"nonsense"),
        SourceMetadata(xmp=b"<x:xmpmeta"),
        SourceMetadata(xmp=b"<a>" * 5_000),
        SourceMetadata(xmp=b'<!DOCTYPE x [<!ENTITY e SYSTEM "file:///etc/passwd">]><x>&e;</x>'),
        SourceMetadata(icc=b"short", iptc=(("dc:creator", "A\ufffdB"),)),
    ],
)
def test_faulty_metadata_is_left_out_and_stops_nothing(carried: SourceMetadata) -> None:
    for policy in POLICY_NAMES:
        blocks = segments_for(policy, carried, CREDIT)
        assert b"passwd" not in blocks.xmp
        assert b"root:" not in blocks.xmp
        decode(embedded(encode(photo(), SETTINGS[0]), "jpeg", blocks))


def test_a_broken_file_carries_nothing() -> None:
    assert read_metadata(b"\xff\xd8\xff\xe1\0\x04ab", "jpeg") == SourceMetadata(is_whole=False)
    assert read_metadata(b"", "heic") == SourceMetadata(is_whole=False)


def test_blocks_that_no_jpeg_segment_holds_are_shortened() -> None:
    exif = Image.Exif()
    exif[271] = "Wrenlo"
    exif.get_ifd(0x8769)[0x927C] = b"m" * 70_000
    long_xmp = Xmp()
    long_xmp.set("dc:creator", "Ada")
    long_xmp.set("photoshop:Credit", "c" * 70_000)
    carried = SourceMetadata(exif=exif.tobytes().removeprefix(b"Exif\0\0"), xmp=long_xmp.packet())
    blocks = segments_for("everything", carried, Credit())
    assert parsed_exif(blocks.exif).tags[271] == "Wrenlo"
    assert len(blocks.exif) < 1_000
    assert len(blocks.xmp) < MAX_SEGMENT_BYTES


def test_xmp_without_properties_is_no_packet() -> None:
    xmp = Xmp()
    assert xmp.is_empty
    assert xmp.packet() == b""
    xmp.set("photoshop:City", "Fenmouth")
    assert xmp.get("photoshop:City") == "Fenmouth"
    assert xmp.remove("photoshop:*") > 0
    assert xmp.packet() == b""
