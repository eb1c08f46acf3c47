"""`lost-detail`: fine structure that is gone, whether smoothed away, denoised or softened."""

import numpy as np

from lean_parcel.core.arrays import F32
from lean_parcel.core.damage.measures.view import View

#: Amplitude of lightness whose loss is plain to see; more is needed in busy areas (contrast
#: discrimination, Legge and Foley 1980).
_PLAIN, _MASKED = 1.0, 0.25


def lost_detail(reference: View, candidate: View, gain: F32) -> F32:
    """Visibility by cell: the loss of amplitude in the three finest scales, beyond a loss of
    contrast that holds at all scales, the `gain`; the scale counts that lost most."""
    worst = np.zeros(reference.shape, np.float32)
    for was, is_now in zip(reference.busy, candidate.busy, strict=True):
        amplitude = np.sqrt(was)
        lost = np.maximum(amplitude * np.minimum(gain, 1) - np.sqrt(is_now), 0)
        worst = np.maximum(worst, lost / (_PLAIN + _MASKED * amplitude))
    return worst
