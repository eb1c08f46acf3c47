import io

import numpy as np
import pytest
from coloraide import Color
from PIL import Image

from lean_parcel.core.arrays import U8
from lean_parcel.core.errors import (
    DamagedPhoto,
    EmptyPhoto,
    PhotoError,
    TooManyBytes,
    TooManyPixels,
    TruncatedPhoto,
    UnsupportedPhoto,
)
from lean_parcel.core.framing.frame import frame_photo
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.photo import open_pixels
from lean_parcel.core.original.source import Limits, Source
from lean_parcel.core.picture.gamut import profile_of
from tests.builders import cutout, file, patches, photo, srgb_profile

LIMITS = Limits()
WIDE = Place(size="4000")


def framed(data: bytes, name: str) -> tuple[Source, U8]:
    made = frame_photo(data, name, Framing(), WIDE, LIMITS)
    return made.source, made.pixels


@pytest.mark.parametrize(
    ("kind", "options", "tolerance"),
    [
        ("jpeg", {"quality": 98, "subsampling": 0}, 6),
        ("png", {}, 0),
        ("webp", {"lossless": True}, 0),
        ("avif", {"quality": 98, "subsampling": "4:4:4"}, 8),
        ("heif", {"quality": 98, "chroma": 444}, 8),
        ("tiff", {}, 0),
        ("gif", {}, 4),
    ],
)
def test_opens_each_format(kind: str, options: dict[str, object], tolerance: int) -> None:
    data = file(patches(), kind.upper(), **options)
    source, pixels = framed(data, "photo")
    assert source.format == ("heic" if kind == "heif" else kind)
    assert (source.width_px, source.height_px, source.size_bytes) == (48, 32, len(data))
    inner = np.abs(pixels.astype(int) - patches())[2:-2, 2:-2]
    assert np.median(inner) <= tolerance


@pytest.mark.parametrize(
    ("kind", "options"),
    [("PNG", {}), ("WEBP", {"lossless": True}), ("AVIF", {"quality": 95}), ("TIFF", {})],
)
def test_keeps_alpha(kind: str, options: dict[str, object]) -> None:
    source, pixels = framed(file(cutout(), kind, **options), "photo")
    assert source.has_alpha
    assert np.abs(pixels[..., 3].astype(int) - cutout()[..., 3]).max() <= 8


def test_grey_16_bit_and_palette_become_srgb() -> None:
    grey = (np.arange(64, dtype=np.uint16) * 1024).reshape(8, 8)
    deep = open_pixels(file(grey), "deep.png", LIMITS)
    assert deep.shape == (8, 8, 3)
    assert np.abs(deep[..., 0].astype(int) - (grey >> 8)).max() <= 1
    out = io.BytesIO()
    Image.fromarray(patches()).quantize(4).save(out, "PNG")
    assert np.abs(open_pixels(out.getvalue(), "p.png", LIMITS).astype(int) - patches()).max() <= 1


def test_cmyk_becomes_srgb() -> None:
    out = io.BytesIO()
    Image.fromarray(patches()).convert("CMYK").save(out, "JPEG", quality=95)
    pixels = open_pixels(out.getvalue(), "press.jpg", LIMITS)
    red, blue = pixels[8, 8].astype(int), pixels[24, 40].astype(int)
    assert pixels.shape[2] == 3
    assert red[0] > 120 > red[2]
    assert blue[2] > blue[0]


def test_a_profile_is_applied_and_an_srgb_one_changes_nothing() -> None:
    plain = file(patches(), icc_profile=srgb_profile())
    np.testing.assert_array_equal(open_pixels(plain, "s.png", LIMITS), patches())
    # A profile whose red and blue primaries changed places turns red into blue.
    swapped = bytearray(srgb_profile())
    red, blue = swapped.find(b"rXYZ"), swapped.find(b"bXYZ")
    swapped[red : red + 1], swapped[blue : blue + 1] = b"b", b"r"
    turned = open_pixels(file(patches(), icc_profile=bytes(swapped)), "t.png", LIMITS)
    assert turned[8, 8].argmax() == 2
    assert turned[24, 40].argmax() == 0


def test_only_the_first_frame_of_a_gif_is_used() -> None:
    out = io.BytesIO()
    first, second = Image.new("RGB", (20, 10), "red"), Image.new("RGB", (20, 10), "blue")
    first.save(out, "GIF", save_all=True, append_images=[second])
    pixels = open_pixels(out.getvalue(), "moving.gif", LIMITS)
    assert pixels.shape[:2] == (10, 20)
    assert pixels[5, 5, 0] > 200


def _noise_file(kind: str) -> bytes:
    return file(photo(200, 150), kind)


