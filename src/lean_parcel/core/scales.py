"""The scales that a search moves on: a format's quality steps in one mode, and what they cost.

`CURVE_KNOTS` says how the bytes of a step compare, on average, with the probe's (see
`encode.probe_size_bytes`). They were measured by `benchmarks/calibrate_curves.py` over the demo
photos at a 480 px place, and only choose what to encode first: a wrong curve costs encodes, never
the result.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from lean_parcel.core.encode import (
    AvifSettings,
    Chroma,
    JpegSettings,
    PngSettings,
    Settings,
    WebpSettings,
)

#: Natural logarithm of bytes over probe bytes, by scale, at knots of quality (PNG: colours).
CURVE_KNOTS: dict[str, dict[int, float]] = {}

#: The lowest quality at which a result is still worth a look; below it fewer pixels serve better.
#: PNG: colours.
WORTH_A_LOOK = {"jpeg": 20, "webp": 5, "avif": 20, "png": 8}


def _avif_qualities() -> tuple[int, ...]:
    """The lowest quality of each of aom's 64 quantisers, as libavif maps 0..100 to them."""
    first: dict[int, int] = {}
    for quality in range(101):
        first.setdefault(((100 - quality) * 63 + 50) // 100, quality)
    return tuple(first.values())


QUALITIES: dict[str, tuple[int, ...]] = {
    "jpeg": tuple(range(1, 101)),
    "webp": tuple(range(101)),
    "avif": _avif_qualities(),
    "png": tuple(range(2, 257)),
}


@dataclass(frozen=True, slots=True)
class Scale:
    """One mode of a format: `settings` of each quality, and the curve that predicts its bytes."""

    name: str
    qualities: Sequence[int]
    settings: Callable[[int], Settings]

    @property
    def lowest_worth_a_look(self) -> int:
        """The first step that is worth a look."""
        floor = WORTH_A_LOOK[self.name.split()[0]]
        return next(i for i, quality in enumerate(self.qualities) if quality >= floor)

    def log_sizes(self, probe_size_bytes: int) -> list[float]:
        """The expected natural logarithm of the bytes of each step, rising."""
        return [value + math.log(probe_size_bytes) for value in _curve(self.name)]


@lru_cache
def _curve(name: str) -> tuple[float, ...]:
    """The curve at every quality, between the knots; over PNG colours by their logarithm."""
    knots = CURVE_KNOTS[name]
    qualities = QUALITIES[name.split()[0]]
    measure = np.log if name == "png" else np.asarray
    values = np.interp(measure(qualities), measure(list(knots)), list(knots.values()))
    return tuple(np.maximum.accumulate(values).tolist())


def jpeg_scale(chroma: Chroma, background: str) -> Scale:
    """JPEG qualities in one chroma mode."""
    return Scale(
        f"jpeg {chroma}",
        QUALITIES["jpeg"],
        lambda quality: JpegSettings(quality=quality, chroma=chroma, background=background),
    )


def webp_scale() -> Scale:
    """Lossy WebP qualities."""
    return Scale("webp", QUALITIES["webp"], lambda quality: WebpSettings(quality=quality))


def avif_scale(chroma: Chroma) -> Scale:
    """AVIF qualities, one for each quantiser, in one chroma mode."""
    return Scale(
        f"avif {chroma}",
        QUALITIES["avif"],
        lambda quality: AvifSettings(quality=quality, chroma=chroma),
    )


def palette_scale() -> Scale:
    """PNG palettes by their number of colours."""
    return Scale("png", QUALITIES["png"], lambda colours: PngSettings(colours=colours))
