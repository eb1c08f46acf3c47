import io

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.glimpse import glimpse
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    EncoderSettings,
    JpegSettings,
    PngSettings,
    WebpSettings,
)
from lean_parcel.core.original.signalled import signalled
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.gamut import profile_of
from lean_parcel.core.picture.serialisation import decode
from tests.builders import cutout, photo

SENT = photo(256, 200)
BOX = Box(left_px=70, top_px=30, width_px=100, height_px=90)
SETTINGS: list[EncoderSettings] = [
    JpegSettings(quality=60, chroma="4:2:0"),
    JpegSettings(quality=60, chroma="4:2:0", adaptive=True),
    WebpSettings(quality=60),
    WebpSettings(quality=60, sharp_chroma=True),
    AvifSettings(quality=60, chroma="4:4:4"),
    AvifSettings(quality=60, chroma="4:2:0", depth=10),
    PngSettings(colours=32),
]
LOSSLESS: list[EncoderSettings] = [
    WebpSettings(quality=75, lossless=True),
    PngSettings(colours=None),
]


def off(one: np.ndarray, other: np.ndarray) -> float:
    return float(np.abs(one.astype(int) - other).mean())


def slices(box: Box) -> tuple[slice, slice]:
    return (
        slice(box.top_px, box.top_px + box.height_px),
        slice(box.left_px, box.left_px + box.width_px),
    )


@pytest.mark.parametrize("settings", SETTINGS)
def test_a_part_looks_as_it_does_in_the_whole(settings: EncoderSettings) -> None:
    seen = glimpse(SENT, settings, BOX)
    where = slices(seen.box)
    part, original = decode(seen.data)[..., :3], SENT[where]
    whole = decode(encode(SENT, settings))[where][..., :3]
    assert off(part, original) == pytest.approx(off(whole, original), rel=0.2)


@pytest.mark.parametrize("settings", LOSSLESS)
def test_a_part_of_a_lossless_file_is_the_pixels(settings: EncoderSettings) -> None:
    for sent in (SENT, cutout()):
        seen = glimpse(sent, settings, BOX)
        part = sent[slices(seen.box)]
        shown = part[..., -1] > 0 if part.shape[2] == 4 else np.full(part.shape[:2], True)
        assert np.array_equal(decode(seen.data)[shown], part[shown])


def test_a_part_is_in_the_gamut_of_the_whole() -> None:
    for settings in SETTINGS:
        data = glimpse(SENT, settings, BOX, "display-p3").data
        if settings.format == "avif" and settings.depth == 8:
            assert signalled(data, "avif") == signalled(
                encode(SENT, settings, "display-p3"), "avif"
            )
            continue
        with Image.open(io.BytesIO(data)) as image:
            assert image.info["icc_profile"] == profile_of("display-p3")


@given(st.tuples(*[st.integers(-(10**30), 10**30)] * 4))
def test_any_box_is_of_whole_blocks_within_the_picture(numbers: tuple[int, ...]) -> None:
    names = ("left_px", "top_px", "width_px", "height_px")
    wanted = Box(**dict(zip(names, numbers, strict=True)))
    box = glimpse(SENT, AvifSettings(quality=9, chroma="4:2:0", speed=9), wanted).box
    assert box.left_px % 64 == box.top_px % 64 == 0
    assert box.width_px > 0
    assert box.height_px > 0
    assert box.left_px + box.width_px in (*range(64, 256, 64), 256)
    assert box.top_px + box.height_px in (*range(64, 200, 64), 200)


def test_of_a_large_box_the_middle_is_taken() -> None:
    sent = np.zeros((1_200, 1_600, 3), np.uint8)
    everything = Box(left_px=0, top_px=0, width_px=1_600, height_px=1_200)
    box = glimpse(sent, JpegSettings(quality=9, chroma="4:2:0"), everything).box
    assert 400_000 <= box.width_px * box.height_px < 430_000
    assert abs(box.left_px + box.width_px / 2 - 800) <= 16
    assert abs(box.top_px + box.height_px / 2 - 600) <= 16
