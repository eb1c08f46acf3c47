"""`colour-shift` and `colour-bleeding`: in OKLab (Ottosson, 2020), times 100."""

import numpy as np

from lean_parcel.core.arrays import F32
from lean_parcel.core.damage.measures.view import View, fine_energies, spread

#: A shift of colour over an area that is plain to see, and its masking by chroma (as in CIEDE2000).
_SHIFT, _SHIFT_MASKED = 1.4, 0.05
#: An error of colour at an edge that is plain to see, and its masking by the edge.
_BLEEDING, _BLEEDING_MASKED = 0.8, 0.15
#: Amplitudes of colour that begin to be an edge, and that surely are.
_EDGE, _STRONG_EDGE = 2.0, 7.0
#: Energy of lightness below which its errors say nothing.
_FAINT = 1.0


def colour_shift(reference: View, candidate: View) -> F32:
    """Visibility by cell of a difference in hue or chroma that holds over an area."""
    difference = spread(candidate.oklab_cells - reference.oklab_cells, 3)
    own = spread(reference.oklab_cells, 2)
    chroma = np.hypot(own[..., 1], own[..., 2])
    shift = np.hypot(difference[..., 1], difference[..., 2])
    return np.asarray(shift / (_SHIFT + _SHIFT_MASKED * chroma), np.float32)


def colour_bleeding(reference: View, candidate: View) -> F32:
    """Visibility by cell of colour errors across coloured edges, beyond the share that lightness
    has lost there too."""
    light_edges, colour_edges = reference.edges
    lightness, colour = fine_energies(
        candidate.oklab - reference.oklab,
        candidate.oklab_cells - reference.oklab_cells,
        reference.shape,
    )
    beyond = colour - colour_edges**2 * lightness / (light_edges**2 + _FAINT)
    amplitude = np.sqrt(np.maximum(beyond, 0)) / (_BLEEDING + _BLEEDING_MASKED * colour_edges)
    at_edges: F32 = np.clip((colour_edges - _EDGE) / (_STRONG_EDGE - _EDGE), 0, 1)
    return np.asarray(amplitude * at_edges, np.float32)
