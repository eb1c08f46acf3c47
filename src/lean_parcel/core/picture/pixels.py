"""Transparency and display: what alpha a picture has, its look on a background, and how a browser
enlarges it.

Pixels are 8-bit sRGB, shape (H, W, 3), or (H, W, 4) with straight alpha.
"""

import cv2
import numpy as np
from numba import njit

from lean_parcel.core.arrays import U8


def has_alpha(pixels: U8) -> bool:
    """Whether the picture carries an alpha channel."""
    return bool(pixels.shape[2] == 4)


def is_opaque(pixels: U8) -> bool:
    """Whether every pixel is opaque."""
    return not has_alpha(pixels) or bool((pixels[..., 3] == 255).all())


def is_grey(pixels: U8) -> bool:
    """Whether every pixel is grey."""
    red, green, blue = (pixels[..., channel] for channel in range(3))
    return bool((red == green).all() and (green == blue).all())


def over_background(pixels: U8, background: str) -> U8:
    """The picture on a flat colour (`#rrggbb`), shape (H, W, 3), blended in sRGB as browsers do."""
    if not has_alpha(pixels):
        return pixels
    colour = np.frombuffer(bytes.fromhex(background.removeprefix("#")), np.uint8)
    made: U8 = _blended(np.ascontiguousarray(pixels), colour)
    return made


@njit(cache=True)
def _blended(pixels: U8, colour: U8) -> U8:
    """`(code * alpha + colour * (255 - alpha)) / 255`, rounded."""
    height_px, width_px, _ = pixels.shape
    out = np.empty((height_px, width_px, 3), np.uint8)
    for y in range(height_px):
        for x in range(width_px):
            alpha = np.uint32(pixels[y, x, 3])
            for band in range(3):
                mixed = np.uint32(pixels[y, x, band]) * alpha + np.uint32(colour[band]) * (
                    np.uint32(255) - alpha
                )
                out[y, x, band] = np.uint8((mixed + np.uint32(127)) // np.uint32(255))
    return out


def enlarged(pixels: U8, width_px: int, height_px: int) -> U8:
    """The picture as a browser enlarges it: bilinear in sRGB, on premultiplied alpha.

    Measured against Debian's Chromium on hard edges and grain, enlarged up to 2.8 times: 0.7 codes
    of difference on average, 7 at most (tests/e2e/test_enlargement.py).
    """
    if pixels.shape[1::-1] == (width_px, height_px):
        return pixels
    if not has_alpha(pixels):
        return _bilinear(pixels, width_px, height_px)
    alpha = pixels[..., 3:].astype(np.float32) / 255
    spread = _bilinear(
        np.concatenate([pixels[..., :3] * alpha, alpha], axis=2), width_px, height_px
    )
    colour = spread[..., :3] / np.maximum(spread[..., 3:], 1e-6)
    straight = np.concatenate([colour, spread[..., 3:] * 255], 2)
    return np.asarray(np.rint(straight.clip(0, 255)), np.uint8)


def _bilinear(values: np.ndarray, width_px: int, height_px: int) -> np.ndarray:
    return np.asarray(cv2.resize(values, (width_px, height_px), interpolation=cv2.INTER_LINEAR))
