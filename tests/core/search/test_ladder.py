import numpy as np
import pytest

from lean_parcel.core.likeness.reference import Reference
from lean_parcel.core.picture.resample import reduce
from lean_parcel.core.picture.serialisation import lossless_png
from lean_parcel.core.search.ladder import rung_between
from lean_parcel.core.search.sizing import first_input, measured_input
from tests.builders import photo


def test_between_measured_pixel_counts_a_rung_is_about_what_it_would_be_measured() -> None:
    grain = np.random.default_rng(5).normal(0, 3, (480, 720, 1))
    pixels = np.asarray(np.clip(photo(720, 480) + grain, 0, 255), np.uint8)
    reference = Reference(pixels)
    rungs = measured_input(reference, first_input(pixels, len(lossless_png(pixels)))).rungs
    for width_px in (684, 630, 450, 300):
        rung = rung_between(rungs, width_px)
        sent = reduce(pixels, rung.width_px, rung.height_px)
        assert rung.ceiling == pytest.approx(reference.likeness(sent), abs=5)
        assert rung.quick_png_size_bytes == pytest.approx(len(lossless_png(sent)), rel=0.1)
    assert rung_between(rungs, rungs[2].width_px) == rungs[2]


def test_of_few_measured_pixel_counts_the_last_ceiling_counts() -> None:
    pixels = photo(720, 480)
    reference = Reference(pixels)
    full, fewer, *_ = measured_input(
        reference, first_input(pixels, len(lossless_png(pixels)))
    ).rungs
    assert rung_between((full, fewer), 650).ceiling == fewer.ceiling
    assert rung_between((full,), 650).ceiling == full.ceiling
