"""FLIP (Andersson et al., 2020): how far apart two pictures look when one is flipped to the other.

The second opinion beside SSIMULACRA 2: made for another purpose, by other people, from other parts
(contrast sensitivity, a colour difference, edges and points). For displays of standard range;
written after the paper, with separable filters, in float32.
"""

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np

from lean_parcel.core.arrays import F32, U8
from lean_parcel.core.likeness.kernels import LINEAR_OF_CODE
from lean_parcel.core.picture.gamut import P3_TO_SRGB, Gamut

#: Pixels a degree: a display 0.7 m wide with 3840 pixels, seen from 0.7 m (the paper's).
PIXELS_A_DEGREE = 0.7 * 3840 / 0.7 * np.pi / 180
_TO_XYZ = np.array(
    [
        [10135552 / 24577794, 8788810 / 24577794, 4435075 / 24577794],
        [2613072 / 12288897, 8788810 / 12288897, 887015 / 12288897],
        [1425312 / 73733382, 8788810 / 73733382, 70074185 / 73733382],
    ]
)
_WHITE = _TO_XYZ.sum(1)
#: Contrast sensitivity of lightness, red-green and blue-yellow: sums of a1 and a2 Gaussians of
#: squared widths b1 and b2, in degrees.
_SENSITIVITY = (
    ((1.0, 0.0047), (0.0, 1e-5)),
    ((1.0, 0.0053), (0.0, 1e-5)),
    ((34.1, 0.04), (13.5, 0.025)),
)
_COLOUR_POWER, _FEATURE_POWER, _FEATURE_WIDTH_DEG = 0.7, 0.5, 0.082
_SHARE_OF_MOST, _SHARE_OF_SCALE = 0.4, 0.95


@dataclass(frozen=True, slots=True)
class Seen:
    """What a comparison needs of one picture: filtered colours in Hunt-adjusted CIELAB, (H, W, 3),
    and the strengths of its edges and points, (H, W) each, float32."""

    lab: F32
    edges: F32
    points: F32


def seen(codes: U8, gamut: Gamut = "srgb") -> Seen:
    """What is seen of 8-bit codes of a gamut, (H, W, 3)."""
    linear = LINEAR_OF_CODE[codes]
    if gamut == "display-p3":
        linear = linear @ P3_TO_SRGB.T.astype(np.float32)
    opponent = _opponent(linear)
    filtered = _inverse_opponent(_as_seen(opponent))
    edges, points = _features(np.asarray((opponent[..., 0] + 16) / 116, np.float32))
    return Seen(_hunt(_lab(np.clip(filtered, 0, 1))), edges, points)


def flip(reference: Seen, candidate: Seen) -> float:
    """The mean FLIP of a candidate: 0 is identical, 1 the largest difference there is."""
    difference = np.abs(reference.lab - candidate.lab)
    colour = difference[..., 0] + np.hypot(difference[..., 1], difference[..., 2])
    scaled = _redistributed(np.power(colour, np.float32(_COLOUR_POWER)))
    feature = np.maximum(
        np.abs(reference.edges - candidate.edges), np.abs(reference.points - candidate.points)
    )
    feature = np.power(feature / np.sqrt(2), np.float32(_FEATURE_POWER))
    return float(np.power(scaled, 1 - feature).mean())


def _opponent(linear: np.ndarray) -> F32:
    """YCxCz, the linear form of CIELAB."""
    matrix = (_TO_XYZ / _WHITE[:, None]).astype(np.float32)
    x, y, z = (linear @ row for row in matrix)
    opponent = np.stack([116 * y - 16, 500 * (x - y), 200 * (y - z)], 2)
    return np.asarray(opponent, np.float32)


def _inverse_opponent(opponent: F32) -> F32:
    y = (opponent[..., 0] + 16) / 116
    relative = np.stack([y + opponent[..., 1] / 500, y, y - opponent[..., 2] / 200], 2)
    matrix = np.linalg.inv(_TO_XYZ / _WHITE[:, None]).astype(np.float32)
    return np.asarray(relative @ matrix.T, np.float32)


