import cmath

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lean_parcel.core.errors import UsageError
from lean_parcel.core.framing.framing import Focus, Framing, carried_over, cropped
from lean_parcel.core.framing.place import Place
from lean_parcel.core.framing.plan import automatic_amount_percent, crop_box, plan_framing
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.sharpen import Sharpen
from tests.builders import source

PLACE = Place(size="400", density=2)


def size_px(framing: Framing, place: Place = PLACE) -> tuple[int, int]:
    plan = plan_framing(source(3000, 2000), framing, place)
    return plan.width_px, plan.height_px


@pytest.mark.parametrize(
    ("place", "expected"),
    [
        (Place(size="400 × 400", density=1.5), (600, 600)),
        (Place(size="400 × 400 contained"), (400, 267)),
        (Place(size="5000"), (3000, 2000)),
        (Place(size="5000 × 5000"), (2000, 2000)),
    ],
)
def test_a_place_gives_its_pixels_and_never_more_than_there_are(
    place: Place, expected: tuple[int, int]
) -> None:
    assert size_px(Framing(), place) == expected


@pytest.mark.parametrize("size", ["3001", "2001 high", "3001 long", "101 %", "100 × 2100"])
def test_a_photo_is_enlarged_only_where_that_is_insisted_upon(size: str) -> None:
    place = Place(size=size)
    assert max(size_px(Framing(), place)) <= 3000
    assert max(size_px(Framing(may_enlarge=True), place)) > 2000
    assert size_px(Framing(), place) != size_px(Framing(may_enlarge=True), place)


@pytest.mark.parametrize(
    ("focus", "left_px"), [(Focus(x=0, y=0.5), 0), (Focus(), 500), (Focus(x=0.7, y=1), 1000)]
)
def test_cover_keeps_its_focus_point_in_sight(focus: Focus, left_px: int) -> None:
    square = Place(size="300 × 300")
    box = plan_framing(source(3000, 2000), Framing(focus=focus), square).box
    assert box == Box(left_px=left_px, top_px=0, width_px=2000, height_px=2000)


@given(
    width_px=st.integers(1, 20_000),
    height_px=st.integers(1, 20_000),
    css_width_px=st.integers(1, 16_384),
    density=st.sampled_from([0.5, 1, 1.5, 2, 3, 4]),
)
def test_a_framed_size_keeps_proportions(
    width_px: int, height_px: int, css_width_px: int, density: float
) -> None:
    place = Place(size=str(css_width_px), density=density)
    try:
        plan = plan_framing(source(width_px, height_px), Framing(), place)
    except UsageError:  # a side over 16,384 pixels
        assert max(width_px, height_px) > 16_384
        return
    assert 1 <= plan.width_px <= min(width_px, max(1, round(css_width_px * density)))
    exact = height_px * plan.width_px / width_px
    assert abs(plan.height_px - exact) <= 0.5 or plan.height_px == 1


@given(
    degrees=st.floats(-15, 15),
    left=st.floats(0, 0.9),
    top=st.floats(0, 0.9),
    across=st.floats(0.05, 1),
    down=st.floats(0.05, 1),
)
def test_what_is_kept_lies_in_the_crop_and_has_no_empty_corner(
    degrees: float, left: float, top: float, across: float, down: float
) -> None:
    crop = Box(
        left_px=int(900 * left),
        top_px=int(600 * top),
        width_px=max(1, int(900 * min(across, 1 - left))),
        height_px=max(1, int(600 * min(down, 1 - top))),
    )
    kept = crop_box(source(900, 600), Framing(straighten_deg=degrees, crop=crop))
    assert min(kept.width_px, kept.height_px) >= 1
    turned_back = complex_rotation(-degrees)
    for x in (kept.left_px, kept.left_px + kept.width_px):
        for y in (kept.top_px, kept.top_px + kept.height_px):
            corner = (complex(x, y) - complex(450, 300)) * turned_back
            assert abs(corner.real) <= 450.8
            assert abs(corner.imag) <= 300.8


def complex_rotation(degrees: float) -> complex:
    """Turns a point clockwise on a screen, where y goes down."""

    return cmath.rect(1, degrees * cmath.pi / 180)


