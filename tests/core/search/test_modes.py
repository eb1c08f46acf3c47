from dataclasses import replace
from itertools import groupby, pairwise

import pytest

from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.qualities import QUALITIES
from lean_parcel.core.encoding.settings import AvifSettings
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.search.calibrated import CURVES, SECONDS_A_MEGAPIXEL
from lean_parcel.core.search.modes import modes_of
from tests.builders import photo
from tests.core.search.fake_encoder import SEARCH_INPUT


@pytest.mark.parametrize("name", FORMATS)
def test_every_mode_is_calibrated_over_all_its_steps(name: Format) -> None:
    for mode in modes_of(name, SEARCH_INPUT, "#ffffff"):
        qualities = [knot[0] for knot in CURVES[mode.name]]
        assert set(qualities) <= set(mode.qualities)
        assert (qualities[0], qualities[-1]) == (mode.qualities[0], mode.qualities[-1])
        assert qualities == sorted(set(qualities))
        assert SECONDS_A_MEGAPIXEL[mode.name] > 0
        assert mode.settings(mode.qualities[-1]).format == name == mode.format


@pytest.mark.parametrize(("name", "modes"), [("jpeg", 3), ("webp", 3), ("avif", 2), ("png", 2)])
def test_a_grey_photo_has_one_lossy_mode(name: Format, modes: int) -> None:
    of_colours = modes_of(name, SEARCH_INPUT, "#ffffff")
    of_grey = modes_of(name, replace(SEARCH_INPUT, is_grey=True), "#ffffff")
    lossless = [mode.name for mode in of_colours if "lossless" in mode.name]
    assert len(of_colours) == modes
    assert [mode.name for mode in of_grey] == [of_colours[0].name, *lossless]


def test_a_transparent_webp_is_made_with_less_effort() -> None:
    of_cutout = modes_of("webp", replace(SEARCH_INPUT, is_transparent=True), "#ffffff")
    assert [mode.settings(50).effort for mode in of_cutout[:2]] == [5, 5]  # type: ignore[union-attr]


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
