"""How much of the grid of a JPEG's blocks is seen in it, without anything to compare it with.

A step between two neighbouring blocks is judged along the eight pixels of their border, and against
how busy it is around. Texture and edges have such steps at every column; what the columns of the
grid have more of is damage (the idea of Wang, Bovik and Evans, Blind Measurement of Blocking
Artifacts in Images, 2000).
"""

import cv2
import numpy as np

from lean_parcel.core.arrays import F32, U8

_BLOCK_PX = 8
#: A step of so many codes is seen where nothing else is.
_SEEN_CODES = 2.0
#: Rows that are looked at together, and pixels that are looked at at most.
_STRIPE_PX, _MOST_PX = 64, 4_000_000


def visible_block_share(luma: U8) -> float:
    """The share of the borders of blocks that are seen, 0 to 1, of a JPEG's luma, (H, W), 8-bit,
    with the pixels of its file; 0 where there are too few of them."""
    if min(luma.shape) < 3 * _BLOCK_PX:
        return 0.0
    sample = _sample(luma).astype(np.float32)
    return max(0.0, float(np.mean([_share_across(sample), _share_across(sample.T)])))


def _sample(luma: U8) -> U8:
    """Stripes of whole blocks, evenly spread down a large picture."""
    height_px, width_px = luma.shape
    count = _MOST_PX // (width_px * _STRIPE_PX)
    stripes = height_px // _STRIPE_PX
    if count >= stripes:
        return luma
    chosen = np.linspace(0, stripes - 1, max(1, count)).astype(int)
    return np.concatenate([luma[_STRIPE_PX * i : _STRIPE_PX * (i + 1)] for i in chosen])


def _share_across(luma: F32) -> float:
    """How much more often a step is seen at the columns of the grid than at the others."""
    rows = luma.shape[0] // _BLOCK_PX * _BLOCK_PX
    slopes = np.diff(luma[:rows], axis=1)
    steps = slopes[:, 1:-1] - (slopes[:, :-2] + slopes[:, 2:]) / 2
    by_block = (rows // _BLOCK_PX, _BLOCK_PX, -1)
    steps = np.abs(steps.reshape(by_block).mean(1))
    busy = np.abs(slopes).reshape(by_block).mean(1)
    around = cv2.blur(busy, (_BLOCK_PX + 1, 1))[:, 1:-1]
    is_seen = steps > _SEEN_CODES + around
    column = (np.arange(is_seen.shape[1]) + 2) % _BLOCK_PX
    shares = [float(is_seen[:, column == offset].mean()) for offset in range(_BLOCK_PX)]
    return shares[0] - float(np.median(shares[1:]))
