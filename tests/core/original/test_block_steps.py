"""Borders of blocks that are seen, also where only stripes of a picture are looked at."""

import numpy as np
import pytest
from PIL import Image

from lean_parcel.core.arrays import U8
from lean_parcel.core.original.block_steps import visible_block_share
from lean_parcel.core.picture.serialisation import decode
from tests.builders import demo_pixels, file
from tests.recorded import Recorded


def blocks(height_px: int, width_px: int) -> U8:
    """Flat blocks of 8 × 8 pixels, each of another grey."""
    size = (height_px // 8, width_px // 8)
    greys = np.random.default_rng(3).integers(40, 216, size, np.uint8)
    return np.kron(greys, np.ones((8, 8), np.uint8))


def smooth(height_px: int, width_px: int) -> U8:
    """A ramp without a step."""
    ramp = np.linspace(60, 190, width_px).astype(np.uint8)
    return np.repeat(ramp[np.newaxis], height_px, axis=0)


def test_flat_blocks_are_seen_and_a_ramp_has_none() -> None:
    assert visible_block_share(blocks(240, 320)) > 0.8
    assert visible_block_share(smooth(240, 320)) == 0
    assert visible_block_share(blocks(16, 320)) == 0  # too few to tell


def test_blocks_off_the_grid_of_the_file_are_not_its_own() -> None:
    assert visible_block_share(blocks(240, 320)[3:, 3:]) == 0


@pytest.mark.parametrize("blocks_first", [True, False])
def test_of_a_large_picture_stripes_are_spread_all_the_way_down(*, blocks_first: bool) -> None:
    halves = [blocks(3_200, 1_600), smooth(3_200, 1_600)]
    halves = halves if blocks_first else halves[::-1]
    whole = visible_block_share(blocks(640, 1_600))
    assert visible_block_share(np.concatenate(halves)) == pytest.approx(whole / 2, abs=0.05)


def test_how_much_of_an_encode_is_seen(recorded: Recorded) -> None:
    luma = np.asarray(Image.fromarray(demo_pixels("kiln-night.jpg", 320)).convert("L"))
    files = {quality: file(luma, "JPEG", quality=quality) for quality in (5, 15, 30, 60, 90)}
    recorded(
        {quality: visible_block_share(decode(data)[..., 0]) for quality, data in files.items()}
    )
