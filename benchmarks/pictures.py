"""Made-up pictures of many kinds, seeded: what the demo photos are not."""

from collections.abc import Callable

import cv2
import numpy as np

from lean_parcel.core.arrays import U8

WIDTH_PX, HEIGHT_PX = 480, 360
_SHAPE = (HEIGHT_PX, WIDTH_PX, 3)
Chance = np.random.Generator


def pictures() -> dict[str, U8]:
    """Each by its name; some have an alpha channel."""
    made: dict[str, U8] = {}
    for kind, draw in _KINDS.items():
        for seed in range(4):
            made[f"{kind} {seed}"] = draw(np.random.default_rng([seed, len(kind)]), seed)
    return made


def foliage(seed: int) -> U8:
    """A tree of its own for every seed, 400 px of it."""
    tree = _foliage(np.random.default_rng([seed, 77]), seed)
    return np.ascontiguousarray(tree[:, 40:440])


def _codes(values: np.ndarray) -> U8:
    return np.asarray(np.clip(np.rint(values), 0, 255), np.uint8)


def _colour(chance: Chance) -> tuple[int, int, int]:
    red, green, blue = (int(code) for code in chance.integers(0, 256, 3))
    return red, green, blue


def _noise(chance: Chance, seed: int) -> U8:
    """Noise whose amplitude falls with frequency to a power, as in photographs."""
    power = (0.6, 1.0, 1.4, 1.8)[seed]
    v, u = np.fft.fftfreq(HEIGHT_PX)[:, None], np.fft.rfftfreq(WIDTH_PX)[None]
    fall = 1 / np.maximum(np.hypot(u, v), 1 / WIDTH_PX) ** power
    planes = []
    for _ in range(3):
        spectrum = np.fft.rfft2(chance.normal(size=_SHAPE[:2])) * fall
        plane = np.fft.irfft2(spectrum, _SHAPE[:2])
        planes.append(plane / plane.std())
    shared = planes[0]
    mixed = np.stack([0.8 * shared + 0.4 * plane for plane in planes], 2)
    return _codes(128 + 45 * mixed)


