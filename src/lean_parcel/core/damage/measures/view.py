"""What the measures need of one picture, computed once: its lightness at several scales, how
busy it is at each, and its colours.

Maps stand on *cells* of CELL_PX x CELL_PX pixels of the place. Lightness is the Y of XYB (ISO/IEC
18181-1) times 118.3, so that white is 100 and a step of 1 is close to one of CIE L*.
"""

from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from numba import njit

from lean_parcel.core.arrays import F32, U8
from lean_parcel.core.likeness import kernels, ssimulacra2
from lean_parcel.core.picture.gamut import P3_TO_SRGB, Gamut

CELL_PX = 8
#: Scales: full size, and 2, 4 and 8 times coarser; at the last a pixel is a cell.
SCALES = 4
#: With fewer pixels a picture has not all scales, and is continued by its mirror image.
LEAST_SIDE_PX = ssimulacra2.MIN_SIDE_PX << (SCALES - 1)
#: What is finer than an area, as sigma in cells.
_FINE = 2
#: From XYB's Y to lightness, and what black has there.
_LIGHTNESS, _BLACK = np.float32(118.3), np.float32(0.01)
#: Linear sRGB to cone responses, and those to OKLab (Ottosson, 2020).
_TO_CONES = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ],
    np.float32,
)
_TO_OKLAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ],
    np.float32,
)
_CONES_OF: dict[Gamut, F32] = {
    "srgb": _TO_CONES,
    "display-p3": np.asarray(_TO_CONES @ P3_TO_SRGB, np.float32),
}


