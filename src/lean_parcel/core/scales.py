"""The scales that a search moves on: a format's quality steps in one mode, and what they cost.

`CURVE_KNOTS` says how the bytes of a step compare, on average, with the probe's (see
`encode.probe_size_bytes`), `GRAIN_SHARES` how that depends on the photo's grain, and `DRAFT_EXCESS`
how the bytes of a draft compare with the step's. They were measured
by `benchmarks/calibrate_curves.py` over the demo photos at a 480 px place, and only choose what to
encode first: a wrong curve costs encodes, never the result.
"""

import math
from bisect import bisect_left
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from lean_parcel.core.arrays import F64
from lean_parcel.core.encode import (
    AvifSettings,
    Chroma,
    EncoderSettings,
    Format,
    JpegSettings,
    KeptSettings,
    PngSettings,
    Settings,
    WebpSettings,
    quantiser,
)
from lean_parcel.core.trial import Rung

#: Natural logarithm of bytes over probe bytes, by scale, at knots of quality (PNG: colours).
CURVE_KNOTS: dict[str, dict[int, float]] = {
    "jpeg 4:2:0": {
        1: -2.662,
        4: -2.537,
        8: -2.112,
        15: -1.663,
        25: -1.282,
        40: -0.933,
        55: -0.685,
        65: -0.517,
        75: -0.298,
        82: -0.073,
        88: 0.181,
        92: 0.411,
        96: 0.866,
        100: 1.513,
    },
    "jpeg 4:4:4": {
        1: -2.316,
        4: -2.218,
        8: -1.84,
        15: -1.407,
        25: -1.035,
        40: -0.685,
        55: -0.431,
        65: -0.258,
        75: -0.025,
        82: 0.214,
        88: 0.492,
        92: 0.743,
        96: 1.258,
        100: 1.959,
    },
    "avif 4:2:0": {
        0: -2.599,
        11: -2.229,
        20: -1.897,
        30: -1.566,
        41: -1.134,
        51: -0.774,
        60: -0.501,
        70: -0.239,
        79: 0.054,
        85: 0.306,
        90: 0.515,
        95: 0.845,
        100: 1.451,
    },
    "avif 4:4:4": {
        0: -2.54,
        11: -2.166,
        20: -1.842,
        30: -1.512,
        41: -1.078,
        51: -0.717,
        60: -0.447,
        70: -0.202,
        79: 0.094,
        85: 0.377,
        90: 0.643,
        95: 1.055,
        100: 1.921,
    },
    "webp": {
        0: -2.318,
        5: -1.863,
        15: -1.556,
        30: -1.257,
        45: -1.011,
        60: -0.823,
        75: -0.632,
        80: -0.422,
        85: -0.189,
        90: 0.111,
        95: 0.529,
        99: 0.865,
        100: 0.887,
    },
    "png": {
        2: -1.724,
        4: -0.636,
        8: -0.012,
        16: 0.408,
        32: 0.623,
        64: 0.868,
        128: 1.094,
        256: 1.303,
    },
}

#: Natural logarithm of a quickly deflated PNG's bytes over the probe's, on average: the more grain,
#: the more it is. How much of what a photo has beyond that shows in its bytes, by quality.
USUAL_GRAIN = 2.74
GRAIN_SHARES: dict[str, dict[int, float]] = {
    "jpeg": {0: 0.0},
    "webp": {0: 0.0},
    "avif": {41: 0.0, 95: 0.5},
    "png": {0: 0.8},
}

#: How many more bytes a draft takes, as the natural logarithm of the factor, by quality. A palette
#: has none.
DRAFT_EXCESS: dict[str, dict[int, float]] = {
    "jpeg": {1: 0.31, 4: 0.26, 8: 0.15, 15: 0.08, 25: 0.048, 55: 0.028, 88: 0.025, 100: 0.044},
    "webp": {0: 0.09, 15: 0.134, 30: 0.123, 72: 0.099, 95: 0.046, 99: 0.05, 100: 0.33},
    "avif": {0: 0.1, 20: 0.05, 41: 0.03, 79: 0.044, 90: 0.042, 95: 0.022, 100: 0.035},
    "png": {0: 0.0},
}

#: How fast damage, which is what likeness lacks to its ceiling, goes with bytes: as their power of
#: minus this, at 1000 px over eleven photos between 40 and 200 kB; PNG roughly, over four.
DAMAGE_DECAY = {"jpeg": 0.6, "webp": 0.6, "avif": 0.6, "png": 1.4}

#: The lowest quality at which a result is still worth a look; below it fewer pixels serve better.
#: PNG: colours.
WORTH_A_LOOK = {"jpeg": 20, "webp": 5, "avif": 20, "png": 8}

#: The quality with which a survey begins, if fewer pixels allow it: with less, fewer pixels nearly
#: always look better. PNG: colours.
WORTH_BEGINNING = {"jpeg": 30, "webp": 20, "avif": 25, "png": 56}


def _avif_qualities() -> tuple[int, ...]:
    """The lowest quality of each of aom's 64 quantisers, as libavif maps 0..100 to them."""
    first: dict[int, int] = {}
    for quality in range(101):
        first.setdefault(quantiser(quality), quality)
    return tuple(first.values())


