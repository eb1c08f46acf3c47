"""Where a candidate is less alike, whatever the kind: the map of SSIMULACRA 2's own error."""

import cv2
import numpy as np

from lean_parcel.core.arrays import F32
from lean_parcel.core.damage.measures.view import View, to_cells
from lean_parcel.core.likeness.kernels import C2


def unlike(reference: View, candidate: View) -> F32:
    """1 - SSIM of the lightness at half the size, by cell, 0 to 1: there most of the score is lost
    (Sneyers, 2022)."""
    was, is_now = reference.xyb[1][1], candidate.xyb[1][1]
    mean_was, mean_now = _blurred(was), _blurred(is_now)
    shift = (mean_was - mean_now) ** 2
    variances = _blurred(was * was) - mean_was**2 + _blurred(is_now * is_now) - mean_now**2
    error = (_blurred((was - is_now) ** 2) - shift) / (np.maximum(variances, 0) + C2)
    whole = np.clip(error + shift - error * shift, 0, 1)
    return to_cells(np.asarray(whole, np.float32), reference.shape, 1)


def _blurred(plane: F32) -> F32:
    return np.asarray(cv2.blur(plane, (5, 5), borderType=cv2.BORDER_REFLECT))
