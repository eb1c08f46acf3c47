import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lean_parcel.core.errors import UsageError
from lean_parcel.core.frame import Place, frame_photo, framed_size_px, reduce
from lean_parcel.core.photo import Limits
from tests.builders import cutout, file, oriented, patches

#: What a viewer sees at the top left of `patches` stored with each flag (EXIF 2.32, table of 0112).
TOP_LEFT = {
    1: (200, 30, 30),
    2: (30, 160, 30),
    3: (30, 30, 200),
    4: (128, 128, 128),
    5: (200, 30, 30),
    6: (128, 128, 128),
    7: (30, 30, 200),
    8: (30, 160, 30),
}
TOP_RIGHT = {1: 1, 2: 0, 3: None, 4: 2, 5: None, 6: 0, 7: 1, 8: 2}


@pytest.mark.parametrize("orientation", range(1, 9))
@pytest.mark.parametrize("width_px", [4000, 16])
def test_each_orientation_is_turned_upright(orientation: int, width_px: int) -> None:
    data = oriented(patches(), orientation)
    place = Place(css_width_px=width_px)
    source, pixels = frame_photo(data, "turned.jpg", place, Limits())
    assert (source.width_px, source.height_px) == ((48, 32) if orientation < 5 else (32, 48))
    height_px, width_px = pixels.shape[:2]
    corner = pixels[height_px // 4, width_px // 4].astype(int)
    assert np.abs(corner - TOP_LEFT[orientation]).max() <= 12
    strongest = TOP_RIGHT[orientation]
    other = pixels[height_px // 4, width_px * 3 // 4].astype(int)
    if strongest is None:
        assert np.ptp(other) <= 12
    else:
        assert other.argmax() == strongest


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
def test_a_fine_checkerboard_becomes_the_grey_of_half_the_light(dtype: type) -> None:
    board = np.indices((256, 256)).sum(0) % 2
    pixels = (board * np.iinfo(dtype).max).astype(dtype)
    data = file(pixels) if dtype is np.uint16 else file(np.dstack([pixels] * 3))
    _, framed = frame_photo(data, "board.png", Place(css_width_px=64), Limits())
    # Half of the light is 0.5 linear, which is code 188 in sRGB (IEC 61966-2-1).
    assert np.abs(framed[8:-8, 8:-8].astype(int) - 188).max() <= 1


def test_colour_does_not_leak_from_under_transparency() -> None:
    pixels = np.zeros((64, 64, 4), np.uint8)
    pixels[:, :32] = (255, 0, 0, 255)
    pixels[:, 32:] = (0, 255, 0, 0)
    _, framed = frame_photo(file(pixels), "half.png", Place(css_width_px=16), Limits())
    visible = framed[framed[..., 3] > 8]
    assert visible[:, 1].max() <= 2
    assert visible[:, 0].min() >= 253


def test_a_flat_picture_stays_flat_and_alpha_stays_whole() -> None:
    flat = np.full((90, 120, 4), (10, 128, 250, 255), np.uint8)
    _, framed = frame_photo(file(flat), "flat.png", Place(css_width_px=37), Limits())
    assert np.abs(framed.astype(int) - flat[0, 0]).max() <= 1
    assert reduce(flat, 120, 90) is flat


def test_nothing_is_enlarged() -> None:
    _, framed = frame_photo(file(cutout(40, 30)), "small.png", Place(css_width_px=900), Limits())
    np.testing.assert_array_equal(framed, cutout(40, 30))


@given(
    width_px=st.integers(1, 20_000),
    height_px=st.integers(1, 20_000),
    css_width_px=st.integers(1, 16_384),
    density=st.sampled_from([0.5, 1, 1.5, 2, 3, 4]),
)
def test_a_framed_size_keeps_proportions(
    width_px: int, height_px: int, css_width_px: int, density: float
) -> None:
    place = Place(css_width_px=css_width_px, density=density)
    framed_width_px, framed_height_px = framed_size_px(width_px, height_px, place)
    assert 1 <= framed_width_px <= min(width_px, place.device_width_px)
    exact = height_px * framed_width_px / width_px
    assert abs(framed_height_px - exact) <= 0.5 or framed_height_px == 1


@pytest.mark.parametrize(("width", "density"), [(0, 1), (16_385, 1), (100, 0.4), (100, 5)])
def test_a_place_out_of_range_is_refused(width: int, density: float) -> None:
    with pytest.raises(UsageError):
        Place(css_width_px=width, density=density)
