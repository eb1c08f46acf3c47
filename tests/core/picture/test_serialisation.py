import io

import numpy as np
import pytest
from PIL import Image

from lean_parcel.core.picture.serialisation import small_webp


@pytest.mark.parametrize("size", [(1, 16_384), (40, 18_000), (2, 60_000), (60_000, 2), (1, 1)])
def test_a_small_picture_of_any_shape_can_be_made(size: tuple[int, int]) -> None:
    width_px, height_px = size
    with Image.open(
        io.BytesIO(small_webp(np.zeros((height_px, width_px, 3), np.uint8), 160))
    ) as it:
        assert 1 <= it.width <= 160
        assert 1 <= it.height <= 640


def test_a_picture_that_is_small_keeps_its_pixels() -> None:
    with Image.open(io.BytesIO(small_webp(np.zeros((90, 120, 3), np.uint8), 160))) as it:
        assert it.size == (120, 90)
