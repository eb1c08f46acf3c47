"""What a treatment carries, and that doing it twice comes to the same."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lean_parcel.core.decisions.acts import done, treat
from lean_parcel.core.decisions.aim import FIRST_AIM
from lean_parcel.core.decisions.marks import Mark
from lean_parcel.core.decisions.page_settings import SETTINGS, PageSettings
from lean_parcel.core.decisions.state import State
from lean_parcel.core.decisions.treatment import is_as_treated, treated, treatment_of
from lean_parcel.core.encoding.held import check_held, held_of, with_held
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    JpegSettings,
    PassThrough,
    PngSettings,
    WebpSettings,
)
from lean_parcel.core.errors import UsageError
from lean_parcel.core.framing.framing import Focus, Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.source import Source
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.sharpen import Sharpen

SOURCE = Source(format="jpeg", size_bytes=1000, width_px=400, height_px=300, has_alpha=False)
SMALL = replace(SOURCE, width_px=40, height_px=30)
CROP = Box(left_px=10, top_px=20, width_px=200, height_px=100)
MARK = Mark(box=Box(left_px=50, top_px=60, width_px=20, height_px=20), matters=True)
FRAMING = Framing(
    straighten_deg=2,
    crop=CROP,
    focus=Focus(x=0.2, y=0.8),
    sharpen=Sharpen(amount_percent=60),
    metadata="everything",
)
AIM = replace(FIRST_AIM, place=Place(size="120 long"), limit_bytes=40_000, formats=("webp",))
STATE = State(framing=FRAMING, aim=AIM, marks=(MARK,), picked_encode_id=3)
OTHER = State(framing=Framing(orientation=6, focus=Focus(x=0.9)), aim=FIRST_AIM, follows=SETTINGS)


def test_what_depends_on_the_single_picture_stays_with_it() -> None:
    after = treated(OTHER, treatment_of(STATE), SOURCE)
    assert after.aim == AIM
    assert after.framing.metadata == "everything"
    assert after.framing.sharpen.amount_percent == 60
    assert (after.framing.orientation, after.framing.focus) == (6, Focus(x=0.9))
    assert (after.framing.crop, after.framing.straighten_deg, after.marks) == (None, 0, ())
    settings = PageSettings(limit_bytes=40_000)
    assert done(treat(treatment_of(STATE), 1, settings), OTHER, SOURCE).follows == (
        "density",
        "limit_bytes",
        "likeness",
    )


def test_it_is_carried_where_that_is_asked_for() -> None:
    treatment = treatment_of(STATE, with_single=True)
    after = treated(OTHER, treatment, SOURCE)
    assert (after.framing.crop, after.framing.straighten_deg, after.marks) == (CROP, 2, (MARK,))
    assert after.framing.focus == FRAMING.focus
    with pytest.raises(UsageError) as refused:
        treated(OTHER, treatment, SMALL)
    assert refused.value.code == "invalid_crop"


@given(st.booleans(), st.sampled_from((SOURCE, replace(SOURCE, width_px=900))))
def test_doing_it_again_comes_to_the_same(with_single: bool, source: Source) -> None:
    treatment = treatment_of(STATE, with_single=with_single)
    once = done(treat(treatment, None, PageSettings()), OTHER, source)
    assert done(treat(treatment, None, PageSettings()), once, source) == once
    assert is_as_treated(once, treatment, source)
    exception = replace(once, aim=replace(once.aim, limit_bytes=7))
    assert not is_as_treated(exception, treatment, source)


def test_a_pick_of_other_pixels_is_put_back() -> None:
    smaller = replace(AIM, place=Place(size="60 long"))
    treatment = treatment_of(replace(STATE, aim=smaller))
    assert done(treat(treatment, None, PageSettings()), STATE, SOURCE).picked_encode_id is None
    assert (
        done(treat(treatment_of(STATE), None, PageSettings()), STATE, SOURCE).picked_encode_id == 3
    )


def test_the_knobs_of_an_encode_are_held_where_that_is_asked_for() -> None:
    settings = JpegSettings(quality=61, chroma="4:4:4", progressive=False)
    held = treatment_of(STATE, held_from=settings).aim.held
    assert held == {"jpeg": {"chroma": "4:4:4", "progressive": False}}
    assert with_held(JpegSettings(quality=20, chroma="4:2:0"), held) == JpegSettings(
        quality=20, chroma="4:4:4", progressive=False
    )
    assert with_held(WebpSettings(quality=20), held) == WebpSettings(quality=20)
    assert held_of(PassThrough(format="jpeg")) == {}
    with_quality = treatment_of(STATE, held_from=settings, with_quality=True).aim.held
    assert with_quality == {"jpeg": {"quality": 61, "chroma": "4:4:4", "progressive": False}}
    assert held_of(AvifSettings(quality=3, chroma="4:2:0", speed=4)) == {
        "chroma": "4:2:0",
        "speed": 4,
    }


@pytest.mark.parametrize(
    "held",
    [
        {"jpeg": {"quality": 700}},
        {"png": {"colours": 16}},
        {"webp": {"shine": True}},
        {"avif": {"speed": 99}},
        {"jpeg": {"chroma": "4:1:1"}},
    ],
    ids=str,
)
def test_what_cannot_be_held_is_refused(held: dict) -> None:  # type: ignore[type-arg]
    with pytest.raises(UsageError) as refused:
        check_held(held)
    assert refused.value.code == "invalid_settings"


def test_held_values_follow_the_rules() -> None:
    held = {"png": {"dither": 0.5}}
    assert with_held(PngSettings(colours=None), held).dither == 1.0  # type: ignore[union-attr, arg-type]