def _as_seen(opponent: F32) -> F32:
    """Each plane without what is too fine to be seen in it."""
    radius = int(np.ceil(3 * np.sqrt(0.04 / (2 * np.pi**2)) * PIXELS_A_DEGREE))
    offsets = np.arange(-radius, radius + 1) / PIXELS_A_DEGREE
    planes = []
    for plane, gaussians in zip(np.moveaxis(opponent, 2, 0), _SENSITIVITY, strict=True):
        plane = np.ascontiguousarray(plane)
        taps = [np.exp(-(np.pi**2) * offsets**2 / b) for _, b in gaussians]
        weights = [a * np.sqrt(np.pi / b) for a, b in gaussians]
        shares = [w * tap.sum() ** 2 for w, tap in zip(weights, taps, strict=True)]
        total = sum(shares)
        planes.append(
            sum(
                share / total * _separable(plane, tap / tap.sum(), tap / tap.sum())
                for share, tap in zip(shares, taps, strict=True)
                if share
            )
        )
    return np.asarray(np.stack(planes, 2), np.float32)


def _features(lightness: F32) -> tuple[F32, F32]:
    """The strengths of edges and of points: first and second derivatives of a Gaussian."""
    sigma = 0.5 * _FEATURE_WIDTH_DEG * PIXELS_A_DEGREE
    radius = int(np.ceil(3 * sigma))
    at = np.arange(-radius, radius + 1)
    gaussian = np.exp(-(at**2) / (2 * sigma**2))
    found = []
    for profile in (-at * gaussian, (at**2 / sigma**2 - 1) * gaussian):
        total = gaussian.sum()
        profile = np.where(
            profile < 0,
            profile / (-profile[profile < 0].sum() * total),
            profile / (profile[profile > 0].sum() * total),
        )
        across = _separable(lightness, profile, gaussian)
        down = _separable(lightness, gaussian, profile)
        found.append(np.hypot(across, down))
    return found[0], found[1]


def _separable(plane: F32, across: np.ndarray, down: np.ndarray) -> F32:
    made: Any = cv2.sepFilter2D(
        plane,
        cv2.CV_32F,
        across.astype(np.float32),
        down.astype(np.float32),
        borderType=cv2.BORDER_REPLICATE,
    )
    return np.asarray(made, np.float32)


def _lab(linear: F32) -> F32:
    matrix = (_TO_XYZ / _WHITE[:, None]).astype(np.float32)
    relative = linear @ matrix.T
    small = relative <= 0.008856
    curved = np.where(small, 7.787 * relative + 16 / 116, np.cbrt(relative))
    x, y, z = np.moveaxis(curved, 2, 0)
    return np.asarray(np.stack([116 * y - 16, 500 * (x - y), 200 * (y - z)], 2), np.float32)


def _hunt(lab: F32) -> F32:
    """Less colourful where it is darker (Hunt, 1952)."""
    adjusted = lab.copy()
    adjusted[..., 1:] *= 0.01 * lab[..., :1]
    return adjusted


def _largest() -> float:
    """The largest colour difference in sRGB: pure green against pure blue."""
    pure = np.array([[[0, 1, 0], [0, 0, 1]]], np.float32)
    green, blue = _hunt(_lab(pure))[0]
    away = np.abs(green - blue)
    return float((away[0] + np.hypot(away[1], away[2])) ** _COLOUR_POWER)


_MOST = _largest()


def _redistributed(colour: F32) -> F32:
    """Colour differences on a scale of 0 to 1, most of which belongs to small ones."""
    bend = _SHARE_OF_MOST * _MOST
    above = _SHARE_OF_SCALE + (colour - bend) / (_MOST - bend) * (1 - _SHARE_OF_SCALE)
    return np.where(colour < bend, colour * (_SHARE_OF_SCALE / bend), above)
