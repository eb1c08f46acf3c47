import cv2
import numpy as np
import pytest

from lean_parcel.core.picture.sharpen import Sharpen, sharpened
from tests.builders import cutout, photo

PLAIN = Sharpen(amount_percent=100, radius_px=1.2, threshold_codes=0)


def test_off_is_the_same_array() -> None:
    pixels = photo()
    assert sharpened(pixels, Sharpen()) is pixels


def test_it_is_luma_minus_its_blur_added_to_every_channel() -> None:
    """Against the definition in double precision, by OpenCV's separable blur of a larger kernel."""
    pixels = photo()
    luma = pixels @ np.array([0.2126, 0.7152, 0.0722])
    blurred = cv2.GaussianBlur(luma, (31, 31), 1.2, borderType=cv2.BORDER_REPLICATE)
    expected = np.clip(pixels + (luma - blurred)[..., None], 0, 255)
    assert np.abs(sharpened(pixels, PLAIN) - expected).max() <= 1


def test_a_flat_picture_and_what_is_below_the_threshold_stay() -> None:
    flat = np.full((20, 30, 3), 90, np.uint8)
    np.testing.assert_array_equal(sharpened(flat, PLAIN), flat)
    faint = flat.copy()
    faint[:, 15:] += 4
    np.testing.assert_array_equal(
        sharpened(faint, Sharpen(amount_percent=200, threshold_codes=4)), faint
    )


def test_colour_differences_stay_so_that_no_fringes_appear() -> None:
    pixels = np.full((20, 30, 3), (120, 100, 90), np.uint8)
    pixels[:, 15:] = (150, 130, 120)
    result = sharpened(pixels, PLAIN).astype(int)
    assert np.abs((result[..., 0] - result[..., 1]) - 20).max() <= 1
    assert result.max() > 150


@pytest.mark.parametrize("amounts", [(20, 60, 180)])
def test_more_is_sharper(amounts: tuple[int, ...]) -> None:
    contrast = [
        np.abs(np.diff(sharpened(photo(), Sharpen(amount_percent=a)).astype(int), axis=1)).mean()
        for a in amounts
    ]
    assert contrast == sorted(contrast)


def test_alpha_stays_and_what_is_unseen_has_no_say() -> None:
    pixels = cutout()
    other = pixels.copy()
    other[pixels[..., 3] == 0, :3] = 255
    result, same = sharpened(pixels, PLAIN), sharpened(other, PLAIN)
    np.testing.assert_array_equal(result[..., 3], pixels[..., 3])
    seen = pixels[..., 3] > 0
    np.testing.assert_array_equal(result[seen], same[seen])
