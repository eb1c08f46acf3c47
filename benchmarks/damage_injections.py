"""Damage of a known kind, in a known area: what the measures of `core/damage` are tried on.

Each way of doing damage takes 8-bit codes (H, W, 3) and an amount, and gives the damaged codes of
the whole picture; what is outside the area is put back by the caller.
"""

import io
from collections.abc import Callable, Collection, Iterator
from dataclasses import dataclass

import cv2
import numpy as np
from PIL import Image

from lean_parcel.core.arrays import F32, U8
from lean_parcel.core.picture.box import Box

Damage = Callable[[np.ndarray, float], np.ndarray]
#: The side of an area, and of the grid on which areas lie.
_SIDE_PX, _GRID_PX = 160, 32
_AROUND_PX = 48


@dataclass(frozen=True, slots=True, kw_only=True)
class Case:
    """A picture damaged in one area, by one way of one kind, at one of three strengths (0 to 2)."""

    picture: str
    kind: str
    way: str
    strength: int
    area: Box
    original: U8
    damaged: U8


def cases(name: str, original: U8, only: Collection[str] = ()) -> Iterator[Case]:
    """Every way, or `only` some, at three strengths, in the area of the picture where it would be
    seen; none where the picture has no such area."""
    for kind, ways in WAYS.items():
        area = best_area(original, kind)
        if area is None:
            continue
        for way, (damage, amounts) in ways.items():
            if only and way not in only:
                continue
            for strength, amount in enumerate(amounts):
                yield Case(
                    picture=name,
                    kind=kind,
                    way=way,
                    strength=strength,
                    area=area,
                    original=original,
                    damaged=_inside(original, damage, amount, area),
                )


def _inside(original: U8, damage: Damage, amount: float, area: Box) -> U8:
    """Only what surrounds the area is damaged with it, so that its edges are as they would be."""
    height_px, width_px = original.shape[:2]
    top_px, left_px = max(area.top_px - _AROUND_PX, 0), max(area.left_px - _AROUND_PX, 0)
    bottom_px = min(area.top_px + area.height_px + _AROUND_PX, height_px)
    right_px = min(area.left_px + area.width_px + _AROUND_PX, width_px)
    part = damage(np.ascontiguousarray(original[top_px:bottom_px, left_px:right_px]), amount)
    rows = slice(area.top_px, area.top_px + area.height_px)
    columns = slice(area.left_px, area.left_px + area.width_px)
    made = original.copy()
    made[rows, columns] = part[area.top_px - top_px :, area.left_px - left_px :][
        : area.height_px, : area.width_px
    ]
    return made


def _codes(values: np.ndarray) -> U8:
    return np.asarray(np.rint(np.clip(values, 0, 255)), np.uint8)


def _luma(codes: U8) -> F32:
    return np.asarray(codes @ np.array([0.299, 0.587, 0.114], np.float32), np.float32)


# Where each kind would be seen.


def best_area(codes: U8, kind: str) -> Box | None:
    """The square in which a kind of damage is seen best, or None."""
    luma = _luma(codes)
    smooth = cv2.GaussianBlur(luma, (0, 0), 1.5)
    slope = np.hypot(cv2.Sobel(smooth, cv2.CV_32F, 1, 0), cv2.Sobel(smooth, cv2.CV_32F, 0, 1)) / 8
    height_px, width_px = luma.shape
    found: list[tuple[float, Box]] = []
    for top_px in range(0, height_px - _SIDE_PX + 1, _GRID_PX):
        for left_px in range(0, width_px - _SIDE_PX + 1, _GRID_PX):
            part = (slice(top_px, top_px + _SIDE_PX), slice(left_px, left_px + _SIDE_PX))
            worth = _worth(kind, codes[part], luma[part], slope[part])
            box = Box(left_px=left_px, top_px=top_px, width_px=_SIDE_PX, height_px=_SIDE_PX)
            if worth > 0:
                found.append((worth, box))
    return max(found, key=lambda one: one[0])[1] if found else None


