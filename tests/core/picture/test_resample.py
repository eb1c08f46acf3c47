import cv2
import numpy as np
import pytest
from PIL import Image

from lean_parcel.core.picture.resample import Kernel, Light, resampled, to_codes, to_light
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


@pytest.mark.parametrize("light", ["linear", "gamma"])
@pytest.mark.parametrize("width_px", [512, 1024])
def test_a_deep_slope_is_dithered_without_steps_or_a_shift(light: Light, width_px: int) -> None:
    slope = np.broadcast_to(np.linspace(20 * 257, 24 * 257, 1024), (64, 1024))
    deep = np.dstack([np.rint(slope).astype(np.uint16)] * 3)
    expected = cv2.resize(slope / 257, (width_px, 64), interpolation=cv2.INTER_AREA)
    made = resampled(deep, width_px, 64, "lanczos3", light, dithers=True)[..., 0]
    stepped = resampled(deep, width_px, 64, "lanczos3", light)[..., 0]
    near = cv2.blur(made.astype(np.float64), (8, 8))[8:-8, 8:-8]
    assert np.abs(near - expected[8:-8, 8:-8]).max() < 0.1
    steps = cv2.blur(stepped.astype(np.float64), (8, 8))[8:-8, 8:-8]
    assert np.abs(steps - expected[8:-8, 8:-8]).max() > 0.4
    assert np.abs(made - expected).max() < 1.01


@pytest.mark.parametrize("light", ["linear", "gamma"])
def test_whole_codes_of_a_deep_picture_stay_as_they_are(light: Light) -> None:
    patches = np.repeat(np.arange(256, dtype=np.uint16), 8)[None, :, None] * np.ones((8, 1, 3))
    deep = np.ascontiguousarray((patches * 257).astype(np.uint16))
    made = resampled(deep, 1024, 4, "nearest", light, dithers=True)
    np.testing.assert_array_equal(made, patches[:4, ::2].astype(np.uint8))


def test_with_the_pixels_that_it_has_a_picture_is_left_alone() -> None:
    pixels = photo(30, 20)
    assert resampled(pixels, 30, 20, "mitchell", "linear") is pixels