@pytest.mark.parametrize("crop", [(-1, 0, 5, 5), (0, 0, 0, 5), (0, 0, 3001, 5), (2999, 0, 2, 5)])
def test_a_crop_outside_the_picture_is_refused(crop: tuple[int, int, int, int]) -> None:
    left_px, top_px, width_px, height_px = crop
    box = Box(left_px=left_px, top_px=top_px, width_px=width_px, height_px=height_px)
    with pytest.raises(UsageError) as caught:
        cropped(Framing(), box, 3000, 2000)
    assert caught.value.code == "invalid_crop"


def test_a_crop_of_everything_is_none() -> None:
    box = Box(left_px=0, top_px=0, width_px=3000, height_px=2000)
    assert cropped(Framing(), box, 3000, 2000) == Framing()


def test_sharpening_by_the_reduction_grows_with_it_and_ends() -> None:
    amounts = [automatic_amount_percent(r) for r in (0.5, 1, 1.5, 2, 4, 8, 100)]
    assert amounts[0] == amounts[1] == 0
    assert amounts == sorted(amounts)
    assert amounts[-1] == 60
    plan = plan_framing(source(3000, 2000), Framing(sharpen=Sharpen(amount_percent=None)), PLACE)
    assert plan.sharpen.amount_percent == automatic_amount_percent(3000 / 800)


def test_equal_pixels_are_one_plan_whatever_led_to_them() -> None:
    by_width = plan_framing(source(3000, 2000), Framing(), PLACE)
    by_height = Place(size="533 high", density=1)
    by_share = Place(size="26.6666 %", density=2)
    assert plan_framing(source(3000, 2000), Framing(metadata="nothing"), by_share) == by_width
    assert plan_framing(source(3000, 2000), Framing(), by_height).width_px == by_width.width_px


@pytest.mark.parametrize(
    ("place", "size_px", "density"),
    [
        (Place(size="400"), (400, 300), 1),
        (Place(size="400", density=2), (800, 600), 2),
        (Place(size="400", density=2, pixel_by_pixel=True), (800, 600), 1),
        (Place(size="400", density=2), (500, 375), 1.25),  # all that the photo has
        (Place(size="400", density=2), (300, 225), 1),
        (Place(size="400", density=2), (1600, 1200), 2),
        (Place(size="400"), (800, 600), 1),
        (Place(size="400", density=0.5), (200, 150), 1),
        (Place(size="400 × 400 contained", density=2), (800, 600), 2),
        (Place(size="400 × 150 contained", density=3), (600, 450), 3),
        (Place(size="400 × 200", density=1.5), (600, 300), 1.5),
        (Place(size="50 %", density=2), (1000, 750), 2),
        (Place(size="as it came", density=2), (1000, 750), 1),
    ],
)
def test_pixels_are_judged_at_the_density_at_which_they_stand(
    place: Place, size_px: tuple[int, int], density: float
) -> None:
    box = Box(left_px=0, top_px=0, width_px=2000, height_px=1500)
    assert place.judged_density(box, size_px[0]) == density


def test_the_next_photo_takes_what_is_not_about_this_one() -> None:
    framing = Framing(
        orientation=6,
        straighten_deg=3,
        crop=Box(left_px=1, top_px=1, width_px=9, height_px=9),
        kernel="mitchell",
        metadata="nothing",
    )
    assert carried_over(framing) == Framing(kernel="mitchell", metadata="nothing")


@pytest.mark.parametrize(("width", "density"), [(0, 1), (16_385, 1), (100, 0.4), (100, 5)])
def test_a_place_out_of_range_is_refused(width: int, density: float) -> None:
    with pytest.raises(UsageError):
        Place(size=str(width), density=density)


@pytest.mark.parametrize(
    ("make", "code"),
    [
        (lambda: Framing(straighten_deg=15.1), "invalid_angle"),
        (lambda: Framing(straighten_deg=float("nan")), "invalid_angle"),
        (lambda: Framing(background="white"), "invalid_colour"),
        (lambda: Framing(background="#12345"), "invalid_colour"),
        (lambda: Framing(orientation=9), "invalid_orientation"),
        (lambda: Sharpen(radius_px=9), "invalid_sharpening"),
        (lambda: Focus(x=1.1), "invalid_focus"),
        (lambda: Place(size="10 × 20000"), "invalid_dimensions"),
        (lambda: Place(size="10", density=9), "invalid_density"),
    ],
)
def test_values_that_make_no_sense_are_refused(make: object, code: str) -> None:
    with pytest.raises(UsageError) as caught:
        make()  # type: ignore[operator]
    assert caught.value.code == code
