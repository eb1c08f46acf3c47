from typing import cast

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lean_parcel.core.arrays import F32
from lean_parcel.core.damage.kinds import KINDS, Kind, Maps, level_of, strength_of
from lean_parcel.core.damage.spots import MOST_SPOTS, glanced, trouble_spots
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


def test_spots_come_worst_first_with_their_kind_and_place() -> None:
    seen = glanced(maps(blocks=patch(2, 3, 10, 12, 0.8), lost_detail=patch(20, 22, 29, 31, 2.0)))
    first, second = trouble_spots(seen, (320, 240))
    assert (first.kind, second.kind) == ("lost-detail", "blocks")
    assert first.strength == pytest.approx(strength_of(2.0), abs=0.1)
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
    found = trouble_spots(glanced(maps(rows, columns, ringing=plane)), (width_px, height_px))
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
