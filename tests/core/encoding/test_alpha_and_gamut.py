"""Transparent files as several decoders show them, and files in Display P3."""

import io
import struct

import numpy as np
import pytest
import pyvips
from PIL import Image

from lean_parcel.core.arrays import U8
from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    EncoderSettings,
    JpegSettings,
    PngSettings,
    WebpSettings,
)
from lean_parcel.core.framing.frame import frame_photo
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.likeness.reference import Reference
from lean_parcel.core.metadata.avif_parts import main_properties
from lean_parcel.core.metadata.embed import stripped
from lean_parcel.core.original.photo import open_pixels
from lean_parcel.core.original.source import Limits
from lean_parcel.core.picture.gamut import colour_in, profile_of
from lean_parcel.core.picture.pixels import over_background, with_hidden_filled
from lean_parcel.core.picture.serialisation import decode, lossless_png
from tests.builders import cutout, photo

PAGE = "#2e7d32"  # (46, 125, 50)


def faded(width_px: int = 96, height_px: int = 64) -> U8:
    """A photo that fades out from left to right."""
    alpha = np.tile(np.linspace(255, 0, width_px).astype(np.uint8), (height_px, 1))
    return np.dstack([photo(width_px, height_px), alpha])


@pytest.mark.parametrize("chroma", ["4:2:0", "4:4:4"])
@pytest.mark.parametrize("pixels", [cutout(), faded()], ids=["cutout", "faded"])
def test_a_transparent_avif_is_the_same_in_every_decoder(chroma: str, pixels: U8) -> None:
    data = encode(pixels, AvifSettings(quality=80, chroma=chroma))  # type: ignore[arg-type]
    assert b"prem" not in data
    by_libavif = decode(data).astype(int)
    by_libheif = np.asarray(pyvips.Image.new_from_buffer(data, "").numpy()).astype(int)
    np.testing.assert_array_equal(by_libheif[..., 3], by_libavif[..., 3])
    # chroma is enlarged in two ways
    assert np.abs(by_libheif - by_libavif).mean() < (1 if chroma == "4:4:4" else 4)
    is_shown = pixels[..., 3] > 60
    assert np.abs(by_libheif[is_shown] - pixels[is_shown]).mean() < 6
    assert stripped(data, "avif") == data


def test_a_transparent_avif_shifts_no_colour() -> None:
    pixels = faded(256, 192)
    for chroma in ("4:2:0", "4:4:4"):
        data = encode(pixels, AvifSettings(quality=90, chroma=chroma))  # type: ignore[arg-type]
        off = (decode(data)[..., :3].astype(float) - pixels[..., :3]) * (pixels[..., 3:] / 255)
        assert np.abs(off.mean((0, 1))).max() < 0.3


def test_a_grey_transparent_avif_has_no_chroma() -> None:
    pixels = faded()
    pixels[..., :3] = pixels[..., :1]
    data = encode(pixels, AvifSettings(quality=80, chroma="4:2:0"))
    (configuration,) = main_properties(data)[b"av1C"]
    assert configuration[2] & 0x10  # monochrome
    back = decode(data)
    assert (back[..., 0] == back[..., 1]).all()
    assert np.abs(back[..., 3].astype(int) - pixels[..., 3]).mean() < 3


@pytest.mark.parametrize("pixels", [cutout(), faded()], ids=["cutout", "faded"])
def test_what_hardly_shows_is_filled_and_what_is_seen_stays(pixels: U8) -> None:
    rough = pixels.copy()
    rough[..., :3][pixels[..., 3] == 0] = np.random.default_rng(1).integers(0, 256, 3)
    filled = with_hidden_filled(rough)
    np.testing.assert_array_equal(filled[..., 3], pixels[..., 3])
    for backdrop in ("#000000", "#ffffff", PAGE):
        before, after = (over_background(each, backdrop).astype(int) for each in (rough, filled))
        assert np.abs(before - after).max() <= 1
    np.testing.assert_array_equal(filled[pixels[..., 3] == 255], pixels[pixels[..., 3] == 255])
    settings = AvifSettings(quality=60, chroma="4:4:4")
    assert len(encode(rough, settings)) < 1.02 * len(encode(pixels, settings))


def test_a_picture_that_shows_nothing_is_encoded_too() -> None:
    pixels = np.zeros((9, 7, 4), np.uint8)
    data = encode(pixels, AvifSettings(quality=60, chroma="4:4:4"))
    assert decode(data)[..., 3].max() <= 1


def shown(data: bytes) -> np.ndarray:
    """A file's colours converted to sRGB."""
    return open_pixels(data, "a", Limits()).astype(int)


@pytest.mark.parametrize("settings", [JpegSettings(quality=95, chroma="4:4:4", background=PAGE)])
def test_the_colour_of_the_page_behind_a_p3_cutout_is_that_of_the_page(
    settings: EncoderSettings,
) -> None:
    pixels = np.zeros((32, 32, 4), np.uint8)
    data = encode(pixels, settings, "display-p3")
    assert np.abs(shown(data) - (46, 125, 50)).max() <= 2
    assert Reference(pixels, "display-p3").likeness(decode(data), PAGE) > 90


def test_a_framing_filled_with_the_page_in_p3_has_its_colour() -> None:
    png = lossless_png(np.zeros((32, 32, 4), np.uint8))
    framing = Framing(gamut="display-p3", background=PAGE, fills_background=True)
    framed = frame_photo(png, "a.png", framing, Place(size="32"), Limits())
    np.testing.assert_array_equal(framed.pixels[0, 0], colour_in(PAGE, "display-p3"))
    in_p3 = lossless_png(framed.pixels, profile_of("display-p3"))
    assert np.abs(shown(in_p3) - (46, 125, 50)).max() <= 1


def test_a_colour_of_the_page_is_itself_in_srgb_and_known_in_p3() -> None:
    assert colour_in(PAGE, "srgb").tolist() == [46, 125, 50]
    assert colour_in("#ff0000", "display-p3").tolist() == [234, 51, 35]  # CSS Color 4
    assert colour_in("#808080", "display-p3").tolist() == [128, 128, 128]


def test_a_p3_avif_says_so_by_numbers_which_take_fewer_bytes_than_a_profile() -> None:
    settings = AvifSettings(quality=60, chroma="4:4:4")
    data, plain = encode(photo(), settings, "display-p3"), encode(photo(), settings)
    assert len(data) == len(plain)
    out = io.BytesIO()
    Image.fromarray(photo()).save(out, "AVIF", icc_profile=profile_of("display-p3"))
    out_plain = io.BytesIO()
    Image.fromarray(photo()).save(out_plain, "AVIF")
    assert len(out.getvalue()) - len(out_plain.getvalue()) > 400
    (colours,) = main_properties(data)[b"colr"]
    assert colours[:4] == b"nclx"
    assert struct.unpack_from(">HH", colours, 4) == (12, 13)
    in_png = shown(lossless_png(decode(data), profile_of("display-p3")))
    assert np.abs(shown(data) - in_png).mean() < 1


@pytest.mark.parametrize("settings", [WebpSettings(quality=80), PngSettings(colours=None)])
def test_other_formats_say_p3_by_a_profile(settings: EncoderSettings) -> None:
    data = encode(photo(), settings, "display-p3")
    with Image.open(io.BytesIO(data)) as image:
        assert image.info["icc_profile"] == profile_of("display-p3")
