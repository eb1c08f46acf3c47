"""Whether shifted colours look as if a colour profile was lost or ignored."""

import cv2
import numpy as np

from lean_parcel.core.arrays import F32, F64
from lean_parcel.core.damage.kinds import MILD, strengths_of
from lean_parcel.core.likeness.kernels import LINEAR_OF_CODE
from lean_parcel.core.likeness.reference import Comparison
from lean_parcel.core.picture.gamut import P3_TO_SRGB

#: Linear Adobe RGB (1998) to linear sRGB (both D65), and its transfer exponent.
_ADOBE_TO_SRGB = np.array(
    [[1.3983557, -0.3983557, 0.0], [0.0, 1.0, 0.0], [0.0, -0.0429289, 1.0429289]]
)
_ADOBE_GAMMA = 563 / 256
#: The longest side that is looked at, in pixels, and the share of error that reading the codes in
#: the other profile must take away.
_SIDE_PX, _TAKEN_AWAY = 96, 0.6


def lost_profile(comparison: Comparison, shift: F32) -> str | None:
    """A sentence where colours shifted in much of the picture, and the candidate's codes, read in a
    wider profile, would be much nearer to the original; else None.

    `shift` is the visibility of `colour-shift` by cell.
    """
    if (strengths_of(shift) >= MILD).mean() < 0.1:
        return None
    original, candidate = (_small(codes) for codes in (comparison.original, comparison.candidate))
    light = LINEAR_OF_CODE[original].astype(np.float64)
    before = _error(light, LINEAR_OF_CODE[candidate].astype(np.float64))
    read_as = {
        "Display P3": LINEAR_OF_CODE[candidate] @ P3_TO_SRGB.T,
        "Adobe RGB": (candidate / 255.0) ** _ADOBE_GAMMA @ _ADOBE_TO_SRGB.T,
    }
    after = {name: _error(light, np.asarray(values)) for name, values in read_as.items()}
    name = min(after, key=lambda one: after[one])
    if after[name] > (1 - _TAKEN_AWAY) * before:
        return None
    return f"Its colours look as if a {name} profile was lost or ignored."


def _small(codes: np.ndarray) -> np.ndarray:
    ratio = _SIDE_PX / max(codes.shape[:2])
    if ratio >= 1:
        return codes
    return cv2.resize(codes, None, fx=ratio, fy=ratio, interpolation=cv2.INTER_AREA)


def _error(original: F64, candidate: F64) -> float:
    """Root mean square difference of light, coded by its cube root as lightness is."""
    return float(np.sqrt(np.mean((np.cbrt(original) - np.cbrt(candidate)) ** 2)))