@pytest.mark.parametrize("kind", ["JPEG", "PNG", "WEBP", "AVIF", "HEIF", "TIFF", "GIF"])
@pytest.mark.parametrize("kept", [0.2, 0.6, 0.95])
def test_a_file_that_was_cut_off_is_refused(kind: str, kept: float) -> None:
    data = _noise_file(kind)
    with pytest.raises((TruncatedPhoto, DamagedPhoto)) as caught:
        frame_photo(data[: int(len(data) * kept)], "cut", Framing(), WIDE, LIMITS)
    assert "cut" in caught.value.message


@pytest.mark.parametrize(
    ("data", "name", "error"),
    [
        (b"", "nothing.jpg", EmptyPhoto),
        (b"\0" * 500, "zeros.jpg", UnsupportedPhoto),
        (b"<svg xmlns='http://www.w3.org/2000/svg'/>", "drawing.svg", UnsupportedPhoto),
        (b"%PDF-1.7 ...", "paper.pdf", UnsupportedPhoto),
        (b"\xff\xd8\xff" + b"\0" * 300, "start-only.jpg", PhotoError),
        (b"\x89PNG\r\n\x1a\n" + b"\xff" * 300, "start-only.png", PhotoError),
    ],
)
def test_bad_files_say_what_is_wrong(data: bytes, name: str, error: type[PhotoError]) -> None:
    with pytest.raises(error) as caught:
        frame_photo(data, name, Framing(), WIDE, LIMITS)
    assert name in caught.value.message


def test_limits_are_checked_before_anything_is_decoded() -> None:
    data = file(photo(100, 50))
    with pytest.raises(TooManyPixels):
        frame_photo(data, "large.png", Framing(), WIDE, Limits(max_pixels=4_999))
    frame_photo(data, "large.png", Framing(), WIDE, Limits(max_pixels=5_000))
    with pytest.raises(TooManyBytes):
        frame_photo(data, "heavy.png", Framing(), WIDE, Limits(max_size_bytes=len(data) - 1))


def test_inks_are_taken_as_a_press_takes_them() -> None:
    """Full cyan, magenta and yellow in print are duller than full green and blue, red and green."""
    inks = np.zeros((24, 24, 4), np.uint8)
    for column, ink in enumerate((0, 1, 2)):
        inks[:, column * 8 : column * 8 + 8, ink] = 255
    out = io.BytesIO()
    Image.fromarray(inks, "CMYK").save(out, "TIFF")
    shown = open_pixels(out.getvalue(), "press.tif", LIMITS).astype(int)
    cyan, magenta, yellow = (shown[12, at] for at in (4, 12, 20))
    assert np.abs(cyan - (0, 160, 225)).max() < 40
    assert np.abs(magenta - (220, 0, 125)).max() < 45
    assert np.abs(yellow - (255, 240, 0)).max() < 40


def test_a_jpeg_in_rgb_says_so_and_is_not_taken_for_luma_and_chroma() -> None:
    stored = file(patches(), "JPEG", quality=98, subsampling=0, keep_rgb=True)
    assert b"Adobe" in stored[:64]
    pixels = open_pixels(stored, "adobe.jpg", LIMITS)
    assert np.abs(pixels.astype(int) - patches()).max() <= 6


@pytest.mark.parametrize("profile", [None, "display-p3"])
def test_the_colours_of_a_phone_s_heic_are_those_of_its_profile(profile: str | None) -> None:
    image = Image.fromarray(np.full((64, 64, 3), (200, 80, 60), np.uint8))
    out = io.BytesIO()
    options = {"icc_profile": profile_of("display-p3")} if profile else {}
    image.save(out, "HEIF", quality=95, chroma=444, **options)
    shown = open_pixels(out.getvalue(), "phone.heic", LIMITS)[32, 32].astype(int)
    wanted = Color("display-p3" if profile else "srgb", [200 / 255, 80 / 255, 60 / 255])
    expected = [round(255 * value) for value in wanted.convert("srgb").coords()]
    assert np.abs(shown - expected).max() <= 3


def test_a_deep_original_is_dithered_to_codes_and_not_cut() -> None:
    """A slope of three codes over 240 columns: in steps it would have 80 equal columns in a row."""
    slope = np.linspace(100 * 257, 103 * 257, 240).astype(np.uint16)
    deep = np.repeat(slope[None], 16, axis=0)
    pixels = open_pixels(file(deep), "deep.png", LIMITS)[..., 0].astype(float)
    assert len(np.unique(pixels[:, 40])) == 2
    by_eight = [each.reshape(30, 8).mean(1) for each in (pixels.mean(0) * 257, slope)]
    assert np.abs(by_eight[0] - by_eight[1]).max() < 257 / 8
