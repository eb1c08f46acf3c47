from functools import cache

import numpy as np
import pytest
from benchmarks.pictures import pictures

from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    EncoderSettings,
    JpegSettings,
    PngSettings,
    WebpSettings,
)
from lean_parcel.core.likeness.reference import Reference
from lean_parcel.core.picture.resample import reduce
from lean_parcel.core.picture.serialisation import decode, lossless_png
from lean_parcel.core.search.ladder import SearchInput
from lean_parcel.core.search.part import Part, has_part
from lean_parcel.core.search.sizing import first_input, measured_input
from tests.builders import photo, rung

SETTINGS: list[EncoderSettings] = [
    JpegSettings(quality=70, chroma="4:2:0", progressive=False),
    JpegSettings(quality=70, chroma="4:2:0", adaptive=True),
    WebpSettings(quality=70, effort=2),
    AvifSettings(quality=60, chroma="4:4:4", speed=8),
    PngSettings(colours=81),
    WebpSettings(quality=75, lossless=True, effort=2),
    PngSettings(colours=None),
]


@cache
def sized() -> tuple[Reference, SearchInput]:
    """A megapixel with grain everywhere, as photographs have."""
    grain = np.random.default_rng(5).normal(0, 5, (832, 1280, 1))
    pixels = np.asarray(np.clip(photo(1280, 832) + grain, 0, 255), np.uint8)
    reference = Reference(pixels)
    return reference, measured_input(reference, first_input(pixels, len(lossless_png(pixels))))


@pytest.mark.parametrize(
    ("settings", "index"), list(zip(SETTINGS, (0, 0, 1, 0, 1, 0, 0), strict=True))
)
def test_a_part_tells_about_what_the_whole_comes_to(settings: EncoderSettings, index: int) -> None:
    reference, search_input = sized()
    at = search_input.rungs[index]
    sent = reduce(reference.pixels, at.width_px, at.height_px)
    part = Part(reference)
    estimate = part.weigh(sent, settings, at)
    data = encode(sent, settings)
    assert estimate.size_bytes == pytest.approx(len(data), rel=0.12)
    assert estimate.likeness == pytest.approx(reference.likeness(decode(data)), abs=3)
    assert part.weigh(sent, settings, at) == estimate


def test_a_part_of_a_dense_picture_is_judged_as_the_whole_is() -> None:
    settings = JpegSettings(quality=40, chroma="4:2:0")
    sparse, search_input = sized()
    dense, at = Reference(sparse.pixels, density=2), search_input.rungs[0]
    estimate = Part(dense).weigh(dense.pixels, settings, at)
    candidate = decode(encode(dense.pixels, settings))
    assert estimate.likeness == pytest.approx(dense.likeness(candidate), abs=3)
    assert dense.likeness(candidate) > sparse.likeness(candidate) + 6


@pytest.mark.parametrize(
    "settings", [JpegSettings(quality=70, chroma="4:2:0"), WebpSettings(quality=70, effort=2)]
)
def test_a_part_of_a_very_tall_picture_tells_as_much(settings: EncoderSettings) -> None:
    chance = np.random.default_rng(11)
    pieces = list(pictures().values())
    chosen = [pieces[i][..., :3] for i in chance.integers(0, len(pieces), 16)]
    tall = np.ascontiguousarray(np.concatenate(chosen))
    reference = Reference(tall)
    (at,) = first_input(tall, len(lossless_png(tall))).rungs
    assert has_part(at)
    estimate = Part(reference).weigh(tall, settings, at)
    data = encode(tall, settings)
    assert estimate.size_bytes == pytest.approx(len(data), rel=0.2)
    assert estimate.likeness == pytest.approx(reference.likeness(decode(data)), abs=6)


@pytest.mark.parametrize(
    ("width_px", "height_px", "is_large"),
    [
        (1500, 1000, True),
        (2880, 1200, True),
        (1000, 1500, True),
        (100, 20_000, True),
        (1499, 1000, False),
        (20_000, 100, False),
        (6_000, 300, False),
    ],
)
def test_pictures_that_are_large_enough_have_a_part(
    width_px: int, height_px: int, is_large: bool
) -> None:
    assert has_part(rung(width_px, height_px)) == is_large
