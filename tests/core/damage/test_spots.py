from typing import cast

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lean_parcel.core.arrays import F32, U8
from lean_parcel.core.damage.found import Damage, codes_of
from lean_parcel.core.damage.kinds import KINDS, Kind, Maps, level_of, strength_of
from lean_parcel.core.damage.spots import (
    MOST_SPOTS,
    MarkedArea,
    TroubleSpot,
    glanced,
    trouble_spots,
)
from lean_parcel.core.damage.verdict import verdict
from lean_parcel.core.picture.box import Box


def maps(rows: int = 30, columns: int = 40, **planes: F32) -> Maps:
    """Nothing, but for the kinds that are given, with underscores in their names."""
    blank = np.zeros((rows, columns), np.float32)
    named = {cast(Kind, name.replace("_", "-")): plane for name, plane in planes.items()}
    return {kind: named.get(kind, blank) for kind in KINDS}


def patch(top: int, left: int, bottom: int, right: int, visibility: float) -> F32:
    plane = np.zeros((30, 40), np.float32)
    plane[top:bottom, left:right] = visibility
    return plane


def spots(
    visibility: Maps,
    size_px: tuple[int, int] = (320, 240),
    marked: tuple[MarkedArea, ...] = (),
    unlike: U8 | None = None,
) -> list[TroubleSpot]:
    codes = {kind: codes_of(plane) for kind, plane in glanced(visibility).items()}
    if unlike is None:
        unlike = np.zeros_like(codes["blocks"])
    found = Damage(likeness=80, strengths={}, verdict="", maps=codes, unlike=unlike)
    return trouble_spots(found, size_px, marked)


def test_of_areas_as_bad_the_one_that_is_less_alike_comes_first() -> None:
    seen = maps(ringing=patch(2, 3, 10, 12, 0.6) + patch(20, 22, 29, 31, 0.6))
    for top, left in ((4, 5), (22, 24)):
        unlike = np.zeros((30, 40), np.uint8)
        unlike[top : top + 4, left : left + 4] = 250
        first, _ = spots(seen, unlike=unlike)
        assert abs(first.box.top_px / 8 - top) < 6


def test_areas_that_matter_count_twice_and_are_always_there() -> None:
    seen = maps(blocks=patch(2, 3, 10, 12, 0.6), ringing=patch(20, 22, 29, 31, 0.4))
    plain = spots(seen)
    assert [spot.kind for spot in plain] == ["blocks", "ringing"]
    face = Box(left_px=180, top_px=164, width_px=66, height_px=66)
    quiet = Box(left_px=250, top_px=10, width_px=40, height_px=40)
    areas = tuple(MarkedArea(box=box, matters=True) for box in (face, quiet))
    ringing, blocks, nothing = spots(seen, marked=areas)
    assert (ringing.kind, ringing.box, ringing.is_marked) == ("ringing", face, True)
    assert (blocks.kind, blocks.is_marked) == ("blocks", False)
    assert (nothing.box, nothing.strength, nothing.is_marked) == (quiet, 0, True)


def test_areas_that_do_not_matter_have_no_spots() -> None:
    seen = maps(blocks=patch(2, 3, 10, 12, 0.6), ringing=patch(20, 22, 29, 31, 0.4))
    corner = MarkedArea(box=Box(left_px=0, top_px=0, width_px=120, height_px=110), matters=False)
    assert [spot.kind for spot in spots(seen, marked=(corner,))] == ["ringing"]


def test_spots_come_worst_first_with_their_kind_and_place() -> None:
    first, second = spots(
        maps(blocks=patch(2, 3, 10, 12, 0.8), lost_detail=patch(20, 22, 29, 31, 2.0))
    )
    assert (first.kind, second.kind) == ("lost-detail", "blocks")
    assert first.strength == pytest.approx(strength_of(2.0), abs=0.3)
    assert (first.level, second.level) == ("strong", "mild")
    assert 22 * 8 - 16 <= first.box.left_px <= 22 * 8 + 16
    assert 3 * 8 - 16 <= second.box.left_px <= 3 * 8 + 16


def overlap(one: Box, other: Box) -> bool:
    return (
        one.left_px < other.left_px + other.width_px
        and other.left_px < one.left_px + one.width_px
        and one.top_px < other.top_px + other.height_px
        and other.top_px < one.top_px + one.height_px
    )


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000), st.integers(1, 60), st.integers(1, 60))
def test_spots_never_overlap_and_lie_in_the_picture(seed: int, rows: int, columns: int) -> None:
    chance = np.random.default_rng(seed)
    plane = chance.gamma(0.3, 1.0, (rows, columns)).astype(np.float32)
    width_px, height_px = columns * 8 - int(chance.integers(8)), rows * 8 - int(chance.integers(8))
    found = spots(maps(rows, columns, ringing=plane), (width_px, height_px))
    assert len(found) <= MOST_SPOTS
    assert [spot.strength for spot in found] == sorted(
        (spot.strength for spot in found), reverse=True
    )
    for number, spot in enumerate(found):
        box = spot.box
        assert box.left_px >= 0
        assert box.top_px >= 0
        assert box.left_px + box.width_px <= width_px
        assert box.top_px + box.height_px <= height_px
        assert not any(overlap(box, other.box) for other in found[:number])


@pytest.mark.parametrize(
    ("planes", "words"),
    [
        ({}, "No damage is seen."),
        (
            {"banding": patch(0, 0, 9, 40, 2)},
            "Smooth areas strongly band in the upper third; the rest holds.",
        ),
        (
            {"ringing": patch(11, 14, 19, 26, 0.7), "blocks": patch(22, 30, 30, 40, 0.2)},
            "Edges ring in the middle; blocks slightly show at the lower right; the rest holds.",
        ),
        ({"colour_shift": patch(0, 0, 30, 40, 0.6)}, "Colours are shifted all over."),
    ],
    ids=["nothing", "top", "two kinds", "everywhere"],
)
def test_a_verdict_says_what_where_and_how_strongly(planes: dict[str, F32], words: str) -> None:
    assert verdict(glanced(maps(**planes))) == words


@pytest.mark.parametrize(
    ("strength", "level"), [(6, "slight"), (29.9, "slight"), (30, "mild"), (55, "strong")]
)
def test_levels(strength: float, level: str) -> None:
    assert level_of(strength) == level
