"""`ringing`: new oscillation in quiet areas beside strong edges."""

import cv2
import numpy as np

from lean_parcel.core.arrays import F32
from lean_parcel.core.damage.measures.view import View, spread, to_cells

#: Where the original is quiet, an amplitude of lightness that is plain to see; and its masking.
_PLAIN, _MASKED = 0.125, 0.03
#: Amplitudes of an edge, at half the size, that begins to ring and that surely does.
_EDGE, _STRONG_EDGE = 3.0, 9.0
#: How far from an edge it is looked for, in pixels of half the size, and the size of the
#: neighbourhood that counts as the original's own structure.
_REACH, _OWN = 13, 5


def ringing(reference: View, candidate: View, gain: F32) -> F32:
    """Visibility by cell: activity beyond all that the original has within two pixels, scaled by
    the `gain` of contrast; at full and at half size, the worse of both."""
    edges = cv2.dilate(np.sqrt(reference.activity[1]), np.ones((_REACH, _REACH), np.uint8))
    near = np.clip((edges - _EDGE) / (_STRONG_EDGE - _EDGE), 0, 1)
    own = np.ones((_OWN, _OWN), np.uint8)
    raised = np.maximum(gain, 1) ** 2
    worst = np.zeros(reference.shape, np.float32)
    for scale in (0, 1):
        was, is_now = reference.activity[scale], candidate.activity[scale]
        size = was.shape[::-1]
        around = cv2.dilate(was, own)
        new = is_now - around * cv2.resize(raised, size, interpolation=cv2.INTER_LINEAR)
        amplitude = np.sqrt(np.maximum(new, 0)) / (_PLAIN + _MASKED * np.sqrt(around))
        beside = near if scale else cv2.resize(near, size, interpolation=cv2.INTER_LINEAR)
        # The mean of roots: an area that oscillates counts, not a single line.
        found = spread(to_cells(np.sqrt(amplitude) * beside, reference.shape, scale), 1) ** 2
        worst = np.maximum(worst, found)
    return worst
