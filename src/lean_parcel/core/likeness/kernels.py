"""The inner loops of the likeness measure, compiled by numba and cached on disk.

Owns nothing but arithmetic: every function works on contiguous float32 or uint8 arrays, allocates
only row buffers, and runs on one thread, since each worker process already has a core to itself.
The blur is the 11-tap Gaussian (sigma 1.5) of SSIMULACRA 2, mirrored at the top and bottom edge and
zero at the left and right, as the Python package `ssimulacra2` has it, our tests' reference.
"""

import numpy as np
from numba import njit

from lean_parcel.core.arrays import F32, U8

RADIUS_PX = 5
_taps = np.exp(-0.5 * (np.arange(RADIUS_PX + 1) / 1.5) ** 2)
#: One half of the symmetric kernel: the centre tap first.
TAPS = (_taps / (_taps[0] + 2 * _taps[1:].sum())).astype(np.float32)

_SRGB = np.arange(256) / 255.0
#: Linear light of each 8-bit sRGB code, IEC 61966-2-1.
LINEAR_OF_CODE = np.where(_SRGB <= 0.04045, _SRGB / 12.92, ((_SRGB + 0.055) / 1.055) ** 2.4).astype(
    np.float32
)

# Opsin absorbance of JPEG XL (ISO/IEC 18181-1), as in SSIMULACRA 2.
_M02, _M00, _M12, _M10 = 0.078, 0.30, 0.078, 0.23
_M20, _M21 = 0.24342268924547819, 0.20476744424496821
ABSORBANCE = np.array(
    [
        [_M00, 1.0 - _M02 - _M00, _M02],
        [_M10, 1.0 - _M12 - _M10, _M12],
        [_M20, _M21, 1.0 - _M20 - _M21],
    ],
    dtype=np.float32,
)
BIAS = np.float32(0.0037930732552754493)
BIAS_ROOT = np.float32(np.cbrt(0.0037930732552754493))
C2 = np.float32(0.0009)


@njit(cache=True, fastmath=True, error_model="numpy")
def to_linear(srgb: U8, lut: F32) -> F32:
    """Linear light, shape (3, H, W), of 8-bit sRGB, shape (H, W, 3)."""
    height, width, _ = srgb.shape
    linear = np.empty((3, height, width), np.float32)
    for y in range(height):
        for x in range(width):
            linear[0, y, x] = lut[srgb[y, x, 0]]
            linear[1, y, x] = lut[srgb[y, x, 1]]
            linear[2, y, x] = lut[srgb[y, x, 2]]
    return linear