def _worth(kind: str, codes: U8, luma: F32, slope: np.ndarray) -> float:
    span = float(np.ptp(cv2.GaussianBlur(luma, (0, 0), 6)))
    if kind == "lost-detail":
        fine = float((luma - cv2.GaussianBlur(luma, (0, 0), 1.5)).std())
        return fine if fine > 2 else 0
    if kind == "banding":
        quiet = float(np.quantile(slope, 0.98))
        grain = float((luma - cv2.GaussianBlur(luma, (0, 0), 1.5)).std())
        is_slope = float(np.quantile(slope, 0.25)) > 0.03
        return span if quiet < 1.5 and grain < 1.5 and span > 20 and is_slope else 0
    if kind == "ringing":
        edges, quiet = float((slope > 12).mean()), float((slope < 1).mean())
        return min(edges * 4, quiet) if edges > 0.02 and quiet > 0.3 else 0
    if kind == "colour-bleeding":
        chroma = cv2.cvtColor(codes, cv2.COLOR_RGB2YCrCb)[..., 1:].astype(np.float32)
        edges = np.abs(chroma - cv2.GaussianBlur(chroma, (0, 0), 3)).max(2)
        share = float((edges > 12).mean())
        return share if share > 0.03 else 0
    if kind == "contrast-shift":
        return float(luma.std())
    middle = float(luma.mean())
    return 1.0 - abs(middle - 128) / 128


# The ways of each kind.


def _blurred(codes: np.ndarray, sigma_px: float) -> np.ndarray:
    return cv2.GaussianBlur(codes, (0, 0), sigma_px)


def _median(codes: np.ndarray, side_px: float) -> np.ndarray:
    return cv2.medianBlur(codes, int(side_px))


def _fewer_pixels(codes: np.ndarray, times: float) -> np.ndarray:
    height_px, width_px = codes.shape[:2]
    few = cv2.resize(codes, None, fx=1 / times, fy=1 / times, interpolation=cv2.INTER_AREA)
    return cv2.resize(few, (width_px, height_px), interpolation=cv2.INTER_LINEAR)


def _denoised(codes: np.ndarray, strength: float) -> np.ndarray:
    return cv2.bilateralFilter(codes, 9, strength, 3)


