"""`banding`: smooth gradients that became visible steps.

In the spirit of CAMBI (Tandon et al., 2021): contrast-aware, at several scales, only where the
original is smooth; here as the concentration of slope. In a gradient every pixel rises a little;
in bands few pixels rise, by much. Coarser scales average grain away, so that bands which it hid
count where it was lost.
"""

import numpy as np

from lean_parcel.core.arrays import F32
from lean_parcel.core.damage.measures.view import CELL_PX, View, pad_to_cells, spread

#: A step of lightness that is plain to see in a smooth area, and what a step of one code has, which
#: every picture of 8 bits shows.
_PLAIN, _UNSEEN = 0.5, 0.25
#: Typical slope from which on an area is not smooth; concentration that begins to be bands, and
#: that surely is. Noise has pi / 2.
_ROUGH, _EVEN, _SURE = 1.5, 1.7, 2.7
#: Columns and rows between pixels that lie on the coding grid are left to `blocks`.
_OFF_GRID = {1: (1, 2, 3), 2: (1,)}


def banding(reference: View, candidate: View) -> F32:
    """Visibility by cell of pictures of the same size, their codes as they were decoded."""
    worst = np.zeros(reference.shape, np.float32)
    for scale, columns in _OFF_GRID.items():
        was, _ = _slopes(reference, scale, columns)
        is_now, concentration = _slopes(candidate, scale, columns)
        smooth = 1 / (1 + (was / _ROUGH) ** 4)
        sure = np.clip((concentration - _EVEN) / (_SURE - _EVEN), 0, 1)
        new = np.maximum(is_now - 1.3 * was - _UNSEEN, 0)
        worst = np.maximum(worst, smooth * sure * new / _PLAIN)
    return np.asarray(worst, np.float32)


def _slopes(view: View, scale: int, columns: tuple[int, ...]) -> tuple[F32, F32]:
    """The typical slope around each cell, weighted by itself, and how concentrated slopes are:
    their mean square over their squared mean."""
    plane = pad_to_cells(view.lightness[scale], view.shape, scale)
    along, squares_along = _sums(plane, scale, columns)
    across, squares_across = _sums(np.ascontiguousarray(plane.T), scale, columns)
    mean, square = (
        spread(np.asarray((one + other.T) / 2, np.float32), 2)
        for one, other in ((along, across), (squares_along, squares_across))
    )
    return square / (mean + 0.02), square / (mean * mean + 1e-3)


def _sums(plane: F32, scale: int, columns: tuple[int, ...]) -> tuple[F32, F32]:
    side = CELL_PX >> scale
    slopes = np.abs(np.diff(plane, axis=1, prepend=plane[:, :1]))
    by_cell = slopes.reshape(plane.shape[0] // side, side, -1, side)[..., list(columns)]
    return by_cell.mean((1, 3)), (by_cell * by_cell).mean((1, 3))
