import io
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from lean_parcel import demo
from lean_parcel.core.arrays import U8
from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.settings import JpegSettings
from lean_parcel.core.metadata.values import Credit
from lean_parcel.core.original.findings import Finding, find_pixel_surplus
from lean_parcel.core.original.jpeg_quality import estimate_quality
from lean_parcel.core.original.picture_kind import KindName, advise_format, classify
from lean_parcel.core.original.source import Limits
from lean_parcel.core.picture.resample import reduce
from lean_parcel.work.tasks.inspection import inspect_task
from tests.builders import cutout, demo_pixels, file, patches, photo, source, srgb_profile
from tests.files import full_jpeg


def topics(data: bytes, name: str = "photo", credit: Credit | None = None) -> dict[str, Finding]:
    found = inspect_task(data, name, credit or Credit(), Limits()).findings
    return {finding.topic: finding for finding in found}


@pytest.mark.parametrize(
    ("file_name", "expected"),
    [
        ("shelves-phone.jpg", {"orientation", "position", "thumbnail", "exif", "credit"}),
        ("glaze-samples-p3.jpg", {"profile", "xmp", "credit"}),
        ("bowl-sketch-scan.jpg", {"dpi"}),
        ("old-shopfront.jpg", {"hard_compression"}),
        ("bottle-cutout.png", {"transparency"}),
    ],
)
def test_each_demo_photo_tells_its_difficulty(file_name: str, expected: set[str]) -> None:
    found = topics(demo.original(file_name), file_name)
    assert expected <= set(found)
    assert ("hard_compression" in found) == (file_name == "old-shopfront.jpg")
    assert ("position" in found) == (file_name == "shelves-phone.jpg")


def test_every_part_says_what_it_weighs() -> None:
    data = full_jpeg()
    found = topics(data)
    parts = {topic: finding.size_bytes for topic, finding in found.items() if finding.size_bytes}
    assert parts["format"] == len(data)
    assert {"exif", "position", "xmp", "iptc"} <= set(parts)
    assert found["position"].is_warning
    assert sum(parts.values()) - parts["format"] < len(data)
    assert found["orientation"].title == "Stored on its left side"


def test_a_name_that_promises_another_format_is_said() -> None:
    data = file(photo(40, 30), "WEBP")
    assert "name" not in topics(data, "shown.webp")
    assert "name" not in topics(data, "shown")
    found = topics(data, "shown.jpg")["name"]
    assert (found.title, "is a WebP" in found.note) == ("Named like a JPEG", True)


def test_a_profile_says_what_becomes_of_it() -> None:
    found = topics(demo.original("glaze-samples-p3.jpg"))["profile"]
    assert "P3" in found.title
    assert "Converted to sRGB" in found.note
    assert found.size_bytes == 2512
    plain = topics(file(photo(), "JPEG", icc_profile=srgb_profile()))["profile"]
    assert "same colours as plain sRGB" in plain.note
    assert topics(file(photo()))["profile"].title == "No colour profile"


def test_transparency_is_told_by_whether_it_is_used() -> None:
    opaque = np.dstack([photo(), np.full((64, 96), 255, np.uint8)])
    assert topics(file(cutout()))["transparency"].title == "Transparent in parts"
    assert topics(file(opaque))["transparency"].title == "Transparency that nothing uses"
    assert "transparency" not in topics(file(photo()))


def test_only_the_first_frame_of_what_moves_is_used() -> None:
    frames = [Image.fromarray(patches()), Image.fromarray(photo(48, 32))]
    out = io.BytesIO()
    frames[0].save(out, "GIF", save_all=True, append_images=frames[1:])
    found = topics(out.getvalue())["animation"]
    assert found.title == "Animated, 2 frames"
    assert found.note == "Only the first frame is used."


def test_editing_history_is_weighed_apart() -> None:
    history = (
        b'<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF '
        b'xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description '
        b'xmlns:xmpMM="http://ns.adobe.com/xap/1.0/mm/"><xmpMM:History><rdf:Seq>'
        + b"<rdf:li>saved</rdf:li>" * 40
        + b"</rdf:Seq></xmpMM:History></rdf:Description></rdf:RDF></x:xmpmeta>"
    )
    found = topics(file(photo(), "WEBP", xmp=history))
    assert found["history"].size_bytes
    assert 880 < found["history"].size_bytes < len(history)


def test_a_credit_that_came_along_is_used_where_the_file_has_none() -> None:
    credit = Credit(author="Ada Wren", credit="Shingle Bank")
    assert topics(file(photo()), credit=credit)["credit"].title == "Credit: Ada Wren / Shingle Bank"
    assert topics(full_jpeg(), credit=credit)["credit"].title == "Credit: A. Wren / Fen Press"


