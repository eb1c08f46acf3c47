"""The eight orientations of EXIF (EXIF 2.32, tag 0112): quarter turns and flips.

An orientation says how a stored picture is shown. Each is a signed permutation of rows and columns,
so two of them in a row are again one of the eight.
"""

from collections.abc import Callable

import numpy as np

from lean_parcel.core.arrays import U8
from lean_parcel.core.picture.box import Box

UPRIGHT, MIRRORED, CLOCKWISE, ANTICLOCKWISE = 1, 2, 6, 8
#: (stored row, stored column) from (shown row, shown column), both counted from the centre.
_MATRICES = {
    1: ((1, 0), (0, 1)),
    2: ((1, 0), (0, -1)),
    3: ((-1, 0), (0, -1)),
    4: ((-1, 0), (0, 1)),
    5: ((0, 1), (1, 0)),
    6: ((0, -1), (1, 0)),
    7: ((0, -1), (-1, 0)),
    8: ((0, 1), (-1, 0)),
}
_CODES = {matrix: code for code, matrix in _MATRICES.items()}
_SHOWN: dict[int, Callable[[U8], U8]] = {
    1: lambda stored: stored,
    2: lambda stored: stored[:, ::-1],
    3: lambda stored: np.rot90(stored, 2),
    4: lambda stored: stored[::-1],
    5: lambda stored: stored.swapaxes(0, 1),
    6: lambda stored: np.rot90(stored, -1),
    7: lambda stored: np.rot90(stored.swapaxes(0, 1), 2),
    8: lambda stored: np.rot90(stored, 1),
}


def shown(stored: U8, orientation: int) -> U8:
    """A stored picture, shape (H, W, bands), as it is shown; contiguous."""
    return np.ascontiguousarray(_SHOWN[orientation](stored))


def shown_size_px(width_px: int, height_px: int, orientation: int) -> tuple[int, int]:
    """Width and height as shown, of a stored picture; and the other way round."""
    return (height_px, width_px) if orientation >= 5 else (width_px, height_px)


def combined(first: int, then: int) -> int:
    """The one orientation that shows a picture as `first` and, of that, `then` would."""
    matrix = np.array(_MATRICES[first]) @ np.array(_MATRICES[then])
    return _CODES[tuple(tuple(int(value) for value in row) for row in matrix)]  # type: ignore[index]


def is_mirrored(orientation: int) -> bool:
    """Whether lettering reads backwards, so that a turn by an angle turns the other way."""
    return orientation in (2, 4, 5, 7)


def stored_box(box: Box, orientation: int, width_px: int, height_px: int) -> Box:
    """Where a box of the shown picture is in the stored one, whose size is given."""
    (row_from_row, row_from_column), (column_from_row, column_from_column) = _MATRICES[orientation]
    is_swapped = orientation >= 5
    top_px, rows_px = (box.left_px, box.width_px) if is_swapped else (box.top_px, box.height_px)
    left_px, columns_px = (box.top_px, box.height_px) if is_swapped else (box.left_px, box.width_px)
    if row_from_row + row_from_column < 0:
        top_px = height_px - top_px - rows_px
    if column_from_row + column_from_column < 0:
        left_px = width_px - left_px - columns_px
    return Box(left_px=left_px, top_px=top_px, width_px=columns_px, height_px=rows_px)


def shown_box(box: Box, orientation: int, width_px: int, height_px: int) -> Box:
    """Where a box of the stored picture, whose size is given, is in the shown one."""
    size_px = shown_size_px(width_px, height_px, orientation)
    return stored_box(box, inverse(orientation), *size_px)


def inverse(orientation: int) -> int:
    """The orientation that undoes another."""
    return next(code for code in _MATRICES if combined(orientation, code) == UPRIGHT)
