from dataclasses import replace

import pytest

from lean_parcel.core.decisions.acts import (
    Act,
    change_aim,
    change_framing,
    done,
    follow_page,
    pick,
    reset_framing,
)
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.page_settings import SETTINGS, PageSettings
from lean_parcel.core.decisions.state import State, files_key
from lean_parcel.core.decisions.variants import Variants
from lean_parcel.core.errors import UsageError
from lean_parcel.core.framing.framing import Focus, Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.picture_kind import formats_for
from lean_parcel.core.picture.box import Box
from tests.builders import source

SOURCE = source(400, 200)
STATE = State(
    framing=Framing(),
    aim=Aim(place=Place(size="100"), limit_bytes=5_000),
    picked_encode_id=7,
)
CROP = Box(left_px=10, top_px=20, width_px=100, height_px=50)


def test_an_aim_changes_by_field_and_its_place_too() -> None:
    after = done(change_aim({"limit_bytes": 900, "density": 2.0}), STATE, SOURCE)
    assert after.aim == replace(STATE.aim, limit_bytes=900, place=Place(size="100", density=2.0))


def test_a_turn_comes_before_the_crop() -> None:
    act = change_framing({"crop": CROP, "kernel": "linear"}, turn="right")
    framing = done(act, STATE, SOURCE).framing
    assert (framing.orientation, framing.crop, framing.kernel) == (6, CROP, "linear")
    assert done(
        change_framing({"crop": None}), replace(STATE, framing=framing), SOURCE
    ).framing == (replace(framing, crop=None))


def test_a_reset_takes_back_what_depends_on_the_picture() -> None:
    framing = Framing(
        orientation=6, straighten_deg=2, focus=Focus(x=0.1), kernel="linear", crop=CROP
    )
    after = done(reset_framing(), replace(STATE, framing=framing), SOURCE)
    assert after.framing == Framing(kernel="linear")


@pytest.mark.parametrize(
    ("act", "is_kept"),
    [
        (change_aim({"limit_bytes": 900}), True),
        (change_framing({"metadata": "nothing"}), True),
        (change_aim({"density": 2.0}), False),
        (change_framing({"kernel": "linear"}), False),
        (change_framing({}, turn="flip"), False),
    ],
)
def test_a_pick_stays_while_it_shows_the_photo_as_it_is_framed(act: Act, is_kept: bool) -> None:
    assert done(act, STATE, SOURCE).picked_encode_id == (7 if is_kept else None)


def test_a_pick_is_taken_and_put_back() -> None:
    assert done(pick(9), STATE, SOURCE).picked_encode_id == 9
    assert done(pick(None), STATE, SOURCE).picked_encode_id is None


def test_an_act_that_cannot_be_says_why() -> None:
    for act, code in (
        (change_aim({"limit_bytes": 0}), "invalid_size"),
        (change_framing({"crop": replace(CROP, left_px=390)}), "invalid_crop"),
        (change_aim({"size": "900 wide and high"}), "invalid_dimensions"),
    ):
        with pytest.raises(UsageError) as caught:
            done(act, STATE, SOURCE)
        assert caught.value.code == code


def test_files_are_the_same_for_whatever_does_not_change_them() -> None:
    key = files_key(STATE, SOURCE)
    assert files_key(replace(STATE, picked_encode_id=None), SOURCE) == key
    by_height = replace(STATE, aim=replace(STATE.aim, place=Place(size="50 high")))
    assert files_key(by_height, SOURCE) == key
    exact = done(change_aim({"size": "25 %"}), STATE, SOURCE)
    assert files_key(exact, SOURCE) != key
    assert files_key(done(change_aim({"fewer_pixels": True}), exact, SOURCE), SOURCE) == key
    for act in (
        change_aim({"limit_bytes": 900}),
        change_aim({"formats": ("webp",)}),
        change_framing({"metadata": "nothing"}),
        change_framing({"background": "#000000"}),
    ):
        assert files_key(done(act, STATE, SOURCE), SOURCE) != key


@pytest.mark.parametrize(
    ("act", "own"),
    [
        (change_aim({"limit_bytes": 900}), "limit_bytes"),
        (change_aim({"likeness": 90.0}), "likeness"),
        (change_aim({"size": "50"}), "size"),
        (change_aim({"density": 1.5}), "density"),
        (change_aim({"formats": ("webp",)}), "formats"),
        (change_framing({"metadata": "everything"}), "metadata"),
        (change_aim({"limit_bytes": 3_000, "size": " 80px "}), None),
        (change_framing({"kernel": "linear"}, turn="left"), None),
    ],
)
def test_a_photo_follows_its_page_in_all_that_it_has_not_of_its_own(
    act: Act, own: str | None
) -> None:
    settings = PageSettings(
        limit_bytes=3_000, likeness=80, size="80", density=2, metadata="nothing"
    )
    after = done(follow_page(settings), STATE, SOURCE)
    assert after.follows == SETTINGS
    assert (after.aim.limit_bytes, after.aim.likeness) == (3_000, 80)
    assert after.aim.place == Place(size="80", density=2)
    assert (after.aim.formats, after.framing.metadata) == (formats_for(SOURCE), "nothing")
    assert done(act, after, SOURCE).follows == tuple(name for name in SETTINGS if name != own)


def test_a_photo_follows_its_page_in_one_setting_alone() -> None:
    settings = PageSettings(limit_bytes=3_000, size="80")
    after = done(follow_page(settings, ["size"]), STATE, SOURCE)
    assert after.aim == replace(STATE.aim, place=Place(size="80"))
    assert after.follows == ("size",)


def test_of_variants_only_what_is_given_changes() -> None:
    before = replace(
        STATE, aim=replace(STATE.aim, variants=Variants(densities=(3,), rule="pixels"))
    )
    after = done(change_aim({"variants": {"formats": ("avif",)}}), before, SOURCE)
    assert after.aim.variants == Variants(densities=(3,), formats=("avif",), rule="pixels")