def _gradient(chance: Chance, seed: int) -> U8:
    """Skies and backdrops: smooth, some with grain."""
    corners = chance.uniform(20, 235, (2 + seed % 2, 3, 3)).astype(np.float32)
    smooth = cv2.resize(corners, (WIDTH_PX, HEIGHT_PX), interpolation=cv2.INTER_CUBIC)
    return _codes(smooth + chance.normal(0, 3 * (seed // 2), _SHAPE))


def _foliage(chance: Chance, seed: int) -> U8:
    """Branches that branch again, with leaves of many greens."""
    canvas = _codes(np.full(_SHAPE, _colour(chance), np.float32))
    stems = [(WIDTH_PX / 2, HEIGHT_PX, -np.pi / 2, 70.0, 9.0)]
    while stems:
        x, y, angle, length, width = stems.pop()
        end = (x + length * np.cos(angle), y + length * np.sin(angle))
        brown = tuple(int(c) for c in chance.normal((90, 65, 40), 12))
        points = ((int(x), int(y)), (int(end[0]), int(end[1])))
        cv2.line(canvas, *points, brown, max(1, int(width)), cv2.LINE_AA)
        if length < 9:
            leaf = tuple(int(c) for c in np.clip(chance.normal((60, 130, 50), 28), 0, 255))
            cv2.circle(canvas, points[1], int(chance.integers(2, 6)), leaf, -1, cv2.LINE_AA)
            continue
        for _ in range(2 + seed % 2):
            turn = chance.normal(0, 0.55)
            shrink = chance.uniform(0.6, 0.8)
            stems.append((*end, angle + turn, length * shrink, width * 0.7))
    return canvas


def _lines(chance: Chance, seed: int) -> U8:
    """Line art: thin strokes on paper, smooth or stepped."""
    canvas = np.full(_SHAPE, 250, np.uint8)
    smooth = cv2.LINE_AA if seed % 2 else cv2.LINE_8
    for _ in range(40):
        points = np.cumsum(chance.normal(0, 26, (12, 2)), 0) + chance.uniform(0, 480, 2)
        cv2.polylines(canvas, [points.astype(np.int32)], False, (30, 30, 40), 1 + seed // 2, smooth)
    return canvas


def _lettering(chance: Chance, seed: int) -> U8:
    """A page of text."""
    canvas = np.full(_SHAPE, 255 - 12 * seed, np.uint8)
    for y in range(30, HEIGHT_PX, 24):
        words = "".join(chance.choice(list("aehilnorst .,mgk"), 42))
        cv2.putText(
            canvas, words, (14, y), cv2.FONT_HERSHEY_COMPLEX, 0.6, (20, 20, 20), 1, cv2.LINE_AA
        )
    return canvas


def _shapes(chance: Chance, seed: int) -> U8:
    """Flat colours with smooth edges, as emblems and illustrations have."""
    canvas = _codes(np.full(_SHAPE, _colour(chance), np.float32))
    colours = [_colour(chance) for _ in range(3 + 2 * seed)]
    for number in range(24):
        middle = (int(chance.integers(0, WIDTH_PX)), int(chance.integers(0, HEIGHT_PX)))
        size = int(chance.integers(12, 80))
        colour = colours[number % len(colours)]
        if number % 2:
            cv2.circle(canvas, middle, size, colour, -1, cv2.LINE_AA)
        else:
            corners = np.array(middle) + chance.integers(-size, size, (5, 2))
            cv2.fillConvexPoly(canvas, cv2.convexHull(corners), colour, cv2.LINE_AA)
    return canvas


def _blocks(chance: Chance, seed: int) -> U8:
    """Few colours in coarse squares."""
    palette = chance.integers(0, 256, (4 + 3 * seed, 3))
    cells = palette[chance.integers(0, len(palette), (HEIGHT_PX // 12, WIDTH_PX // 12))]
    return _codes(np.repeat(np.repeat(cells, 12, 0), 12, 1).astype(np.float32))


def _screen(chance: Chance, seed: int) -> U8:
    """Panels with lettering, and a photo among them."""
    canvas = np.full(_SHAPE, 244, np.uint8)
    cv2.rectangle(canvas, (0, 0), (WIDTH_PX, 34), _colour(chance), -1)
    for x in (12, 250):
        cv2.rectangle(canvas, (x, 50), (x + 215, 340), (255, 255, 255), -1)
        cv2.rectangle(canvas, (x, 50), (x + 215, 340), (200, 200, 205), 1)
        for y in range(80, 190 if seed % 2 else 330, 22):
            words = "".join(chance.choice(list("aeiou rstln"), 18))
            cv2.putText(
                canvas,
                words,
                (x + 10, y),
                cv2.FONT_HERSHEY_SIMPLEX,
                0.5,
                (40, 40, 50),
                1,
                cv2.LINE_AA,
            )
    if seed % 2:
        canvas[200:330, 22:217] = _noise(chance, 3)[:130, :195]
    return canvas


def _cut_out(chance: Chance, seed: int) -> U8:
    """An object on nothing: a photo-like or flat one."""
    inside = (_noise if seed % 2 else _shapes)(chance, 2)
    alpha = np.zeros(_SHAPE[:2], np.uint8)
    cv2.ellipse(alpha, (240, 180), (180, 130), 20, 0, 360, 255, -1, cv2.LINE_AA)
    return np.dstack([inside, cv2.GaussianBlur(alpha, (0, 0), 0.5 + seed)])


_KINDS: dict[str, Callable[[Chance, int], U8]] = {
    "noise": _noise,
    "gradient": _gradient,
    "foliage": _foliage,
    "lines": _lines,
    "lettering": _lettering,
    "shapes": _shapes,
    "blocks": _blocks,
    "screen": _screen,
    "cut-out": _cut_out,
}
