"""Transparency and display: what alpha a picture has, its look on a background, and how a browser
enlarges it.

Pixels are 8-bit codes, shape (H, W, 3), or (H, W, 4) with straight alpha.
"""

import cv2
import numpy as np
from numba import njit

from lean_parcel.core.arrays import U8
from lean_parcel.core.picture.gamut import Gamut, colour_in


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


def over_background(pixels: U8, background: str, gamut: Gamut = "srgb") -> U8:
    """The picture, in a gamut, on a flat colour of the page (`#rrggbb`, sRGB), shape (H, W, 3);
    blended as codes, as browsers do."""
    if not has_alpha(pixels):
        return pixels
    made: U8 = _blended(np.ascontiguousarray(pixels), colour_in(background, gamut))
    return made


def with_hidden_filled(pixels: U8) -> U8:
    """The picture, (H, W, 4), with colours that hardly or not at all show through brought as near
    to those around them as changes nothing shown by more than half a code, so that they cost few
    bytes."""
    alpha = pixels[..., 3:].astype(np.float32)
    known = (alpha / 255) ** 2  # a colour of 8-bit samples is known to half a code over its alpha
    around = _pushed(pixels[..., :3] * known, known)
    most = 127.5 / np.maximum(alpha, 0.5)
    moved = np.clip(around - pixels[..., :3], -most, most)
    result = pixels.copy()
    result[..., :3] = np.rint(np.clip(pixels[..., :3] + np.trunc(moved), 0, 255))
    return result


def _pushed(sums: np.ndarray, weights: np.ndarray) -> np.ndarray:
    """Colours everywhere, given their weighted sums (H, W, 3) and weights (H, W, 1): pulled up a
    pyramid, and pushed down again where little is known (Gortler et al., The Lumigraph, 1996)."""
    means = np.asarray(sums / np.maximum(weights, 1e-9))
    height_px, width_px = weights.shape[:2]
    if height_px * width_px == 1 or (weights >= 1).all():
        return means
    half_px = -(-width_px // 2), -(-height_px // 2)
    half = [4 * cv2.resize(each, half_px, interpolation=cv2.INTER_AREA) for each in (sums, weights)]
    half_weights = half[1][..., None]
    scale = np.maximum(half_weights, 1)
    around = _pushed(half[0] / scale, half_weights / scale)
    spread = _bilinear(around, width_px, height_px).reshape(means.shape)
    return np.asarray(weights * means + (1 - weights) * spread)


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
