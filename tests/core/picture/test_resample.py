import numpy as np
import pytest
from PIL import Image

from lean_parcel.core.picture.resample import Kernel, resampled, to_codes, to_light
from tests.builders import cutout, photo

PILLOW: dict[Kernel, Image.Resampling] = {
    "lanczos3": Image.Resampling.LANCZOS,
    "linear": Image.Resampling.BILINEAR,
    "nearest": Image.Resampling.NEAREST,
}


def by_pillow(values: np.ndarray, width_px: int, height_px: int, kernel: Kernel) -> np.ndarray:
    """Planes of floats, resampled one by one by Pillow."""
    planes = [
        np.asarray(Image.fromarray(plane).resize((width_px, height_px), PILLOW[kernel]))
        for plane in np.moveaxis(values.astype(np.float32), 2, 0)
    ]
    return np.stack(planes, 2)


@pytest.mark.parametrize("kernel", PILLOW)
@pytest.mark.parametrize("size_px", [(40, 30), (23, 51), (200, 131), (97, 40)])
def test_it_agrees_with_pillow_away_from_the_edges(
    kernel: Kernel, size_px: tuple[int, int]
) -> None:
    """Pillow leaves out what is beyond an edge, where we go on with the last pixel."""
    pixels = photo(120, 90)
    expected = to_codes(by_pillow(to_light(pixels / 255), *size_px, kernel).clip(0, 1)) * 255
    shown = resampled(pixels, *size_px, kernel, "linear")
    assert shown.shape == expected.shape
    assert np.abs(shown - expected)[6:-6, 6:-6].max() <= 0.75


@pytest.mark.parametrize("kernel", ["lanczos3", "mitchell", "catmull-rom", "linear"])
@pytest.mark.parametrize("length_px", [3, 8, 64, 131])
def test_a_flat_picture_stays_flat_to_the_edge(kernel: Kernel, length_px: int) -> None:
    flat = np.full((40, 50, 4), (10, 128, 250, 77), np.uint8)
    shown = resampled(flat, length_px, length_px, kernel, "linear")
    assert np.abs(shown.astype(int) - flat[0, 0]).max() <= 1


def test_mitchell_weighs_as_published() -> None:
    """A single bright column, halved: the weights of Mitchell and Netravali (1988) at a quarter and
    three quarters of a pixel, on a grid twice as wide."""
    line = np.zeros((4, 32, 3), np.uint8)
    line[:, 15] = 255
    shown = resampled(line, 16, 4, "mitchell", "gamma")[0, :, 0] / 255
    near = (7 * 0.25**3 - 12 * 0.25**2 + 16 / 3) / 6
    third = (-7 / 3 * 1.25**3 + 12 * 1.25**2 - 20 * 1.25 + 32 / 3) / 6
    three_quarters = (7 * 0.75**3 - 12 * 0.75**2 + 16 / 3) / 6
    assert shown[7] == pytest.approx(near / 2, abs=0.004)
    assert shown[8] == pytest.approx(three_quarters / 2, abs=0.004)
    assert shown[6] == pytest.approx(max(third, 0) / 2, abs=0.004)


def test_sixteen_bits_and_eight_give_the_same_picture() -> None:
    pixels = cutout(60, 44)
    deep = pixels.astype(np.uint16) * 257
    eight = resampled(pixels, 31, 20, "lanczos3", "linear")
    assert np.abs(resampled(deep, 31, 20, "lanczos3", "linear").astype(int) - eight).max() <= 1
    kept = resampled(deep, 60, 44, "mitchell", "gamma")
    is_seen = pixels[..., 3] > 0
    np.testing.assert_array_equal(kept[is_seen], pixels[is_seen])
    np.testing.assert_array_equal(kept[..., 3], pixels[..., 3])


def test_with_the_pixels_that_it_has_a_picture_is_left_alone() -> None:
    pixels = photo(30, 20)
    assert resampled(pixels, 30, 20, "mitchell", "linear") is pixels
