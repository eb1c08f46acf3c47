"""The grammar of sizes, and what each comes to of a picture of 3000 × 2000 pixels."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lean_parcel.core.errors import UsageError
from lean_parcel.core.framing.dimensions import typed_dimensions
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.framing.plan import plan_framing
from tests.builders import source

#: What is typed and shown; what it stands as at 2×, and what is sent then of 3000 × 2000 pixels.
GRAMMAR = [
    ("1200", "1200 px", (1200, 800), (2400, 1600)),
    ("1200px", "1200 px", (1200, 800), (2400, 1600)),
    (" 300 PX wide ", "300 px", (300, 200), (600, 400)),
    ("750.5", "750.5 px", (750, 500), (1501, 1001)),
    ("600 × 450", "600 × 450 px", (600, 450), (1200, 900)),
    ("600x450", "600 × 450 px", (600, 450), (1200, 900)),
    ("600X450 px covered", "600 × 450 px", (600, 450), (1200, 900)),
    ("600*450 contained", "600 × 450 px contained", (600, 400), (1200, 800)),
    ("300 x 900, contained", "300 × 900 px contained", (300, 200), (600, 400)),
    ("x 450", "450 px high", (675, 450), (1350, 900)),
    ("×450 high", "450 px high", (675, 450), (1350, 900)),
    ("450 high", "450 px high", (675, 450), (1350, 900)),
    ("1500 long", "1500 px long", (1500, 1000), (3000, 2000)),
    ("60 %", "60 %", (900, 600), (1800, 1200)),
    ("12,5%", "12.5 %", (188, 125), (375, 250)),
    ("33.3 percent", "33.3 %", (500, 333), (999, 666)),
    ("as it came", "as it came", (1500, 1000), (3000, 2000)),
    ("As  It Came", "as it came", (1500, 1000), (3000, 2000)),
    ("100 %", "as it came", (1500, 1000), (3000, 2000)),
    ("10 × 15 cm at 300 dpi", "10 × 15 cm at 300 dpi", (590, 886), (1181, 1772)),
    ("4 in high", "4 in high", (576, 384), (1152, 768)),
    ('4"', "4 in wide", (384, 256), (768, 512)),
    ("5 inches @ 72 dpi", "5 in wide at 72 dpi", (180, 120), (360, 240)),
    ("80 mm long at 254dpi", "80 mm long at 254 dpi", (400, 266), (800, 533)),
    ("10 cm", "10 cm wide", (378, 252), (756, 504)),
]


@pytest.mark.parametrize(("typed", "shown", "stands_px", "sent_px"), GRAMMAR)
def test_what_is_typed_is_shown_stands_and_is_sent(
    typed: str, shown: str, stands_px: tuple[int, int], sent_px: tuple[int, int]
) -> None:
    place = Place(size=typed, density=2)
    plan = plan_framing(source(3000, 2000), Framing(), place)
    assert place.size == shown
    standing = place.standing(plan.box)
    assert (standing.css_width_px, standing.css_height_px) == stands_px
    assert (plan.width_px, plan.height_px) == sent_px


@pytest.mark.parametrize(
    "text",
    [
        *("", " ", "wide", "x", "0", "0 x 5", "-5", "1,200", "16385", "9 x 20000", "1e3"),
        *("0 %", "3201 %", "% 5", "12 kB", "as it is", "10 cm at 0 dpi", "10 at 300 dpi"),
        *("3 x 4 long", "3 x 4 high", "x 4 wide", "x 4 long", "5 contained", "5 em", "5 x 6 x 7"),
        *("10 cm at 9999 dpi", "60 in at 300 dpi", "٣٠٠", "1200\x00", "9" * 400),
    ],
)
def test_anything_else_is_refused_by_one_code(text: str) -> None:
    with pytest.raises(UsageError) as caught:
        Place(size=text)
    assert caught.value.code == "invalid_dimensions"


_SIDES = st.integers(1, 16_384).map(str)
_LENGTHS = st.builds("{} {}".format, st.integers(1, 99), st.sampled_from(["px", "mm", "cm", "in"]))
_TYPED = st.one_of(
    _SIDES,
    st.builds("{} x {}{}".format, _SIDES, _SIDES, st.sampled_from(["", " contained"])),
    st.builds("{} {}".format, _SIDES, st.sampled_from(["high", "long", "wide"])),
    st.floats(0.01, 400).map("{:.4g} %".format),
    st.builds("{}{}".format, _LENGTHS, st.sampled_from(["", " high", " long"])),
    st.builds("{} x {} cm at {} dpi".format, *[st.integers(1, 17)] * 2, st.integers(72, 600)),
)


@given(typed=_TYPED, density=st.sampled_from([0.5, 1, 1.5, 2, 3, 4]))
def test_what_is_shown_can_be_typed_again(typed: str, density: float) -> None:
    place = Place(size=typed, density=density)
    assert typed_dimensions(place.size) == typed_dimensions(typed)
    assert Place(size=place.size, density=density) == place


@given(typed=_TYPED, wide_px=st.integers(1, 9_000), high_px=st.integers(1, 9_000))
def test_on_denser_screens_a_photo_stands_as_large(typed: str, wide_px: int, high_px: int) -> None:
    place, photo = Place(size=typed), source(wide_px, high_px)
    box = plan_framing(photo, Framing(), place).box
    for density in (1.5, 2.0):
        denser = place.at(density)
        other = plan_framing(photo, Framing(), denser).box
        assert denser.density == density
        there, here = denser.standing(other), place.standing(box)
        assert there.css_width_px == pytest.approx(here.css_width_px, rel=0.01, abs=1)
        assert there.css_height_px == pytest.approx(here.css_height_px, rel=0.01, abs=1)


@given(typed=_TYPED, wide_px=st.integers(1, 9_000), high_px=st.integers(1, 9_000))
def test_no_photo_is_enlarged_or_stretched(typed: str, wide_px: int, high_px: int) -> None:
    plan = plan_framing(source(wide_px, high_px), Framing(), Place(size=typed))
    assert 1 <= plan.width_px <= plan.box.width_px <= wide_px
    assert 1 <= plan.height_px <= plan.box.height_px <= high_px
    down_px = plan.width_px * plan.box.height_px / plan.box.width_px
    across_px = plan.height_px * plan.box.width_px / plan.box.height_px
    assert abs(plan.height_px - down_px) <= 1 or abs(plan.width_px - across_px) <= 1