def _colour_counts() -> tuple[int, ...]:
    """Palette lengths, an eighth apart: some 4 % of bytes, as the quality steps of the others."""
    counts = [2]
    while counts[-1] < 256:
        counts.append(min(256, counts[-1] + max(1, counts[-1] // 8)))
    return tuple(counts)


QUALITIES: dict[str, tuple[int, ...]] = {
    "jpeg": tuple(range(1, 101)),
    "webp": tuple(range(101)),
    "avif": _avif_qualities(),
    "png": _colour_counts(),
}


@dataclass(frozen=True, slots=True)
class Scale:
    """One mode of a format: `settings` of each quality, and the curve that predicts its bytes."""

    name: str
    qualities: Sequence[int]
    settings: Callable[[int], EncoderSettings]

    def draft(self, quality: int) -> Settings:
        """The settings of a draft of a quality."""
        return drafted(self.settings(quality))

    @property
    def has_drafts(self) -> bool:
        """Whether drafts are cheaper than what they stand for."""
        return any(DRAFT_EXCESS[self._format].values())

    def draft_excess(self, step: int) -> float:
        """How many more bytes a draft of a step takes, as the logarithm of the factor."""
        return float(_interpolated(DRAFT_EXCESS[self._format], [self.qualities[step]])[0])

    @property
    def damage_decay(self) -> float:
        """How fast damage goes with bytes, as the power."""
        return DAMAGE_DECAY[self._format]

    @property
    def lowest_worth_a_look(self) -> int:
        """The first step that is worth a look."""
        return bisect_left(self.qualities, WORTH_A_LOOK[self._format])

    @property
    def lowest_to_begin(self) -> int:
        """The first step that a survey begins with."""
        return bisect_left(self.qualities, WORTH_BEGINNING[self._format])

    @property
    def _format(self) -> str:
        return self.name.split()[0]

    def log_sizes(self, rung: Rung) -> list[float]:
        """The expected natural logarithm of the bytes of each step at a pixel count, rising."""
        grain = math.log(rung.quick_png_size_bytes / rung.probe_size_bytes) - USUAL_GRAIN
        sizes = _curve(self.name) + grain * _grain_shares(self._format)
        log_sizes: list[float] = (
            np.maximum.accumulate(sizes) + math.log(rung.probe_size_bytes)
        ).tolist()
        return log_sizes


@lru_cache
def _curve(name: str) -> F64:
    """The curve at every quality, between the knots; over PNG colours by their logarithm. Sharp
    chroma begins on the curve of WebP without."""
    knots = CURVE_KNOTS[name.removesuffix(" sharp")]
    qualities = QUALITIES[name.split()[0]]
    measure = np.log if name == "png" else np.asarray
    return np.interp(measure(qualities), measure(list(knots)), list(knots.values()))


@lru_cache
def _grain_shares(name: str) -> F64:
    """How much of a photo's grain shows at every quality."""
    return _interpolated(GRAIN_SHARES[name], QUALITIES[name])


def _interpolated(knots: dict[int, float], at: Sequence[int]) -> F64:
    return np.interp(at, list(knots), list(knots.values()))


def drafted(settings: Settings) -> Settings:
    """Settings of a cheap encode that looks nearly the same for some more bytes.

    A palette has none: its bytes hang on the last squeeze, those of drawings most of all. AVIF goes
    to speed 8: at 9 libaom leaves out tools that 4:4:4 lives on, and modes compare otherwise.
    """
    match settings:
        case JpegSettings():
            return replace(settings, progressive=False)
        case WebpSettings():
            return replace(settings, effort=min(settings.effort, 2))
        case AvifSettings():
            return replace(settings, speed=max(settings.speed, 8))
        case PngSettings() | KeptSettings():
            return settings


def jpeg_scale(chroma: Chroma, background: str) -> Scale:
    """JPEG qualities in one chroma mode."""
    return Scale(
        f"jpeg {chroma}",
        QUALITIES["jpeg"],
        lambda quality: JpegSettings(quality=quality, chroma=chroma, background=background),
    )


#: With transparency effort 6 takes twenty times as long for 5 % fewer bytes (1.5 megapixels of the
#: demo's cut-out: 5.4 s against 0.26 s).
_WEBP_EFFORT, _WEBP_EFFORT_WITH_ALPHA = 6, 5


def webp_scale(*, sharp_chroma: bool = False, is_transparent: bool = False) -> Scale:
    """Lossy WebP qualities, with or without sharp chroma, which takes some 2.5 times as long and
    over the demo photos won from -1 to 11 points of likeness at equal bytes."""
    effort = _WEBP_EFFORT_WITH_ALPHA if is_transparent else _WEBP_EFFORT
    return Scale(
        "webp sharp" if sharp_chroma else "webp",
        QUALITIES["webp"],
        lambda quality: WebpSettings(quality=quality, effort=effort, sharp_chroma=sharp_chroma),
    )


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


#: The settings of a file without loss, in the formats that have one worth trying.
EXACT: dict[Format, EncoderSettings] = {
    "webp": WebpSettings(quality=75, lossless=True),
    "png": PngSettings(colours=None),
}


def scales_of(name: Format, background: str, *, is_transparent: bool, is_grey: bool) -> list[Scale]:
    """The modes of a format that a search moves in. They differ in how they treat colour, so grey
    pixels have one only."""
    match name:
        case "jpeg":
            modes = [jpeg_scale("4:2:0", background), jpeg_scale("4:4:4", background)]
        case "avif":
            modes = [avif_scale("4:2:0"), avif_scale("4:4:4")]
        case "webp":
            modes = [
                webp_scale(is_transparent=is_transparent),
                webp_scale(sharp_chroma=True, is_transparent=is_transparent),
            ]
        case "png":
            modes = [palette_scale()]
    return modes[:1] if is_grey else modes
