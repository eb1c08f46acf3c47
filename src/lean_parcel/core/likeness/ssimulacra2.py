"""SSIMULACRA 2 (Sneyers, 2022): how much a candidate still looks like its reference.

Written after the published description and weights in libjxl (`tools/ssimulacra2.cc`, version 2.1),
in float32 and in one pass a plane. Differences from it: the blur is an 11-tap Gaussian, not a
recursive one; what depends on the reference alone is computed once and kept; and every picture is
continued by its mirror image to whole pixels of the coarsest scale, since the published weights
belong to all six, and a last column of it that stands for one pixel would count for 32.
"""

from dataclasses import dataclass

import cv2
import numpy as np

from lean_parcel.core.arrays import F32, U8
from lean_parcel.core.likeness import kernels
from lean_parcel.core.likeness.weights import WEIGHTS
from lean_parcel.core.picture.gamut import P3_TO_SRGB, Gamut

SCALES = 6
#: Below this a scale says nothing.
MIN_SIDE_PX = 8
#: A pixel of the coarsest scale, in pixels of the picture.
_COARSEST_PX = 1 << (SCALES - 1)
#: By plane, scale, norm and kind.
_WEIGHTS = WEIGHTS.reshape(3, SCALES, 2, 3)
#: A plane of a scale whose weights come to no more than this is not compared: seven of eighteen, of
#: which two are of full size. What is left out moves no score by a hundredth of a point.
_NEXT_TO_NOTHING = 0.01
_ABSORBANCE: dict[Gamut, F32] = {
    "srgb": kernels.ABSORBANCE,
    "display-p3": (kernels.ABSORBANCE @ P3_TO_SRGB).astype(np.float32),
}


@dataclass(frozen=True, slots=True)
class PyramidLevel:
    """One scale of the reference: XYB planes and their blurred moments, each (3, H, W) float32."""

    xyb: F32
    means: F32
    squares: F32


def levels_xyb(codes: U8, gamut: Gamut) -> list[F32]:
    """Positive XYB planes (3, H, W) of 8-bit codes (H, W, 3), continued, by scale: full size first,
    then by halves of linear light."""
    linear = kernels.to_linear(_continued(codes), kernels.LINEAR_OF_CODE)
    levels = [kernels.to_xyb(linear, _ABSORBANCE[gamut])]
    while len(levels) < SCALES:
        linear = kernels.halve(linear)
        levels.append(kernels.to_xyb(linear, _ABSORBANCE[gamut]))
    return levels


def _continued(codes: U8) -> U8:
    """A picture mirrored at its right and bottom, where coders continue it too, until its sides are
    whole pixels of the coarsest scale, and no fewer than MIN_SIDE_PX of them."""
    below, beside = (
        max(MIN_SIDE_PX, -(-side // _COARSEST_PX)) * _COARSEST_PX - side for side in codes.shape[:2]
    )
    if not below and not beside:
        return codes
    return np.asarray(cv2.copyMakeBorder(codes, 0, below, 0, beside, cv2.BORDER_REFLECT), np.uint8)


def prepare(codes: U8, gamut: Gamut = "srgb") -> list[PyramidLevel]:
    """What a comparison needs of the reference, 8-bit codes of the gamut, (H, W, 3); 48 bytes a
    pixel."""
    pyramid = []
    for xyb in levels_xyb(codes, gamut):
        means, squares = np.empty_like(xyb), np.empty_like(xyb)
        for plane in range(3):
            means[plane], squares[plane] = kernels.blur_moments(xyb[plane], kernels.TAPS)
        pyramid.append(PyramidLevel(xyb, means, squares))
    return pyramid


def score(pyramid: list[PyramidLevel], levels: list[F32]) -> float:
    """The score of a candidate's `levels_xyb` against a prepared reference of the same size.

    100 is identical; 90 no visible difference, 70 high quality, 50 medium, below 0 ruined.
    """
    errors = np.zeros((3, SCALES, 6))
    counts = _WEIGHTS.sum((2, 3)) > _NEXT_TO_NOTHING
    for scale, (level, xyb) in enumerate(zip(pyramid, levels, strict=True)):
        for plane in np.flatnonzero(counts[:, scale]):
            errors[plane, scale] = kernels.compare_plane(
                level.xyb[plane], level.means[plane], level.squares[plane], xyb[plane], kernels.TAPS
            )
    return _pool(errors)


def _pool(errors: np.ndarray) -> float:
    """The published mapping of pooled errors, (3 planes, scales, 6), to a score."""
    by_norm = errors.reshape(3, SCALES, 3, 2).swapaxes(2, 3)
    total = float((_WEIGHTS * np.abs(by_norm)).sum()) * 0.9562382616834844
    total = (
        2.326765642916932 * total
        - 0.020884521182843837 * total**2
        + 6.248496625763138e-05 * total**3
    )
    return 100.0 - 10.0 * total**0.6276336467831387 if total > 0 else 100.0
