import numpy as np
import pytest
from coloraide import Color
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from lean_parcel.core.arrays import U8
from lean_parcel.core.framing.frame import frame_photo
from lean_parcel.core.framing.framing import Framing, Turn, cropped, turned
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.photo import open_pixels
from lean_parcel.core.original.source import Limits
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.gamut import profile_of
from lean_parcel.core.picture.resample import Kernel, Light, reduce
from lean_parcel.core.picture.serialisation import decode
from lean_parcel.core.picture.sharpen import Sharpen
from tests.builders import cutout, file, numbered, oriented, patch_numbers, patches, photo

WIDE = Place(size="4000")
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


def framed(data: bytes, framing: Framing | None = None, place: Place = WIDE) -> U8:
    return frame_photo(data, "photo", framing or Framing(), place, Limits()).pixels


@pytest.mark.parametrize("orientation", range(1, 9))
@pytest.mark.parametrize("width_px", [4000, 16])
def test_each_orientation_is_turned_upright(orientation: int, width_px: int) -> None:
    data = oriented(patches(), orientation)
    place = Place(size=str(width_px))
    made = frame_photo(data, "turned.jpg", Framing(), place, Limits())
    size_px = made.source.width_px, made.source.height_px
    assert size_px == ((48, 32) if orientation < 5 else (32, 48))
    height_px, width_px = made.pixels.shape[:2]
    corner = made.pixels[height_px // 4, width_px // 4].astype(int)
    assert np.abs(corner - TOP_LEFT[orientation]).max() <= 12
    strongest = TOP_RIGHT[orientation]
    other = made.pixels[height_px // 4, width_px * 3 // 4].astype(int)
    if strongest is None:
        assert np.ptp(other) <= 12
    else:
        assert other.argmax() == strongest


@pytest.mark.parametrize(
    ("turns", "numbers"),
    [
        ([], [[0, 1, 2], [3, 4, 5]]),
        (["right"], [[3, 0], [4, 1], [5, 2]]),
        (["left"], [[2, 5], [1, 4], [0, 3]]),
        (["flip"], [[2, 1, 0], [5, 4, 3]]),
        (["right", "right"], [[5, 4, 3], [2, 1, 0]]),
        (["right", "flip"], [[0, 3], [1, 4], [2, 5]]),
        (["flip", "right"], [[5, 2], [4, 1], [3, 0]]),
    ],
)
def test_turns_and_flips_move_every_patch_where_it_belongs(
    turns: list[Turn], numbers: list[list[int]]
) -> None:
    pixels = numbered(3, 2)
    framing = Framing()
    for turn in turns:
        framing = turned(framing, turn, 24, 16)
    shown = framed(file(pixels), framing)
    assert patch_numbers(shown, 8) == numbers


@pytest.mark.parametrize("orientation", range(1, 9))
def test_a_crop_is_exact_to_the_pixel_however_the_photo_is_stored(orientation: int) -> None:
    exif = Image.Exif()
    exif[0x0112] = orientation
    data = file(photo(40, 30), "PNG", exif=exif)
    upright = open_pixels(data, "a.png", Limits())
    box = Box(left_px=5, top_px=3, width_px=17, height_px=11)
    shown = framed(data, Framing(crop=box))
    np.testing.assert_array_equal(shown, upright[3:14, 5:22])


turns = st.lists(st.sampled_from(["left", "right", "flip"]), max_size=5)


@settings(max_examples=40, deadline=None)
@given(before=turns, after=turns, data=st.data(), size=st.sampled_from(["as it came", "60 %"]))
def test_crops_and_turns_compose_in_any_order(
    before: list[Turn], after: list[Turn], data: st.DataObject, size: str
) -> None:
    """Turning a framing turns its pixels exactly, crop and all; framing again gives the same."""
    pixels = photo(40, 30)
    original = file(pixels)
    framing, place = Framing(), Place(size=size)
    for turn in before:
        framing = turned(framing, turn, 40, 30)
    height_px, width_px = framed(original, framing).shape[:2]
    left_px = data.draw(st.integers(0, width_px - 8))
    top_px = data.draw(st.integers(0, height_px - 8))
    crop = Box(
        left_px=left_px,
        top_px=top_px,
        width_px=data.draw(st.integers(8, width_px - left_px)),
        height_px=data.draw(st.integers(8, height_px - top_px)),
    )
    framing = cropped(framing, crop, 40, 30)
    expected = framed(original, framing, place)
    np.testing.assert_array_equal(framed(original, framing, place), expected)
    for turn in after:
        framing = turned(framing, turn, 40, 30)
        expected = {
            "left": np.rot90(expected, 1),
            "right": np.rot90(expected, -1),
            "flip": expected[:, ::-1],
        }[turn]
    np.testing.assert_array_equal(framed(original, framing, place), expected)


def test_straightening_turns_clockwise_about_the_middle() -> None:
    pixels = np.zeros((201, 301, 3), np.uint8)
    pixels[100, 150:] = 255  # from the middle to the right, level
    shown = framed(file(pixels), Framing(straighten_deg=10))
    rows, columns = np.nonzero(shown[..., 0] > 128)
    slope = np.polyfit(columns, rows, 1)[0]
    assert np.degrees(np.arctan(slope)) == pytest.approx(10, abs=0.2)
    bright = shown[..., 0].astype(float).sum(axis=0) > 128
    assert np.flatnonzero(bright)[0] == pytest.approx(shown.shape[1] // 2, abs=1)


@pytest.mark.parametrize("degrees", [-15, -7.3, -0.4, 0.4, 3, 15])
def test_straightening_leaves_no_empty_corner(degrees: float) -> None:
    white = np.full((90, 140, 4), 255, np.uint8)
    shown = framed(file(white), Framing(straighten_deg=degrees))
    assert (shown == 255).all()
    assert shown.shape[2] == 3
    assert shown.shape[0] < 90


@pytest.mark.parametrize("turn", ["left", "right", "flip"])
def test_a_straightened_framing_turns_with_its_photo(turn: Turn) -> None:
    original = file(photo(60, 40))
    framing = Framing(straighten_deg=6)
    plain, other = framed(original, framing), framed(original, turned(framing, turn, 60, 40))
    expected = {
        "left": np.rot90(plain, 1),
        "right": np.rot90(plain, -1),
        "flip": plain[:, ::-1],
    }[turn]
    np.testing.assert_array_equal(other, expected)


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
@pytest.mark.parametrize(("light", "grey"), [("linear", 188), ("gamma", 128)])
def test_a_fine_checkerboard_becomes_the_right_grey(dtype: type, light: Light, grey: int) -> None:
    board = np.indices((256, 256)).sum(0) % 2
    pixels = (board * np.iinfo(dtype).max).astype(dtype)
    data = file(pixels) if dtype is np.uint16 else file(np.dstack([pixels] * 3))
    shown = framed(data, Framing(light=light), Place(size="64"))
    # Half of the light is 0.5 linear, which is code 188 in sRGB (IEC 61966-2-1).
    assert np.abs(shown[8:-8, 8:-8].astype(int) - grey).max() <= 1


@pytest.mark.parametrize("kernel", ["lanczos3", "mitchell", "catmull-rom", "linear", "nearest"])
def test_no_kernel_shifts_the_picture(kernel: Kernel) -> None:
    """Halving a symmetric picture leaves it symmetric, and each patch in its place."""
    pixels = numbered(6, 4, 16)
    place = Place(size="48")
    shown = framed(file(pixels), Framing(kernel=kernel), place)
    assert patch_numbers(shown, 8) == [[row * 6 + c for c in range(6)] for row in range(4)]
    if kernel != "nearest":
        mirrored = framed(file(pixels[:, ::-1]), Framing(kernel=kernel), place)
        assert np.abs(mirrored[:, ::-1].astype(int) - shown).max() <= 1


def test_kernels_differ() -> None:
    kernels: list[Kernel] = ["lanczos3", "mitchell", "catmull-rom", "linear", "nearest"]
    data = file(photo())
    made = [framed(data, Framing(kernel=k), Place(size="40")).tobytes() for k in kernels]
    assert len(set(made)) == 5


def test_colour_does_not_leak_from_under_transparency() -> None:
    pixels = np.zeros((64, 64, 4), np.uint8)
    pixels[:, :32] = (255, 0, 0, 255)
    pixels[:, 32:] = (0, 255, 0, 0)
    for light in ("linear", "gamma"):
        shown = framed(file(pixels), Framing(light=light), Place(size="16"))
        visible = shown[shown[..., 3] > 8]
        assert visible[:, 1].max() <= 2
        assert visible[:, 0].min() >= 253


def test_a_flat_picture_stays_flat_and_unused_alpha_goes() -> None:
    flat = np.full((90, 120, 4), (10, 128, 250, 255), np.uint8)
    shown = framed(file(flat), place=Place(size="37"))
    assert np.abs(shown.astype(int) - flat[0, 0, :3]).max() <= 1
    assert reduce(flat, 120, 90) is flat


def test_nothing_is_enlarged_unless_it_is_insisted_upon() -> None:
    data = file(cutout(40, 30))
    place = Place(size="80")
    np.testing.assert_array_equal(framed(data, place=place), cutout(40, 30))
    assert framed(data, Framing(may_enlarge=True), place).shape[:2] == (60, 80)


def test_a_background_is_filled_in_where_it_is_asked_for() -> None:
    shown = framed(file(cutout()), Framing(background="#204060", fills_background=True))
    assert shown.shape[2] == 3
    assert tuple(shown[0, 0]) == (0x20, 0x40, 0x60)
    assert framed(file(cutout()), Framing(background="#204060")).shape[2] == 4


def test_sharpening_comes_after_the_resize_and_off_is_exactly_without() -> None:
    data = file(photo(200, 140))
    place = Place(size="60")
    made = frame_photo(data, "a.png", Framing(sharpen=Sharpen(amount_percent=80)), place, Limits())
    plain = framed(data, place=place)
    np.testing.assert_array_equal(made.plain, plain)
    assert (
        np.abs(np.diff(made.pixels.astype(int), axis=1)).mean()
        > np.abs(np.diff(plain.astype(int), axis=1)).mean()
    )


#: Inside sRGB, and at its edge: sRGB codes, and what Display P3 has for the same colours.
@pytest.mark.parametrize("code", [(200, 60, 60), (30, 140, 90), (40, 60, 190), (128, 128, 128)])
def test_a_display_p3_patch_keeps_its_colour(code: tuple[int, int, int]) -> None:
    wanted = Color("srgb", [value / 255 for value in code])
    in_p3 = [round(value * 255) for value in wanted.convert("display-p3").coords()]
    pixels = np.full((16, 16, 3), in_p3, np.uint8)
    data = file(pixels, icc_profile=profile_of("display-p3"))
    for gamut, space in (("srgb", "srgb"), ("display-p3", "display-p3")):
        shown = framed(data, Framing(gamut=gamut))[8, 8]  # type: ignore[arg-type]
        got = Color(space, [int(value) / 255 for value in shown])
        assert got.delta_e(wanted, method="2000") <= 1


def test_wide_colours_are_kept_only_where_wide_gamut_is() -> None:
    pixels = np.full((16, 16, 3), (255, 0, 0), np.uint8)
    data = file(pixels, icc_profile=profile_of("display-p3"))
    wide = framed(data, Framing(gamut="display-p3"))[8, 8].astype(int)
    assert np.abs(wide - (255, 0, 0)).max() <= 2
    source = Color("display-p3", [1, 0, 0])
    narrow = Color("srgb", [int(value) / 255 for value in framed(data)[8, 8]])
    assert narrow.delta_e(source, method="2000") > 1


def test_framing_again_gives_the_same_bytes() -> None:
    data = file(photo(120, 80), "JPEG", quality=90)
    framing = Framing(straighten_deg=2, sharpen=Sharpen(amount_percent=40))
    place = Place(size="70")
    assert framed(data, framing, place).tobytes() == framed(data, framing, place).tobytes()
    assert decode(file(framed(data, framing, place))).shape[1] == 70


@pytest.mark.parametrize("turn", ["left", "right", "flip"])
@pytest.mark.parametrize("orientation", range(1, 9))
def test_a_person_turns_what_they_see_however_it_is_stored(orientation: int, turn: Turn) -> None:
    exif = Image.Exif()
    exif[0x0112] = orientation
    data = file(numbered(3, 2), "PNG", exif=exif)
    upright = open_pixels(data, "a.png", Limits())
    made = framed(data, turned(Framing(), turn, upright.shape[1], upright.shape[0]))
    expected = {
        "left": np.rot90(upright, 1),
        "right": np.rot90(upright, -1),
        "flip": upright[:, ::-1],
    }
    np.testing.assert_array_equal(made, expected[turn])


@pytest.mark.parametrize("deg", [0.0, 7.0, -15.0])
def test_one_colour_stays_one_colour_however_transparent_it_is(deg: float) -> None:
    """Also where a turn mixes what is nearly clear with what is not."""
    alpha = np.tile(np.linspace(60, 255, 120).astype(np.uint8), (90, 1))
    alpha[20:50, 30:70] = 90
    colour = np.full((90, 120, 3), (200, 80, 40), np.uint8)
    shown = framed(file(np.dstack([colour, alpha])), Framing(straighten_deg=deg)).astype(int)
    assert shown.shape[2] == 4
    assert np.abs(shown[..., :3] - (200, 80, 40)).max() <= 3
    assert shown[..., 3].std() > 20
