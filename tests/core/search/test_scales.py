from itertools import groupby, pairwise

import pytest

from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.qualities import QUALITIES
from lean_parcel.core.encoding.settings import AvifSettings
from lean_parcel.core.search.curves import CURVE_KNOTS, MIN_QUALITY
from lean_parcel.core.search.scales import (
    Scale,
    adaptive_scale,
    avif_scale,
    jpeg_scale,
    palette_scale,
    webp_scale,
)
from tests.builders import photo, rung

SCALES = [
    jpeg_scale("4:2:0", "#ffffff"),
    jpeg_scale("4:4:4", "#ffffff"),
    adaptive_scale("#ffffff"),
    avif_scale("4:2:0"),
    avif_scale("4:4:4"),
    webp_scale(),
    palette_scale(),
]


@pytest.mark.parametrize("scale", SCALES, ids=lambda scale: scale.name)
@pytest.mark.parametrize("grain", [1.0, 4.0])
def test_curves_rise_with_little_grain_and_with_much(scale: Scale, grain: float) -> None:
    log_sizes = scale.log_sizes(rung(9, 9, 10_000, grain=grain))
    assert log_sizes == sorted(log_sizes)


@pytest.mark.parametrize("scale", SCALES, ids=lambda scale: scale.name)
def test_curves_rise_over_the_whole_scale_and_move_with_the_probe(scale: Scale) -> None:
    small, large = scale.log_sizes(rung(9, 9, 10_000)), scale.log_sizes(rung(9, 9, 20_000))
    assert len(small) == len(scale.qualities)
    assert small == sorted(small)
    assert [b - a for a, b in zip(small, large, strict=True)] == pytest.approx(
        [0.6931] * len(small), abs=1e-3
    )
    assert set(CURVE_KNOTS[scale.name]) <= set(range(257))


@pytest.mark.parametrize("scale", SCALES, ids=lambda scale: scale.name)
def test_the_lowest_step_is_the_first_at_the_least_quality(scale: Scale) -> None:
    floor = MIN_QUALITY[scale.name.split()[0]]
    step = scale.lowest_step
    assert scale.qualities[step] >= floor
    assert step == 0 or scale.qualities[step - 1] < floor


def test_each_avif_step_is_the_first_quality_of_a_distinct_file() -> None:
    pixels = photo(64, 48)
    files = [
        encode(pixels, AvifSettings(quality=quality, chroma="4:2:0", speed=9))
        for quality in range(101)
    ]
    groups = [list(group) for _, group in groupby(range(101), key=lambda quality: files[quality])]
    assert tuple(group[0] for group in groups) == QUALITIES["avif"]


def test_palettes_grow_by_an_eighth_at_most_from_16_colours_on() -> None:
    counts = QUALITIES["png"]
    assert (counts[0], counts[-1]) == (2, 256)
    assert all(a < b <= a + max(1, a // 8) for a, b in pairwise(counts))
