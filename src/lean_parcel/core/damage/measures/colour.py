"""`colour-shift` and `colour-bleeding`: in OKLab (Ottosson, 2020), times 100."""

import cv2
import numpy as np

from lean_parcel.core.arrays import F32
from lean_parcel.core.damage.measures.view import CELL_PX, View, spread, to_cells

#: A shift of colour over an area that is plain to see, and its masking by chroma (as in CIEDE2000).
_SHIFT, _SHIFT_MASKED = 1.4, 0.05
#: An error of colour at an edge that is plain to see, and its masking by the edge.
_BLEEDING, _BLEEDING_MASKED = 0.8, 0.15
#: Amplitudes of colour that begin to be an edge, and that surely are.
_EDGE, _STRONG_EDGE = 2.0, 7.0
#: Energy of lightness below which its errors say nothing.
_FAINT = 1.0
#: What is finer than an area, as sigma in cells.
_FINE = 2


def colour_shift(reference: View, candidate: View) -> F32:
    """Visibility by cell of a difference in hue or chroma that holds over an area."""
    difference = spread(candidate.oklab_cells - reference.oklab_cells, 3)
    own = spread(reference.oklab_cells, 2)
    chroma = np.hypot(own[..., 1], own[..., 2])
    shift = np.hypot(difference[..., 1], difference[..., 2])
    return np.asarray(shift / (_SHIFT + _SHIFT_MASKED * chroma), np.float32)


def edges_of(view: View) -> tuple[F32, F32]:
    """The amplitudes of lightness and of colour around each cell that are finer than an area."""
    lightness, colour = _energies(view.oklab, view.oklab_cells, view.shape)
    return np.sqrt(lightness), np.sqrt(colour)


def colour_bleeding(reference: View, candidate: View, edges: tuple[F32, F32]) -> F32:
    """Visibility by cell of colour errors across coloured edges (`edges_of` the original), beyond
    the share that lightness has lost there too."""
    light_edges, colour_edges = edges
    lightness, colour = _energies(
        candidate.oklab - reference.oklab,
        candidate.oklab_cells - reference.oklab_cells,
        reference.shape,
    )
    beyond = colour - colour_edges**2 * lightness / (light_edges**2 + _FAINT)
    amplitude = np.sqrt(np.maximum(beyond, 0)) / (_BLEEDING + _BLEEDING_MASKED * colour_edges)
    at_edges: F32 = np.clip((colour_edges - _EDGE) / (_STRONG_EDGE - _EDGE), 0, 1)
    return np.asarray(amplitude * at_edges, np.float32)


def _energies(planes: F32, by_cell: F32, shape: tuple[int, int]) -> tuple[F32, F32]:
    """By cell, the energy that is finer than an area: of lightness, and of both colours."""
    size = (shape[1] * CELL_PX // 2, shape[0] * CELL_PX // 2)
    coarse = cv2.resize(spread(by_cell, _FINE), size, interpolation=cv2.INTER_LINEAR)
    fine = planes - coarse[: planes.shape[0], : planes.shape[1]]
    squares = spread(to_cells(fine * fine, shape, 1), 1)
    return squares[..., 0], squares[..., 1] + squares[..., 2]
