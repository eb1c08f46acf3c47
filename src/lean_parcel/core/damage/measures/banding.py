"""`banding`: smooth gradients that became visible steps.

In the spirit of CAMBI (Tandon et al., 2021): contrast-aware, at several scales, only where the
original is smooth; here as the concentration of slope. In a gradient every pixel rises a little;
in bands few pixels rise, by much. Coarser scales average grain away, so that bands which it hid
count where it was lost.
"""

import cv2
import numpy as np

from lean_parcel.core.arrays import F32
from lean_parcel.core.damage.measures.view import CELL_PX, View, pad_to_cells, spread

#: A step of lightness that is plain to see in a smooth area, and what a step of one code has, which
#: every picture of 8 bits shows.
_PLAIN, _UNSEEN = 0.5, 0.25
#: A slope of the original that is an edge, the pixels around it that are left out with it, and the
#: typical slope from which on an area is not smooth.
_EDGE, _AROUND, _ROUGH = 2.5, 5, 1.5
#: Concentration that begins to be bands, and that surely is. Noise has pi / 2.
_EVEN, _SURE = 1.7, 2.7
#: Columns and rows between pixels that lie on the coding grid are left to `blocks`.
_OFF_GRID = {1: (1, 2, 3), 2: (1,)}


def banding(reference: View, candidate: View) -> F32:
    """Visibility by cell of pictures of the same size, their codes as they were decoded."""
    worst = np.zeros(reference.shape, np.float32)
    for scale, columns in _OFF_GRID.items():
        smooth = _smooth(reference, scale)
        was, _, share = _slopes(reference, smooth, scale, columns)
        is_now, concentration, _ = _slopes(candidate, smooth, scale, columns)
        sure = np.clip((concentration - _EVEN) / (_SURE - _EVEN), 0, 1) * share
        new = np.maximum(is_now - 1.3 * was - _UNSEEN, 0) / (1 + (was / _ROUGH) ** 4)
        worst = np.maximum(worst, sure * new / _PLAIN)
    return np.asarray(worst, np.float32)


def _smooth(view: View, scale: int) -> F32:
    """1 where a picture has no edge near, else 0."""
    plane = pad_to_cells(view.lightness[scale], view.shape, scale)
    around = np.ones((_AROUND, _AROUND), np.uint8)
    span = cv2.dilate(plane, np.ones((3, 3), np.uint8)) - cv2.erode(
        plane, np.ones((3, 3), np.uint8)
    )
    return np.asarray(cv2.dilate(span, around) < 2 * _EDGE, np.float32)


def _slopes(view: View, smooth: F32, scale: int, columns: tuple[int, ...]) -> tuple[F32, F32, F32]:
    """Around each cell, where it is smooth: the typical slope, weighted by itself; how concentrated
    slopes are, their mean square over their squared mean; and how much of it is smooth."""
    plane = pad_to_cells(view.lightness[scale], view.shape, scale)
    along = _sums(plane, smooth, scale, columns)
    across = _sums(np.ascontiguousarray(plane.T), np.ascontiguousarray(smooth.T), scale, columns)
    total, squares, share = (
        spread(np.asarray((one + other.T) / 2, np.float32), 2)
        for one, other in zip(along, across, strict=True)
    )
    concentration = squares * share / (total * total + 1e-3 * share * share + 1e-9)
    typical = squares / (total + 0.02 * share + 1e-6)
    return np.asarray(typical, np.float32), np.asarray(concentration, np.float32), share


def _sums(plane: F32, smooth: F32, scale: int, columns: tuple[int, ...]) -> tuple[F32, F32, F32]:
    """Means by cell of slopes, of their squares, and of what is smooth."""
    side = CELL_PX >> scale
    slopes = np.abs(np.diff(plane, axis=1, prepend=plane[:, :1]))

    def means(values: F32) -> F32:
        by_cell = values.reshape(plane.shape[0] // side, side, -1, side)[..., list(columns)]
        return np.asarray(by_cell.mean((1, 3)), np.float32)

    seen = slopes * smooth
    return means(seen), means(seen * slopes), means(smooth)
