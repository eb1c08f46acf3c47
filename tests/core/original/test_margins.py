import numpy as np
import pytest
from PIL import Image

from lean_parcel.core.original import margins
from lean_parcel.core.original.margins import photo_margins
from lean_parcel.core.original.source import Limits
from lean_parcel.core.picture.box import Box
from tests.builders import file, photo
from tests.pages import INSIDE, framed_in


def test_margins_are_found_in_the_turned_picture() -> None:
    page = framed_in(photo(), 250)
    stored = np.ascontiguousarray(np.rot90(page, 1))  # orientation 6 turns it back
    exif = Image.Exif()
    exif[0x0112] = 6
    assert photo_margins(file(stored, exif=exif), "a.png", 1, Limits()) == INSIDE
    turned = photo_margins(file(page), "a.png", 6, Limits())
    assert turned == Box(left_px=7, top_px=23, width_px=64, height_px=96)


def test_of_a_very_large_picture_margins_are_found_to_a_few_pixels(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(margins, "_MAX_PIXELS", 2_000)  # so that every third is looked at
    page = framed_in(photo(), 250)
    found = photo_margins(file(page), "a.png", 1, Limits())
    assert found
    for side in ("left_px", "top_px", "width_px", "height_px"):
        assert getattr(found, side) == pytest.approx(getattr(INSIDE, side), abs=4)
    assert found.left_px + found.width_px <= page.shape[1]
    assert found.top_px + found.height_px <= page.shape[0]
