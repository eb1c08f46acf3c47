"""The eight orientations are a group, and act on pixels and boxes as one."""

import itertools

import numpy as np
import pytest

from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.orientation import (
    UPRIGHT,
    combined,
    inverse,
    is_mirrored,
    shown,
    shown_box,
    shown_size_px,
    stored_box,
)
from tests.builders import photo

ALL = range(1, 9)
PIXELS = photo(7, 5)
BOX = Box(left_px=1, top_px=2, width_px=3, height_px=2)


@pytest.mark.parametrize(("first", "then"), list(itertools.product(ALL, ALL)))
def test_two_in_a_row_are_one(first: int, then: int) -> None:
    one = shown(PIXELS, combined(first, then))
    np.testing.assert_array_equal(one, shown(shown(PIXELS, first), then))


@pytest.mark.parametrize("orientation", ALL)
def test_each_has_one_that_undoes_it(orientation: int) -> None:
    assert combined(orientation, inverse(orientation)) == UPRIGHT
    np.testing.assert_array_equal(shown(shown(PIXELS, orientation), inverse(orientation)), PIXELS)
    assert combined(UPRIGHT, orientation) == combined(orientation, UPRIGHT) == orientation


@pytest.mark.parametrize("orientation", ALL)
def test_a_box_goes_with_its_pixels(orientation: int) -> None:
    turned = shown(PIXELS, orientation)
    assert shown_size_px(7, 5, orientation) == turned.shape[1::-1]
    there = shown_box(BOX, orientation, 7, 5)
    np.testing.assert_array_equal(cut(turned, there), shown(cut(PIXELS, BOX), orientation))
    assert stored_box(there, orientation, 7, 5) == BOX


@pytest.mark.parametrize("orientation", ALL)
def test_letters_read_backwards_where_a_turn_alone_does_not_do(orientation: int) -> None:
    turns = [np.rot90(PIXELS, times) for times in range(4)]
    is_a_turn = any(np.array_equal(shown(PIXELS, orientation), turn) for turn in turns)
    assert is_mirrored(orientation) == (not is_a_turn)


def cut(pixels: np.ndarray, box: Box) -> np.ndarray:
    return pixels[box.top_px : box.top_px + box.height_px, box.left_px : box.left_px + box.width_px]