def _block_steps(codes: np.ndarray, step: float) -> np.ndarray:
    chance = np.random.default_rng(5)
    rows, columns = -(-codes.shape[0] // 8), -(-codes.shape[1] // 8)
    steps = np.kron(chance.uniform(-step, step, (rows, columns)), np.ones((8, 8)))
    return _codes(codes + steps[: codes.shape[0], : codes.shape[1], None])


def _block_means(codes: np.ndarray, share: float) -> np.ndarray:
    height_px, width_px = codes.shape[0] // 8 * 8, codes.shape[1] // 8 * 8
    inner = codes[:height_px, :width_px].astype(np.float32)
    means = inner.reshape(height_px // 8, 8, width_px // 8, 8, 3).mean((1, 3))
    coarse = np.repeat(np.repeat(means, 8, 0), 8, 1)
    made = codes.copy()
    made[:height_px, :width_px] = _codes(inner + share * (coarse - inner))
    return made


def _jpeg(codes: np.ndarray, quality: float) -> np.ndarray:
    out = io.BytesIO()
    Image.fromarray(codes).save(out, "JPEG", quality=int(quality), subsampling="4:4:4")
    out.seek(0)
    return np.asarray(Image.open(out))


def _ripples(codes: np.ndarray, height: float) -> np.ndarray:
    """Ripples beside strong edges, fading away from them."""
    luma = cv2.GaussianBlur(_luma(codes), (0, 0), 0.8)
    slope = np.hypot(cv2.Sobel(luma, cv2.CV_32F, 1, 0), cv2.Sobel(luma, cv2.CV_32F, 0, 1)) / 8
    away = cv2.distanceTransform((slope < 12).astype(np.uint8), cv2.DIST_L2, 5)
    ripple = height * np.cos(2 * np.pi * away / 4.5) * np.exp(-away / 7)
    return _codes(codes + np.where((away > 1) & (away < 20), ripple, 0)[..., None])


def _oscillating(codes: np.ndarray, gain: float) -> np.ndarray:
    """Every edge with waves on both sides, as of a filter with long lobes."""
    x = np.arange(-12, 13)
    lobes = np.cos(2 * np.pi * x / 5) * np.exp(-np.abs(x) / 5)
    lobes -= lobes.sum() * (x == 0)
    luma = _luma(codes)
    error = cv2.filter2D(luma, -1, lobes[None]) + cv2.filter2D(luma, -1, lobes[:, None])
    return _codes(codes + gain * error[..., None])


def _posterised(codes: np.ndarray, step: float) -> np.ndarray:
    return _codes(np.floor(codes / step) * step + step / 2)


def _posterised_luma(codes: np.ndarray, step: float) -> np.ndarray:
    ycc = cv2.cvtColor(codes, cv2.COLOR_RGB2YCrCb)
    ycc[..., 0] = _posterised(ycc[..., 0], step)
    return cv2.cvtColor(ycc, cv2.COLOR_YCrCb2RGB)


def _smoothed_and_posterised(codes: np.ndarray, step: float) -> np.ndarray:
    return _posterised(cv2.GaussianBlur(codes, (0, 0), 5), step)


def _chroma(codes: np.ndarray, change: Callable[[np.ndarray], np.ndarray]) -> np.ndarray:
    ycc = cv2.cvtColor(codes, cv2.COLOR_RGB2YCrCb)
    ycc[..., 1:] = change(np.ascontiguousarray(ycc[..., 1:]))
    return cv2.cvtColor(ycc, cv2.COLOR_YCrCb2RGB)


def _chroma_blurred(codes: np.ndarray, sigma_px: float) -> np.ndarray:
    return _chroma(codes, lambda planes: cv2.GaussianBlur(planes, (0, 0), sigma_px))


def _chroma_coarse(codes: np.ndarray, times: float) -> np.ndarray:
    def coarse(planes: np.ndarray) -> np.ndarray:
        few = cv2.resize(planes, None, fx=1 / times, fy=1 / times, interpolation=cv2.INTER_AREA)
        return cv2.resize(few, planes.shape[1::-1], interpolation=cv2.INTER_LINEAR)

    return _chroma(codes, coarse)


def _chroma_moved(codes: np.ndarray, by_px: float) -> np.ndarray:
    return _chroma(codes, lambda planes: np.roll(planes, int(by_px), 1))


def _lab(codes: np.ndarray, change: Callable[[np.ndarray], np.ndarray]) -> np.ndarray:
    lab = cv2.cvtColor(codes.astype(np.float32) / 255, cv2.COLOR_RGB2Lab)
    changed = change(lab).astype(np.float32)
    return _codes(cv2.cvtColor(changed, cv2.COLOR_Lab2RGB) * 255)


def _tinted(codes: np.ndarray, by: float) -> np.ndarray:
    return _lab(codes, lambda lab: lab + np.array([0, by * 0.6, by * 0.8], np.float32))


def _hue_turned(codes: np.ndarray, degrees: float) -> np.ndarray:
    turn = np.deg2rad(degrees)

    def turned(lab: np.ndarray) -> np.ndarray:
        a, b = lab[..., 1] + 12, lab[..., 2] + 12
        return np.stack(
            [
                lab[..., 0],
                a * np.cos(turn) - b * np.sin(turn) - 12,
                a * np.sin(turn) + b * np.cos(turn) - 12,
            ],
            2,
        )

    return _lab(codes, turned)


def _warmed(codes: np.ndarray, share: float) -> np.ndarray:
    return _codes(codes * np.array([1 + share, 1, 1 - share]))


def _flattened(codes: np.ndarray, gain: float) -> np.ndarray:
    luma = _luma(codes)
    return _codes(codes + ((gain - 1) * (luma - luma.mean()))[..., None])


def _brightened(codes: np.ndarray, by: float) -> np.ndarray:
    return _codes(codes.astype(np.float32) + by)


def _curved(codes: np.ndarray, gamma: float) -> np.ndarray:
    return _codes(255 * (codes / 255.0) ** gamma)


WAYS: dict[str, dict[str, tuple[Damage, tuple[float, float, float]]]] = {
    "lost-detail": {
        "blurred": (_blurred, (0.9, 1.6, 3.0)),
        "median": (_median, (3, 5, 9)),
        "fewer pixels": (_fewer_pixels, (1.6, 2.5, 4)),
        "denoised": (_denoised, (60, 120, 240)),
    },
    "blocks": {
        "steps": (_block_steps, (4, 8, 16)),
        "means": (_block_means, (0.35, 0.6, 1.0)),
        "jpeg": (_jpeg, (20, 12, 6)),
    },
    "ringing": {
        "ripples": (_ripples, (8, 16, 32)),
        "waves": (_oscillating, (0.2, 0.35, 0.6)),
    },
    "banding": {
        "posterised": (_posterised, (6, 12, 24)),
        "luma": (_posterised_luma, (6, 12, 24)),
        "smoothed": (_smoothed_and_posterised, (6, 12, 24)),
    },
    "colour-bleeding": {
        "blurred": (_chroma_blurred, (2, 4, 8)),
        "coarse": (_chroma_coarse, (4, 8, 16)),
        "moved": (_chroma_moved, (2, 4, 8)),
    },
    "colour-shift": {
        "tinted": (_tinted, (5, 10, 20)),
        "hue": (_hue_turned, (20, 40, 80)),
        "warmed": (_warmed, (0.05, 0.1, 0.2)),
    },
    "contrast-shift": {
        "flattened": (_flattened, (0.85, 0.7, 0.4)),
        "brightened": (_brightened, (8, 16, 32)),
        "curved": (_curved, (1.15, 1.35, 1.8)),
    },
}
