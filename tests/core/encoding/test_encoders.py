import io
from dataclasses import replace

import numpy as np
import pytest
from PIL import Image

from lean_parcel.core.arrays import U8
from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    EncoderSettings,
    JpegSettings,
    PngSettings,
    Settings,
    WebpSettings,
    draft_settings,
    settings_from,
    settings_values,
)
from lean_parcel.core.errors import UsageError
from lean_parcel.core.picture.serialisation import decode
from tests.builders import cutout, photo
from tests.files import jpeg_segments

EVERY: list[Settings] = [
    JpegSettings(quality=80, chroma="4:2:0"),
    JpegSettings(quality=80, chroma="4:4:4"),
    WebpSettings(quality=80),
    WebpSettings(quality=75, lossless=True),
    AvifSettings(quality=70, chroma="4:2:0"),
    AvifSettings(quality=100, chroma="4:4:4"),
    PngSettings(colours=16),
    PngSettings(colours=None),
]


@pytest.mark.parametrize("settings", EVERY, ids=str)
@pytest.mark.parametrize("pixels", [photo(), cutout()], ids=["opaque", "cutout"])
def test_the_same_input_gives_the_same_bytes_of_the_right_format(
    settings: Settings, pixels: U8
) -> None:
    data = encode(pixels, settings)
    assert encode(pixels.copy(), settings) == data
    with Image.open(io.BytesIO(data)) as image:
        assert image.format == settings.format.upper()
        assert image.size == (96, 64)
        assert not {"exif", "icc_profile", "xmp", "comment"} & set(image.info)


@pytest.mark.parametrize("settings", EVERY, ids=str)
def test_settings_survive_storage(settings: Settings) -> None:
    assert settings_from(settings_values(settings)) == settings


@pytest.mark.parametrize("pixels", [photo(), cutout()], ids=["opaque", "cutout"])
@pytest.mark.parametrize(
    "settings", [WebpSettings(quality=75, lossless=True), PngSettings(colours=None)], ids=str
)
def test_lossless_files_hold_the_very_pixels(settings: Settings, pixels: U8) -> None:
    decoded = decode(encode(pixels, settings))
    visible = pixels[..., 3] > 0 if pixels.shape[2] == 4 else np.ones(pixels.shape[:2], bool)
    np.testing.assert_array_equal(decoded[visible], pixels[visible])


@pytest.mark.parametrize(("chroma", "sampling"), [("4:2:0", 0x22), ("4:4:4", 0x11)])
@pytest.mark.parametrize("quality", [40, 89, 90, 100])
def test_jpeg_is_progressive_with_the_chroma_that_was_asked_for(
    chroma: str, sampling: int, quality: int
) -> None:
    data = encode(photo(), replace(EVERY[0], chroma=chroma, quality=quality))
    frames = [payload for marker, payload in jpeg_segments(data) if marker in (0xC0, 0xC2)]
    markers = [marker for marker, _ in jpeg_segments(data)]
    assert 0xC2 in markers
    assert frames[0][7] == sampling


@pytest.mark.parametrize(("chroma", "flags"), [("4:2:0", 0b1100), ("4:4:4", 0b0000)])
def test_avif_has_the_chroma_that_was_asked_for(chroma: str, flags: int) -> None:
    data = encode(photo(), AvifSettings(quality=60, chroma=chroma))  # type: ignore[arg-type]
    configuration = data.index(b"av1C") + 4
    assert data[configuration + 2] & 0b1100 == flags


@pytest.mark.parametrize("colours", [2, 9, 256])
def test_png_palettes_have_at_most_the_colours_asked_for(colours: int) -> None:
    data = encode(photo(), PngSettings(colours=colours))
    with Image.open(io.BytesIO(data)) as image:
        assert image.mode in ("P", "1", "L")
        assert len(np.unique(np.asarray(image.convert("RGB")).reshape(-1, 3), axis=0)) <= colours


@pytest.mark.parametrize(
    ("settings", "has_draft"),
    [
        (WebpSettings(quality=99), True),
        (WebpSettings(quality=100), False),
        (WebpSettings(quality=100, lossless=True), True),
        (PngSettings(colours=64), False),
    ],
    ids=str,
)
def test_less_effort_is_for_what_stays_about_the_same(
    settings: EncoderSettings, has_draft: bool
) -> None:
    assert (draft_settings(settings) != settings) == has_draft


def test_webp_chunks_tell_lossy_from_lossless() -> None:
    assert encode(photo(), WebpSettings(quality=50))[12:16] == b"VP8 "
    assert encode(photo(), WebpSettings(quality=75, lossless=True))[12:16] == b"VP8L"


def test_jpeg_shows_its_background_where_the_picture_is_transparent() -> None:
    settings = JpegSettings(quality=95, chroma="4:4:4", background="#2060c0")
    corner = decode(encode(cutout(), settings))[2, 2].astype(int)
    assert np.abs(corner - (0x20, 0x60, 0xC0)).max() <= 4


@pytest.mark.parametrize(
    "settings", [WebpSettings(quality=90), AvifSettings(quality=90, chroma="4:4:4")], ids=str
)
def test_lossy_alpha_is_kept(settings: Settings) -> None:
    decoded = decode(encode(cutout(), settings))
    assert np.abs(decoded[..., 3].astype(int) - cutout()[..., 3]).mean() < 3


@pytest.mark.parametrize("settings", EVERY, ids=str)
def test_the_smallest_picture_can_be_encoded(settings: Settings) -> None:
    assert decode(encode(photo(1, 1), settings)).shape[:2] == (1, 1)


def test_a_side_that_a_webp_cannot_have_is_told() -> None:
    with pytest.raises(UsageError, match="16,383") as refused:
        encode(np.zeros((16_384, 1, 3), np.uint8), WebpSettings(quality=50))
    assert refused.value.code == "too_large_for_format"