@dataclass(frozen=True)
class View:
    """One picture: 8-bit codes of a gamut, (H, W, 3), with sides of at least LEAST_SIDE_PX, and its
    XYB planes by scale, each (3, h, w) float32."""

    codes: U8
    gamut: Gamut
    xyb: list[F32]

    @property
    def shape(self) -> tuple[int, int]:
        """Rows and columns of cells."""
        height_px, width_px = self.codes.shape[:2]
        return -(-height_px // CELL_PX), -(-width_px // CELL_PX)

    @cached_property
    def lightness(self) -> list[F32]:
        """By scale, (h, w) float32, 0 to 100."""
        return [(planes[1] - _BLACK) * _LIGHTNESS for planes in self.xyb[:SCALES]]

    @cached_property
    def activity(self) -> list[F32]:
        """Local variance of the lightness by scale, within 5 x 5 pixels of it, but the last."""
        return [_variance(plane) for plane in self.lightness[: SCALES - 1]]

    @cached_property
    def busy(self) -> list[F32]:
        """`activity` by cell."""
        return [
            spread(to_cells(activity, self.shape, scale), 1)
            for scale, activity in enumerate(self.activity)
        ]

    @cached_property
    def oklab(self) -> F32:
        """OKLab times 100 at half the size, (h, w, 3) float32; averaged in gamma-coded samples, as
        chroma subsampling does."""
        height_px, width_px = self.codes.shape[:2]
        size_px = (-(-width_px // 2), -(-height_px // 2))
        half = np.asarray(cv2.resize(self.codes, size_px, interpolation=cv2.INTER_AREA), np.uint8)
        made: F32 = _oklab(half, kernels.LINEAR_OF_CODE, _CONES_OF[self.gamut], _TO_OKLAB)
        return made

    @cached_property
    def edges(self) -> tuple[F32, F32]:
        """The amplitudes of lightness and of colour around each cell that are finer than an
        area."""
        lightness, colour = fine_energies(self.oklab, self.oklab_cells, self.shape)
        return np.sqrt(lightness), np.sqrt(colour)

    @cached_property
    def oklab_cells(self) -> F32:
        """`oklab` by cell."""
        return to_cells(self.oklab, self.shape, 1)


def view_of(codes: U8, gamut: Gamut, xyb: list[F32] | None = None) -> View:
    """The view of 8-bit codes (H, W, 3), with their XYB planes where they are known; a small
    picture is continued at its right and bottom."""
    below, beside = (max(LEAST_SIDE_PX - side, 0) for side in codes.shape[:2])
    if below or beside:
        codes = np.pad(codes, ((0, below), (0, beside), (0, 0)), "symmetric")
    levels = xyb or ssimulacra2.levels_xyb(codes, gamut)
    return View(codes, gamut, _without_more(levels, codes.shape[:2]))


def _without_more(xyb: list[F32], size_px: tuple[int, ...]) -> list[F32]:
    """The scales that are used, without what the likeness continues them by."""
    height_px, width_px = size_px
    return [
        planes[:, : -(-height_px >> scale), : -(-width_px >> scale)]
        for scale, planes in enumerate(xyb[:SCALES])
    ]


def _variance(plane: F32) -> F32:
    mean = cv2.blur(plane, (5, 5), borderType=cv2.BORDER_REFLECT)
    square = cv2.sqrBoxFilter(plane, cv2.CV_32F, (5, 5), borderType=cv2.BORDER_REFLECT)
    return np.maximum(square - mean * mean, 0)


@njit(cache=True, fastmath=True, error_model="numpy")
def _oklab(codes: U8, linear_of_code: F32, to_cones: F32, to_oklab: F32) -> F32:
    height_px, width_px, _ = codes.shape
    out = np.empty((height_px, width_px, 3), np.float32)
    cones = np.empty((3, width_px), np.float32)
    roots = np.empty((3, width_px), np.float32)
    for y in range(height_px):
        for i in range(3):
            row = cones[i]
            for x in range(width_px):
                row[x] = np.float32(1e-9)
                for band in range(3):
                    row[x] += to_cones[i, band] * linear_of_code[codes[y, x, band]]
            kernels.cube_roots(row, roots[i])
        for x in range(width_px):
            for i in range(3):
                mixed = np.float32(0.0)
                for j in range(3):
                    mixed += to_oklab[i, j] * roots[j, x]
                out[y, x, i] = np.float32(100.0) * mixed
    return out


def fine_energies(planes: F32, by_cell: F32, shape: tuple[int, int]) -> tuple[F32, F32]:
    """By cell, the energy of OKLab planes at half the size that is finer than an area: of
    lightness, and of both colours."""
    size = (shape[1] * CELL_PX // 2, shape[0] * CELL_PX // 2)
    coarse = cv2.resize(spread(by_cell, _FINE), size, interpolation=cv2.INTER_LINEAR)
    fine = planes - coarse[: planes.shape[0], : planes.shape[1]]
    squares = spread(to_cells(fine * fine, shape, 1), 1)
    return squares[..., 0], squares[..., 1] + squares[..., 2]


def to_cells(plane: F32, shape: tuple[int, int], scale: int) -> F32:
    """Means by cell of a plane at a scale; what is missing of the last cells repeats its edge."""
    side = CELL_PX >> scale
    padded = pad_to_cells(plane, shape, scale)
    if side == 1:
        return padded
    return np.asarray(cv2.resize(padded, shape[::-1], interpolation=cv2.INTER_AREA), np.float32)


def pad_to_cells(plane: F32, shape: tuple[int, int], scale: int) -> F32:
    """A plane at a scale made to consist of whole cells."""
    side = CELL_PX >> scale
    height, width = plane.shape[:2]
    below, beside = shape[0] * side - height, shape[1] * side - width
    if not below and not beside:
        return plane
    return np.asarray(cv2.copyMakeBorder(plane, 0, below, 0, beside, cv2.BORDER_REPLICATE))


def spread(plane: F32, sigma: float) -> F32:
    """Gaussian blur, mirrored at the edges."""
    return np.asarray(cv2.GaussianBlur(plane, (0, 0), sigma, borderType=cv2.BORDER_REFLECT))
