"""`blocks`: steps on the coding grid beyond those beside it, on the candidate's own pixels.

After the idea of Wang, Bovik and Evans (2000), blockiness as what repeats with the grid; here of
the difference to the original, which has steps of its own, and along whole sides of blocks.
"""

import cv2
import numpy as np

from lean_parcel.core.arrays import F32
from lean_parcel.core.damage.measures.view import CELL_PX, View, pad_to_cells, to_cells

#: A step of lightness along a block's side that is plain to see, its masking, and how much of it is
#: never seen.
_PLAIN, _MASKED, _UNSEEN = 0.18, 0.037, 0.08
#: The same of single steps in smooth areas, as are left where neighbouring blocks have become one
#: colour; the amplitude from which on an area is not smooth; and how far around a step is felt, in
#: cells.
_PLAIN_ALONE, _UNSEEN_ALONE, _ROUGH, _FELT = 1.0, 0.3, 1.0, 5
#: The share of a direction in which there are no steps, as in a vertical gradient.
_ONE_WAY = 0.35


def blocks(reference: View, candidate: View) -> F32:
    """Visibility by cell of pictures of the same size, their codes as they were decoded."""
    shape = reference.shape
    was = pad_to_cells(reference.lightness[0], shape, 0)
    is_now = pad_to_cells(candidate.lightness[0], shape, 0)
    upright = _beyond_others(_steps(was, is_now))
    turned = _steps(np.ascontiguousarray(was.T), np.ascontiguousarray(is_now.T))
    level = _beyond_others(np.ascontiguousarray(turned.transpose(1, 0, 2)))
    steps = np.minimum(upright, level) + _ONE_WAY * np.maximum(upright, level)
    busy = np.sqrt(reference.busy[0])
    many = steps / (_PLAIN + _MASKED * busy)
    return np.asarray(np.maximum(many, _alone(reference, was, is_now)), np.float32)


def _alone(reference: View, was: F32, is_now: F32) -> F32:
    """Visibility of single steps on the grid. A slope that became a stair is right on average; what
    is wrong on average is another kind of damage, which ends at a step too."""
    around = np.ones((_FELT, _FELT), np.uint8)
    turned = (np.ascontiguousarray(plane.T) for plane in (was, is_now))
    steps = np.maximum(_on_grid(was, is_now), _on_grid(*turned).T)
    shift = cv2.GaussianBlur(to_cells(is_now - was, reference.shape, 0), (0, 0), 1.5)
    beyond = np.maximum(steps - 1.2 * cv2.dilate(np.abs(shift), around) - _UNSEEN_ALONE, 0)
    busy = cv2.dilate(np.sqrt(reference.busy[0]), np.ones((3, 3), np.uint8))
    seen = beyond / _PLAIN_ALONE / (1 + (busy / _ROUGH) ** 4)
    return np.asarray(cv2.dilate(seen, around), np.float32)


def _on_grid(was: F32, is_now: F32) -> F32:
    """New steps on the grid beyond any other near them, by cell."""
    before, after = _differences(was), _differences(is_now)
    new = np.where(np.abs(after) > np.abs(before), np.abs(after - before), 0)
    others = cv2.dilate(np.ascontiguousarray(new[..., 1:].max(2)), np.ones((3, 3), np.uint8))
    return np.asarray(np.maximum(new[..., 0] - 1.1 * others, 0), np.float32)


def _steps(was: F32, is_now: F32) -> F32:
    """Cube roots of new steps between neighbouring columns, each the mean of the eight rows of a
    cell; by cell and column in it. Steps that became smaller are not new.

    Roots, so that one strong edge does not look like a grid.
    """
    before, after = _differences(was), _differences(is_now)
    new = np.where(np.abs(after) > np.abs(before), np.abs(after - before), 0)
    return np.asarray(np.cbrt(new), np.float32)


def _differences(plane: F32) -> F32:
    size = (plane.shape[1], plane.shape[0] // CELL_PX)
    rows = cv2.resize(plane, size, interpolation=cv2.INTER_AREA)
    steps = np.diff(rows, axis=1, prepend=rows[:, :1])
    return np.asarray(steps.reshape(rows.shape[0], -1, CELL_PX), np.float32)


def _beyond_others(steps: F32) -> F32:
    """The steps on the grid around each cell, less the largest of those at any other column."""
    around = [cv2.GaussianBlur(np.ascontiguousarray(steps[..., i]), (0, 0), 1.5) for i in range(8)]
    cubes = np.stack(around, 2) ** 3
    beyond = cubes[..., 0] - 1.1 * cubes[..., 1:].max(2) - _UNSEEN
    return np.asarray(np.maximum(beyond, 0), np.float32)