@pytest.mark.parametrize("quality", [20, 30, 48, 60, 67, 75, 92, 98])
@pytest.mark.parametrize("way", ["libjpeg", "mozjpeg", "mozjpeg-0", "mozjpeg-2", "jpegli"])
def test_the_quality_of_a_jpeg_is_read_as_its_encoder_counts(quality: int, way: str) -> None:
    settings = {
        "mozjpeg": JpegSettings(quality=quality, chroma="4:2:0"),
        "mozjpeg-0": JpegSettings(quality=quality, chroma="4:2:0", table=0),
        "mozjpeg-2": JpegSettings(quality=quality, chroma="4:4:4", table=2),
        "jpegli": JpegSettings(quality=quality, chroma="4:2:0", adaptive=True),
    }
    if way == "libjpeg":
        data = file(photo(), "JPEG", quality=quality)
    else:
        data = encode(photo(), settings[way])
    assert estimate_quality(data) == quality
    assert estimate_quality(file(photo())) is None


def test_a_picture_that_only_one_decoder_gives_up_is_inspected() -> None:
    out = io.BytesIO()
    Image.fromarray(photo(40, 30)).convert("CMYK").save(out, "JPEG")
    damaged = bytearray(out.getvalue())
    damaged[457] = 2  # a code that libjpeg cannot go on with as CMYK, and vips can
    with (
        pytest.raises(OSError, match="broken data stream"),
        Image.open(io.BytesIO(damaged)) as image,
    ):
        image.load()
    assert not is_hard(bytes(damaged))


def is_hard(data: bytes) -> bool:
    return "hard_compression" in topics(data)


def saved(pixels: U8, quality: int) -> bytes:
    return file(pixels, "JPEG", quality=quality)


@pytest.mark.parametrize("name", ["kiln-night.jpg", "red-cup-blue-door.jpg", "speckled-glaze.jpg"])
def test_blocks_that_are_there_are_found_whatever_the_tables_say(name: str) -> None:
    pixels = demo_pixels(name, 1000)
    assert not is_hard(saved(pixels, 90))
    assert is_hard(saved(pixels, 40))
    ruined = np.asarray(Image.open(io.BytesIO(saved(pixels, 25))))
    assert is_hard(saved(ruined, 95))
    assert not is_hard(saved(reduce(ruined, 400, 300), 95))  # the grid is gone with its damage


def test_a_clean_product_on_white_was_not_compressed_hard() -> None:
    y, x = np.mgrid[:800, :800]
    shade = np.exp(-((y - 400) ** 2 + (x - 400) ** 2) / 2e4)[..., None]
    product = (255 - shade * np.array([60, 120, 150])).astype(np.uint8)
    data = saved(product, 95)
    assert len(data) / 800**2 < 0.06
    assert not is_hard(data)


def test_a_picture_of_few_pixels_is_judged_by_its_tables_alone() -> None:
    assert is_hard(saved(photo(20, 20), 10))
    assert not is_hard(saved(photo(20, 20), 70))


def test_more_pixels_than_the_place_needs_are_counted() -> None:
    found = find_pixel_surplus(source(4000, 2000), 4000 * 2000, 1000 * 500)
    assert found.title == "4000 × 2000 pixels"
    assert found.note == "16.0 times more pixels than its place needs."
    assert "framing saves none" in find_pixel_surplus(source(400, 200), 80_000, 80_000).note


def poster() -> U8:
    pixels = np.full((200, 300, 3), (20, 60, 140), np.uint8)
    pixels[40:160, 60:240] = (240, 220, 60)
    pixels[90:110, 80:220] = 255
    return pixels


@pytest.mark.parametrize("shape", [(1, 1, 3), (9, 1, 3), (9, 1, 4), (1, 9, 3)])
def test_a_single_row_or_column_has_a_kind(shape: tuple[int, int, int]) -> None:
    found = classify(np.full(shape, 200, np.uint8))
    assert (found.flat_share, found.edge_share, found.colours) == (1, 0, 1)


@pytest.mark.parametrize(
    ("pixels", "kind", "suggested"),
    [
        (photo(300, 200), "photo", "avif"),
        (poster(), "graphic", "png"),
        (np.vstack([poster(), photo(300, 200)]), "mixed", "avif"),
        (cutout(300, 200), "photo", "avif"),
    ],
)
def test_photos_are_told_from_graphics(pixels: U8, kind: str, suggested: str) -> None:
    found = classify(pixels)
    assert found.name == kind
    assert advise_format(found).format == suggested
    shares = found.flat_share + found.gradient_share + found.edge_share
    assert shares == pytest.approx(1)


@pytest.mark.parametrize(
    ("name", "colours", "row"),
    [
        ("graphic", 100, "graphic of at most 100 colours, seen coarsely"),
        ("graphic", 101, "other graphic"),
        ("mixed", 5_000, "between photo and graphic"),
        ("photo", 5_000, "photo, transparent or not"),
    ],
)
def test_the_shares_that_are_told_are_those_that_were_counted(
    name: KindName, colours: int, row: str
) -> None:
    """As docs/metrics.md lists them."""
    kind = replace(classify(photo()), name=name, colours=colours)
    advice = advise_format(kind)
    counted = (Path(__file__).parents[3] / "docs/metrics.md").read_text()
    assert f"| {row} | {advice.format.upper()} | {advice.right} of {advice.tried} |" in counted