@njit(cache=True, fastmath=True, error_model="numpy")
def halve(linear: F32) -> F32:
    """Mean of each 2 x 2 block, shape (3, ceil(H / 2), ceil(W / 2)); the last row or column is
    repeated where the size is odd."""
    _, height, width = linear.shape
    out_height, out_width = (height + 1) // 2, (width + 1) // 2
    out = np.empty((3, out_height, out_width), np.float32)
    for c in range(3):
        for y in range(out_height):
            top = linear[c, 2 * y]
            bottom = linear[c, min(2 * y + 1, height - 1)]
            for x in range(width // 2):
                out[c, y, x] = np.float32(0.25) * (
                    top[2 * x] + top[2 * x + 1] + bottom[2 * x] + bottom[2 * x + 1]
                )
            if width % 2:
                out[c, y, out_width - 1] = np.float32(0.5) * (top[width - 1] + bottom[width - 1])
    return out


@njit(cache=True, fastmath=True, error_model="numpy")
def cube_roots(values: F32, roots: F32) -> None:
    """Cube roots of a row of positive numbers: an estimate from the exponent bits (Kahan), then two
    steps of Halley's method, exact to float32."""
    bits = values.view(np.int32)
    guess = roots.view(np.int32)
    for i in range(values.size):
        guess[i] = np.int32(bits[i] // np.int32(3)) + np.int32(709921077)
    for i in range(values.size):
        value, root = values[i], roots[i]
        for _ in range(2):
            cube = root * root * root
            root = root * (cube + value + value) / (cube + cube + value)
        roots[i] = root


@njit(cache=True, fastmath=True, error_model="numpy")
def to_xyb(linear: F32, matrix: F32) -> F32:
    """Positive XYB planes, shape (3, H, W), of linear light of the same shape."""
    _, height, width = linear.shape
    xyb = np.empty_like(linear)
    mixed = np.empty((3, width), np.float32)
    roots = np.empty((3, width), np.float32)
    for y in range(height):
        red, green, blue = linear[0, y], linear[1, y], linear[2, y]
        for c in range(3):
            from_red, from_green, from_blue = matrix[c, 0], matrix[c, 1], matrix[c, 2]
            row = mixed[c]
            for x in range(width):
                row[x] = from_red * red[x] + from_green * green[x] + from_blue * blue[x] + BIAS
            cube_roots(row, roots[c])
        for x in range(width):
            long, middle, short = (
                roots[0, x] - BIAS_ROOT,
                roots[1, x] - BIAS_ROOT,
                roots[2, x] - BIAS_ROOT,
            )
            luma = np.float32(0.5) * (long + middle)
            xyb[0, y, x] = np.float32(7.0) * (long - middle) + np.float32(0.42)
            xyb[1, y, x] = luma + np.float32(0.01)
            xyb[2, y, x] = short - luma + np.float32(0.55)
    return xyb


@njit(cache=True, inline="always")
def _mirrored(row: int, height: int) -> int:
    """The row that stands for one outside the picture, which is at least RADIUS_PX rows high."""
    if row < 0:
        return -row - 1
    return min(row, 2 * height - 1 - row)


@njit(cache=True, fastmath=True, error_model="numpy", inline="always")
def _blur_row(padded: F32, taps: F32, out: F32) -> None:
    """Horizontal blur of a row that has RADIUS_PX zeros on both sides."""
    t0, t1, t2, t3, t4, t5 = taps[0], taps[1], taps[2], taps[3], taps[4], taps[5]
    for x in range(out.size):
        out[x] = (
            t0 * padded[x + 5]
            + t1 * (padded[x + 4] + padded[x + 6])
            + t2 * (padded[x + 3] + padded[x + 7])
            + t3 * (padded[x + 2] + padded[x + 8])
            + t4 * (padded[x + 1] + padded[x + 9])
            + t5 * (padded[x] + padded[x + 10])
        )


@njit(cache=True, fastmath=True, error_model="numpy")
def blur_moments(plane: F32, taps: F32) -> tuple[F32, F32]:
    """Blurred plane and blurred square of a plane, each of shape (H, W)."""
    height, width = plane.shape
    mean = np.empty_like(plane)
    square = np.empty_like(plane)
    column_mean = np.empty(width + 2 * RADIUS_PX, np.float32)
    column_square = np.empty(width + 2 * RADIUS_PX, np.float32)
    for y in range(height):
        column_mean[:] = 0
        column_square[:] = 0
        for k in range(-RADIUS_PX, RADIUS_PX + 1):
            tap, row = taps[abs(k)], plane[_mirrored(y + k, height)]
            for x in range(width):
                weighted = tap * row[x]
                column_mean[x + RADIUS_PX] += weighted
                column_square[x + RADIUS_PX] += weighted * row[x]
        _blur_row(column_mean, taps, mean[y])
        _blur_row(column_square, taps, square[y])
    return mean, square


@njit(cache=True, fastmath=True, error_model="numpy")
def compare_plane(
    reference: F32, reference_mean: F32, reference_square: F32, candidate: F32, taps: F32
) -> np.ndarray:
    """The six pooled errors of one plane: SSIM, added edges and lost edges, each as its mean and
    as its fourth-power mean, in that order. One pass over the picture, nothing stored but rows.

    1 - SSIM is computed from the blurred squared difference, which equals the published form but
    does not cancel in float32: identical planes give zero.
    """
    height, width = reference.shape
    totals = np.zeros(6, np.float64)
    columns = np.empty((3, width + 2 * RADIUS_PX), np.float32)
    blurred = np.empty((3, width), np.float32)
    one, zero = np.float32(1.0), np.float32(0.0)
    for y in range(height):
        columns[:] = 0
        mean_column, square_column, error_column = columns[0], columns[1], columns[2]
        for k in range(-RADIUS_PX, RADIUS_PX + 1):
            at = _mirrored(y + k, height)
            tap, row, other = taps[abs(k)], candidate[at], reference[at]
            for x in range(width):
                weighted = tap * row[x]
                mean_column[x + RADIUS_PX] += weighted
                square_column[x + RADIUS_PX] += weighted * row[x]
                difference = row[x] - other[x]
                error_column[x + RADIUS_PX] += tap * difference * difference
        for i in range(3):
            _blur_row(columns[i], taps, blurred[i])
        mean2_row, square2_row, error_row = blurred[0], blurred[1], blurred[2]
        mean1_row, square1_row = reference_mean[y], reference_square[y]
        row1, row2 = reference[y], candidate[y]
        ssim1 = ssim4 = added1 = added4 = lost1 = lost4 = zero
        for x in range(width):
            mean1, mean2 = mean1_row[x], mean2_row[x]
            shift = (mean1 - mean2) * (mean1 - mean2)
            variance = square1_row[x] - mean1 * mean1 + square2_row[x] - mean2 * mean2 + C2
            structure = (error_row[x] - shift) / variance
            error = max(structure + shift - shift * structure, zero)
            ssim1 += error
            ssim4 += (error * error) * (error * error)
            edge = (one + abs(row2[x] - mean2)) / (one + abs(row1[x] - mean1)) - one
            added, lost = max(edge, zero), max(-edge, zero)
            added1 += added
            added4 += (added * added) * (added * added)
            lost1 += lost
            lost4 += (lost * lost) * (lost * lost)
        totals[0] += ssim1
        totals[1] += ssim4
        totals[2] += added1
        totals[3] += added4
        totals[4] += lost1
        totals[5] += lost4
    totals /= height * width
    for i in range(1, 6, 2):
        totals[i] = totals[i] ** 0.25
    return totals
