"""Tone: by how much contrast was scaled around each cell, and `contrast-shift`."""

from dataclasses import dataclass

import numpy as np

from lean_parcel.core.arrays import F32
from lean_parcel.core.damage.measures.view import View, spread, to_cells

#: The neighbourhood of a cell, as sigma in cells.
_AROUND = 3
#: Variances below which a regression says nothing, in squares of lightness.
_FAINT_COARSE, _FAINT_FINE, _FAINT = 2.0, 0.5, 2.0
#: A shift of lightness that is plain to see over a smooth area, and one of amplitude.
_SHIFT, _GAIN, _GAIN_MASKED = 3.6, 1.5, 0.15


@dataclass(frozen=True, slots=True)
class Tone:
    """By cell: the `gain` of contrast, the `shift` of lightness, the standard deviation of the
    original around it, and how much of that the candidate does not follow (`unlike`)."""

    gain: F32
    shift: F32
    deviation: F32
    unlike: F32


def tone(reference: View, candidate: View) -> Tone:
    """Linear regression of the candidate's lightness on the original's, around each cell.

    The gain is that of coarse structure, which softness spares; where fine and less fine structure
    have lost the same share and still look alike, it is that share.
    """
    shape = reference.shape
    finer = to_cells(
        _slope(reference.lightness[2], candidate.lightness[2], _FAINT_FINE, 1.0), shape, 2
    )
    coarse = _slope(reference.lightness[3], candidate.lightness[3], _FAINT_COARSE, finer)

    def mean(plane: F32) -> F32:
        return spread(to_cells(plane, shape, 1), _AROUND)

    was, is_now = reference.lightness[1], candidate.lightness[1]
    mean_was, mean_now = mean(was), mean(is_now)
    var_was = np.maximum(mean(was * was) - mean_was**2, 0)
    var_now = np.maximum(mean(is_now * is_now) - mean_now**2, 0)
    together = np.maximum(mean(was * is_now) - mean_was * mean_now, 0)
    alike = np.clip((together + _FAINT) ** 2 / ((var_was + _FAINT) * (var_now + _FAINT)), 0, 1)
    finest, fine = (_amplitudes(reference, candidate, scale) for scale in (0, 1))
    even = np.clip((finest / fine - 0.8) / 0.12, 0, 1) * alike**4 * (fine < 1)
    gain = np.clip(even * fine + (1 - even) * coarse, 0.2, 3)
    return Tone(
        gain=np.asarray(gain, np.float32),
        shift=spread(to_cells(is_now - was, shape, 1), 2),
        deviation=np.sqrt(var_was),
        unlike=np.sqrt(var_was * (1 - alike)),
    )


def contrast_shift(seen: Tone) -> F32:
    """Visibility of a changed tone: the shift of lightness, and the change in amplitude by a gain,
    each beyond what lost detail explains."""
    shift = np.maximum(np.abs(seen.shift) - 0.6 * seen.unlike, 0) / _SHIFT
    change = np.maximum(np.abs(seen.gain - 1) * seen.deviation - 0.8 * seen.unlike, 0)
    made: F32 = np.hypot(shift, change / (_GAIN + _GAIN_MASKED * seen.deviation))
    return made


def _slope(was: F32, is_now: F32, faint: float, prior: F32 | float) -> F32:
    mean_was, mean_now = spread(was, _AROUND), spread(is_now, _AROUND)
    variance = np.maximum(spread(was * was, _AROUND) - mean_was**2, 0)
    together = spread(was * is_now, _AROUND) - mean_was * mean_now
    return np.asarray((together + faint * prior) / (variance + faint), np.float32)


def _amplitudes(reference: View, candidate: View, scale: int) -> F32:
    """Fine structure that is left, as a share of its amplitude."""
    was, is_now = spread(reference.busy[scale], 2), spread(candidate.busy[scale], 2)
    return np.sqrt((is_now + 0.3) / (was + 0.3))
