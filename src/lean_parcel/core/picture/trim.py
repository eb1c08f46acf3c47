"""Empty margins: sides of one colour, of nearly one colour, or transparent, found to the pixel.

Each side is judged by its outermost line: if that is even, the lines that follow belong to the
margin for as long as they keep its colour. Single pixels may differ as those do that a coder leaves
around edges; what differs alike over some length, as a pale area or a soft shadow does, is no
margin, however little it is. Grain, as in a scan, widens the tolerances; and a sheet that lies in
the margin and is even on all four sides, like paper in a scanner, belongs to it.
"""

from dataclasses import dataclass

import cv2
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
#: What differs by more than this along so many pixels is seen as an area.
_AREA_CODES, _AREA_PX = 2.0, 9


def find_margins(pixels: U8) -> Box | None:
    """What lies inside the empty margins of 8-bit pixels, (H, W, 3) or (H, W, 4); None where there
    are none, or nothing else. About 50 ms for 10 megapixels with wide margins."""
    lines = pixels[..., 3:] if has_alpha(pixels) else pixels
    sides = _sides(lines, sees_areas=True)
    if lines.shape[2] > 1:
        with_sheet = _sides(lines, sees_areas=False)
        if all(each.is_sheet for each in with_sheet):
            sides = with_sheet
    height_px, width_px = pixels.shape[:2]
    top_px, bottom_px, left_px, right_px = (side.lines for side in sides)
    if (
        top_px + bottom_px >= height_px
        or left_px + right_px >= width_px
        or not any(side.lines for side in sides)
    ):
        return None
    return Box(
        left_px=left_px,
        top_px=top_px,
        width_px=width_px - left_px - right_px,
        height_px=height_px - top_px - bottom_px,
    )


@dataclass(frozen=True, slots=True)
class _Side:
    """How many lines of a side are its margin, and whether a sheet of another colour begins in
    it."""

    lines: int
    is_sheet: bool = False


def _sides(lines: U8, *, sees_areas: bool) -> tuple[_Side, _Side, _Side, _Side]:
    """Top, bottom, left and right."""
    top, bottom = (_side(each, sees_areas=sees_areas) for each in (lines, lines[::-1]))
    start = min(top.lines, len(lines) - 1)
    inside = lines[start : max(len(lines) - bottom.lines, start + 1)].swapaxes(0, 1)
    left, right = (_side(each, sees_areas=sees_areas) for each in (inside, inside[::-1]))
    return top, bottom, left, right


def _side(lines: U8, *, sees_areas: bool) -> _Side:
    """The margin of lines, (N, length, bands), from the first on; of alpha alone, (N, length, 1),
    those that are empty."""
    if lines.shape[2] == 1:
        is_margin = (lines <= _FAINT_ALPHA).all(axis=(1, 2))
        return _Side(int(is_margin.argmin()) if not is_margin.all() else len(lines))
    first = lines[0].astype(np.float32)
    colour = np.median(first, axis=0)
    sigma = float((np.median(np.abs(first - colour), axis=0) * 1.4826).max())
    if sigma > _MAX_SIGMA_CODES:
        return _Side(0)
    tolerance = _TOLERANCE_CODES + _GRAIN_SIGMAS * sigma
    area_tolerance = _AREA_CODES + _GRAIN_SIGMAS * sigma / _AREA_PX**0.5
    may_stand_out = _SHARE_OF_SPECKS * lines.shape[1] if sigma else 0
    is_sheet = False
    for index, line in enumerate(lines):
        shade = np.median(line, axis=0)
        drift = float(np.abs(shade - colour).max())
        difference = line - shade
        stands_out = np.abs(difference).max(axis=1) > tolerance
        if sees_areas:
            areas = cv2.blur(difference.reshape(-1, 1, 3), (1, _AREA_PX)).reshape(-1, 3)
            stands_out |= np.abs(areas).max(axis=1) > area_tolerance
        most = area_tolerance if sees_areas else tolerance
        if drift > most or stands_out.sum() > may_stand_out:
            return _Side(index, is_sheet)
        is_sheet = drift > area_tolerance
    return _Side(len(lines), is_sheet)
