"""Empty margins, found to the pixel, and what only looks like one."""

import io

import numpy as np
import pytest
from PIL import Image

from lean_parcel.core.arrays import U8
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.trim import find_margins
from tests.builders import cutout, file, photo
from tests.pages import INSIDE, framed_in


@pytest.mark.parametrize(
    "page",
    [
        framed_in(photo(), 250),
        framed_in(photo(), (10, 90, 30)),
        framed_in(np.maximum(photo(), 60) // 2, 245, grain=1.5),
        framed_in(np.dstack([photo(), np.full((64, 96), 255, np.uint8)]), (90, 0, 0, 0)),
    ],
)
def test_empty_margins_are_found_to_the_pixel(page: U8) -> None:
    assert find_margins(page) == INSIDE


def test_a_margin_on_one_side_is_one_too() -> None:
    page = np.vstack([np.full((20, 96, 3), 0, np.uint8), np.maximum(photo(), 40)])
    assert find_margins(page) == Box(left_px=0, top_px=20, width_px=96, height_px=64)


@pytest.mark.parametrize("pixels", [photo(), np.full((40, 60, 3), 200, np.uint8), cutout()[8:-8]])
def test_where_there_are_no_margins_or_nothing_else_nothing_is_trimmed(pixels: U8) -> None:
    found = find_margins(pixels)
    assert found is None or pixels.shape[2] == 4


@pytest.mark.parametrize("grain", [0.0, 1.5])
@pytest.mark.parametrize("levels", [4, 8, 13])
def test_a_pale_sidebar_is_no_margin(levels: int, grain: float) -> None:
    page = np.full((300, 400, 3), 250.0)
    page[:, 40:120] -= levels + 3 * grain  # from top to bottom
    page[60:240, 180:340] = 90
    page += np.random.default_rng(2).normal(0, grain, page.shape)
    found = find_margins(np.asarray(np.rint(page.clip(0, 255)), np.uint8))
    assert found
    assert abs(found.left_px - 40) <= 2
    assert abs(found.left_px + found.width_px - 340) <= 1


@pytest.mark.parametrize("saved", ["png", "jpeg"])
def test_a_soft_shadow_is_no_margin(saved: str) -> None:
    y, x = np.mgrid[:300, :400]
    shadow = 13 * np.exp(-(((x - 200) / 90) ** 2 + ((y - 230) / 18) ** 2))
    page = np.dstack([np.rint(252 - shadow)] * 3).astype(np.uint8)
    page[80:220, 130:270] = 60
    if saved == "jpeg":
        page = np.asarray(Image.open(io.BytesIO(file(page, "JPEG", quality=90))))
    found = find_margins(page)
    assert found
    is_seen = np.argwhere(shadow > 4)
    (_, left), (bottom, right) = is_seen.min(0), is_seen.max(0)
    assert found.left_px <= left
    assert found.left_px + found.width_px > right
    assert found.top_px + found.height_px > bottom
    assert found.top_px > 40
    assert found.left_px > 20


def test_paper_on_a_scanner_is_a_margin_too() -> None:
    page = np.full((500, 400, 3), 253.0)
    page[20:480, 16:390] = 243
    page[150:330, 100:300] = 90
    page += np.random.default_rng(3).normal(0, 1, page.shape)
    found = find_margins(np.asarray(np.rint(page.clip(0, 255)), np.uint8))
    assert found == Box(left_px=100, top_px=150, width_px=200, height_px=180)


@pytest.mark.parametrize("quality", [60, 85, 95])
def test_what_a_coder_leaves_around_a_picture_hides_no_margin(quality: int) -> None:
    page = np.asarray(
        Image.open(io.BytesIO(file(framed_in(photo(), 250), "JPEG", quality=quality)))
    )
    found = find_margins(page)
    assert found
    for side in ("left_px", "top_px"):
        assert 0 <= getattr(INSIDE, side) - getattr(found, side) <= 12
