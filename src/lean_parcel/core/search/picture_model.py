"""What the encodes of a picture in one format come to: their bytes and their damage, expected from
calibration, and corrected by everything that was measured.

Damage is 100 less likeness. That of encoding and that of missing pixels add as by Minkowski, with a
power that calibration found; the damage of encoding at a quality is then nearly the same at all
pixel counts.
"""

import math
from bisect import bisect_right
from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from lean_parcel.core.arrays import F64
from lean_parcel.core.candidates.trial import Measured
from lean_parcel.core.encoding.qualities import QUALITIES
from lean_parcel.core.formats import Format
from lean_parcel.core.search.calibrated import (
    CURVES,
    DRAFT_ERRORS,
    MIDDLE,
    POWER,
    PRIORS,
    SECONDS_A_MEGAPIXEL,
    USUAL_GRAIN,
)
from lean_parcel.core.search.ladder import Rung
from lean_parcel.core.search.modes import Mode
from lean_parcel.core.search.process import Points, Process

#: Less damage of encoding than this counts as this much: it is what a lossless file has.
LEAST_DAMAGE = 0.3


class PictureModel:
    """See the module. All arrays are float64 (N,) over the points: every step of every mode at
    every rung, those given fewest pixels first."""

    def __init__(self, name: Format, modes: Sequence[Mode], rungs: Sequence[Rung]) -> None:
        self._modes, self._rungs = modes, rungs
        full = rungs[-1]
        steps = [len(each.qualities) for each in modes]
        #: The first point of each mode; its points go by rung, and then by step.
        self._firsts = [0, *np.cumsum(len(rungs) * np.array(steps)).tolist()]
        mode = np.repeat(np.arange(len(modes)), np.diff(self._firsts))
        rung = np.concatenate([np.repeat(np.arange(len(rungs)), each) for each in steps])
        grain = math.log(full.quick_png_size_bytes / full.probe_size_bytes) - USUAL_GRAIN
        curves = [_curve(each.name, each.format, tuple(each.qualities)) for each in modes]
        curve = np.concatenate([np.tile(each, len(rungs)) for each in curves], axis=1)
        at = self._rungs
        probe = np.log([each.probe_size_bytes for each in at])[rung]
        self._log_bytes = probe + curve[0] + grain * curve[1]
        self._log_damage = curve[2] + grain * curve[3]
        self._of_pixels = damage_power(np.array([each.ceiling for each in at]))[rung]
        megapixels = np.array([each.width_px * each.height_px / 1e6 for each in at])
        seconds = np.array([SECONDS_A_MEGAPIXEL[each.name] for each in modes])
        #: How long an encode takes about, in seconds.
        self.seconds: F64 = seconds[mode] * megapixels[rung]
        #: Where all pixels are sent.
        self.is_full = rung == len(at) - 1
        points = Points(
            mode=mode.astype(np.float64),
            distance=curve[0] - MIDDLE,
            log_width=np.log([each.width_px / full.width_px for each in at])[rung],
            softness=np.array([softness(each.ceiling) for each in at])[rung],
        )
        bytes_prior, damage_prior = PRIORS[name]
        self._bytes_error, self._damage_error = DRAFT_ERRORS[name]
        self._bytes, self._damage = Process(bytes_prior, points), Process(damage_prior, points)

    def at(self, point: int) -> tuple[Mode, int, Rung]:
        """The mode, step and rung of a point."""
        index = bisect_right(self._firsts, point) - 1
        mode = self._modes[index]
        rung, step = divmod(point - self._firsts[index], len(mode.qualities))
        return mode, step, self._rungs[rung]

    def point(self, mode: Mode, step: int, width_px: int) -> int:
        """The point of a step of a mode at the rung of a width, which is one of those given."""
        first: int = self._firsts[self._modes.index(mode)]
        rung = [each.width_px for each in self._rungs].index(width_px)
        return first + rung * len(mode.qualities) + step

    def observe(self, point: int, measured: Measured, *, is_draft: bool) -> None:
        """Takes in what an encode came to, or a draft of it."""
        log_bytes = math.log(max(measured.size_bytes, 1))
        damage = damage_power(np.array(measured.likeness)) - self._of_pixels[point]
        log_damage = math.log(max(float(damage), LEAST_DAMAGE**POWER)) / POWER
        for process, residual, error in (
            (self._bytes, log_bytes - self._log_bytes[point], self._bytes_error),
            (self._damage, log_damage - self._log_damage[point], self._damage_error),
        ):
            process.observe(point, float(residual), error if is_draft else None)

    def is_drafted_well(self, point: int) -> bool:
        """Whether less is known of the bytes of a point than a draft tells."""
        error = self._bytes_error
        known = float(self._bytes.deviation[point])
        return known > _WORTH_A_DRAFT * math.hypot(error.shared, error.own)

    @property
    def log_bytes(self) -> tuple[F64, F64]:
        """The natural logarithm of the bytes: as expected, and its standard deviation."""
        return self._log_bytes + self._bytes.mean, self._bytes.deviation

    @property
    def log_damage(self) -> tuple[F64, F64]:
        """The natural logarithm of the damage of encoding, in the same way."""
        return self._log_damage + self._damage.mean, self._damage.deviation

    def likeness(self, log_damage: F64) -> F64:
        """The likeness at every point, given the damage of encoding."""
        likeness: F64 = 100 - (self._of_pixels + np.exp(POWER * log_damage)) ** (1 / POWER)
        return likeness

    def log_damage_at(self, likeness: float) -> F64:
        """The most damage of encoding at which a likeness is reached; minus infinity where too many
        pixels are missing."""
        left = float(damage_power(np.array(likeness))) - self._of_pixels
        with np.errstate(divide="ignore"):
            log_damage: F64 = np.log(np.maximum(left, 0)) / POWER
        return log_damage


#: A draft is made where the deviation of what is known is so many times its own: at 1.0 more were
#: made for the same files (four pictures at 1600 px).
_WORTH_A_DRAFT = 1.5


def softness(ceiling: float) -> float:
    """How much of its likeness a picture loses with the pixels of a rung, as a feature: 0 for
    none."""
    return math.log(1 + (100 - ceiling) / 10)


def damage_power(likeness: F64) -> F64:
    """The damage of a likeness to the power at which damages add."""
    power: F64 = np.maximum(100 - likeness, 0) ** POWER
    return power


@lru_cache
def _curve(name: str, format_name: Format, qualities: tuple[int, ...]) -> F64:
    """The calibrated curve of a mode, (4, steps): log bytes over the probe's, and how they rise
    with grain; log damage, and the same of that."""
    knots = np.array(CURVES[name])
    steps = np.unique([*QUALITIES[format_name], *qualities, *knots[:, 0].astype(int)])
    at, known = np.searchsorted(steps, qualities), np.searchsorted(steps, knots[:, 0])
    return np.array([np.interp(at, known, knots[:, each]) for each in range(1, 5)])
