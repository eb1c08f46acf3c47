"""Empty margins: sides of one colour, of nearly one colour, or transparent, found to the pixel.

Each side is judged by its outermost line: if that is even, the lines that follow belong to the
margin for as long as they keep its colour. Grain, as in a scan of paper, widens the tolerance.
"""

import numpy as np

from lean_parcel.core.arrays import U8
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.pixels import has_alpha

#: What always counts as the same colour: the grain of paper, and what JPEG makes of a flat area.
_TOLERANCE_CODES = 14.0
_GRAIN_SIGMAS = 4.0
#: A line that varies more than this is no margin.
_MAX_SIGMA_CODES = 3.0
_FAINT_ALPHA = 2
#: The share of a line that may stand out where there is grain: its far ends, and specks.
_SHARE_OF_SPECKS = 0.004
#: How far paper may get darker or lighter on the way in, in tolerances: scans are lit unevenly.
_MAX_SHADING = 1.0


def find_margins(pixels: U8) -> Box | None:
    """What lies inside the empty margins of 8-bit pixels, (H, W, 3) or (H, W, 4); None where there
    are none, or nothing else. About 50 ms for 10 megapixels with wide margins."""
    height_px, width_px = pixels.shape[:2]
    lines = pixels[..., 3:] if has_alpha(pixels) else pixels
    top_px = _margin(lines)
    bottom_px = _margin(lines[::-1])
    if top_px + bottom_px >= height_px:
        return None
    columns = lines[top_px : height_px - bottom_px].swapaxes(0, 1)
    left_px, right_px = _margin(columns), _margin(columns[::-1])
    if left_px + right_px >= width_px or not (top_px or bottom_px or left_px or right_px):
        return None
    return Box(
        left_px=left_px,
        top_px=top_px,
        width_px=width_px - left_px - right_px,
        height_px=height_px - top_px - bottom_px,
    )


def _margin(lines: U8) -> int:
    """How many lines, (N, length, bands), from the first on are of one colour; of alpha alone,
    shape (N, length, 1), how many are empty."""
    if lines.shape[2] == 1:
        is_margin = (lines <= _FAINT_ALPHA).all(axis=(1, 2))
        return int(is_margin.argmin()) if not is_margin.all() else len(lines)
    first = lines[0].astype(np.float32)
    colour = np.median(first, axis=0)
    sigma = float((np.median(np.abs(first - colour), axis=0) * 1.4826).max())
    if sigma > _MAX_SIGMA_CODES:
        return 0
    tolerance = _TOLERANCE_CODES + _GRAIN_SIGMAS * sigma
    may_stand_out = _SHARE_OF_SPECKS * lines.shape[1] if sigma else 0
    for index, line in enumerate(lines):
        shade = np.median(line, axis=0)
        if np.abs(shade - colour).max() > _MAX_SHADING * tolerance:
            return index
        difference = np.abs(line - shade).max(axis=1)
        if (difference > tolerance).sum() > may_stand_out:
            return index
    return len(lines)
