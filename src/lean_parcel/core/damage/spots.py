"""Trouble spots: the small areas where a candidate differs most."""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from lean_parcel.core.arrays import F32
from lean_parcel.core.damage.found import Damage, Worst, strengths_by_kind
from lean_parcel.core.damage.kinds import KINDS, SEEN, Kind, Maps, Severity, level_of
from lean_parcel.core.damage.measures.view import CELL_PX
from lean_parcel.core.picture.box import Box

MOST_SPOTS = 8
#: How many times more an area counts that matters.
MATTERS = 2.0
#: What is looked at as one, in cells, and how far a spot may grow.
_GLANCE, _LARGEST = 5, 24
#: A spot ends where less than this share of its worst is left.
_LEFT = 0.5
#: How much more a cell counts that is not alike at all.
_UNLIKE = 0.1
Area = tuple[slice, slice]


@dataclass(frozen=True, slots=True, kw_only=True)
class MarkedArea:
    """An area of the place in pixels that a person marked: one that matters, or one that does
    not."""

    box: Box
    matters: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class TroubleSpot:
    """An area in pixels of the place, the kind of damage that is strongest there, and its strength,
    0 to 100; and whether it is one that was marked as one that matters."""

    kind: Kind
    strength: float
    box: Box
    is_marked: bool = False

    @property
    def level(self) -> Severity:
        """The strength in a word."""
        return level_of(self.strength)


def glanced(maps: Maps) -> Maps:
    """The maps of visibility as means of what is looked at as one."""
    return {
        kind: np.asarray(cv2.blur(maps[kind], (_GLANCE, _GLANCE)), np.float32) for kind in KINDS
    }


def trouble_spots(
    damage: Damage, size_px: tuple[int, int], marked: Sequence[MarkedArea] = ()
) -> list[TroubleSpot]:
    """Up to MOST_SPOTS, worst first, none overlapping; `size_px` is the width and height of the
    place.

    Of cells in which about as much is seen, a spot begins in the one that is less alike. Nothing
    below what is seen becomes a spot, but for areas that matter: they always are, and what is in
    them counts MATTERS times. Areas that do not matter have none.
    """
    strengths = strengths_by_kind(damage.maps)
    worst = strengths.max(0)
    rank = np.where(worst >= SEEN, worst * (1 + _UNLIKE * damage.unlike / 250), 0)
    free = np.ones(worst.shape, bool)
    for mark in marked:
        free[area_of(mark.box)] = False
    found: list[tuple[float, TroubleSpot]] = []
    for mark in (mark for mark in marked if mark.matters):
        spot = _marked_spot(strengths, mark.box)
        found.append((MATTERS * spot.strength, spot))
    while len(found) < MOST_SPOTS:
        open_ranks = np.where(_centres(free), rank, 0)
        row, column = np.unravel_index(np.argmax(open_ranks), worst.shape)
        if not open_ranks[row, column]:
            break
        number = int(strengths[:, row, column].argmax())
        area = _grown(strengths[number], free, int(row), int(column))
        free[area] = False
        strength = float(strengths[number, row, column])
        spot = TroubleSpot(kind=KINDS[number], strength=strength, box=_box(area, size_px))
        found.append((strength, spot))
    return [spot for _, spot in sorted(found[:MOST_SPOTS], key=lambda one: -one[0])]


def _marked_spot(strengths: F32, box: Box) -> TroubleSpot:
    inside = strengths[(slice(None), *area_of(box))].max((1, 2))
    number = int(inside.argmax())
    return TroubleSpot(kind=KINDS[number], strength=float(inside[number]), box=box, is_marked=True)


def area_of(box: Box) -> Area:
    """The cells that a box touches."""
    return (
        slice(box.top_px // CELL_PX, -(-(box.top_px + box.height_px) // CELL_PX)),
        slice(box.left_px // CELL_PX, -(-(box.left_px + box.width_px) // CELL_PX)),
    )


def _centres(free: np.ndarray) -> np.ndarray:
    """The cells whose `_window` is free."""
    sides = tuple(min(_GLANCE, length) for length in free.shape)
    is_free = np.asarray(np.lib.stride_tricks.sliding_window_view(free, sides).all((2, 3)))
    firsts = [[_window(at, length)[0] for at in range(length)] for length in free.shape]
    return is_free[np.ix_(*firsts)]


def _grown(plane: F32, free: np.ndarray, row: int, column: int) -> Area:
    """The rows and columns of the area around a cell that is nearly as bad."""
    top, bottom = _window(row, plane.shape[0])
    left, right = _window(column, plane.shape[1])
    least = _LEFT * plane[row, column]
    sides = [top, bottom, left, right]
    grows = True
    while grows:
        grows = False
        for side, step in ((0, -1), (1, 1), (2, -1), (3, 1)):
            strip = _strip(sides, side, step, plane.shape)
            if strip and free[strip].all() and plane[strip].mean() >= least:
                sides[side] += step
                grows = True
    return slice(sides[0], sides[1]), slice(sides[2], sides[3])


def _window(at: int, length: int) -> tuple[int, int]:
    """What is looked at as one around a cell, along one axis: where it begins and ends."""
    side = min(_GLANCE, length)
    first = min(max(at - side // 2, 0), length - side)
    return first, first + side


def _strip(sides: list[int], side: int, step: int, shape: tuple[int, int]) -> Area | None:
    """The row or column that an area gains when a side of it moves, or None where it may not."""
    top, bottom, left, right = sides
    length, most = (bottom - top, shape[0]) if side < 2 else (right - left, shape[1])
    if length >= _LARGEST or not 0 <= sides[side] + step <= most:
        return None
    new = slice(min(sides[side], sides[side] + step), max(sides[side], sides[side] + step))
    return (new, slice(left, right)) if side < 2 else (slice(top, bottom), new)


def _box(area: Area, size_px: tuple[int, int]) -> Box:
    rows, columns = area
    left_px, top_px = columns.start * CELL_PX, rows.start * CELL_PX
    return Box(
        left_px=left_px,
        top_px=top_px,
        width_px=min(columns.stop * CELL_PX, size_px[0]) - left_px,
        height_px=min(rows.stop * CELL_PX, size_px[1]) - top_px,
    )


def worst_of(damage: Damage) -> Worst:
    """What is worst in a candidate: its first trouble spot, if it has one."""
    rows, columns = next(iter(damage.maps.values())).shape
    spots = trouble_spots(damage, (columns * CELL_PX, rows * CELL_PX))
    if not spots:
        return Worst(kind=None, strength=0)
    return Worst(kind=spots[0].kind, strength=round(spots[0].strength, 1))
