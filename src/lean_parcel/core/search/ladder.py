"""The ladder of a framed photo: the pixel counts that a candidate may have, and what a search needs
to know of each."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.encoding.settings import Settings

#: Fractions of the framed width that are measured; a candidate may have any between them.
PIXEL_RATIOS = (1.0, 0.75, 0.5, 0.35, 0.25)


#: Ceilings at three quarters of the width were 38 to 51 for lettering, line art and screens, and 63
#: to 80 for photographs (a star field 53).
_SHARP = 55


@dataclass(frozen=True, slots=True, kw_only=True)
class Rung:
    """A pixel count, and its bytes as a baseline JPEG (`probe`) and as a quickly deflated PNG. Its
    `ceiling` is the likeness of its undamaged pixels after the browser's enlargement, which bounds
    what any encoder can reach there."""

    width_px: int
    height_px: int
    probe_size_bytes: int
    quick_png_size_bytes: int
    ceiling: float


@dataclass(frozen=True, slots=True, kw_only=True)
class SearchInput:
    """What a search needs to know of a framed photo: its rungs, most pixels first; whether any of
    it is transparent, and whether all of it is grey. Until the ladder `is_measured` only the first
    rung is known."""

    rungs: tuple[Rung, ...]
    is_transparent: bool
    is_grey: bool = False
    is_measured: bool = True

    @property
    def is_sharp(self) -> bool:
        """Whether much is lost with the first pixels that are, as of line art and lettering."""
        return len(self.rungs) > 1 and self.rungs[1].ceiling < _SHARP


@dataclass(frozen=True, slots=True, kw_only=True)
class PartTrial(Trial):
    """A draft of a part of a picture, which has the pixels of a rung; what comes of it is an
    estimate of the whole, and no file."""

    rung: Rung


def trial_at(settings: Settings, rung: Rung) -> Trial:
    """An encode with settings at a pixel count."""
    return Trial(settings=settings, width_px=rung.width_px, height_px=rung.height_px)


def part_trial_at(settings: Settings, rung: Rung) -> PartTrial:
    """A draft of a part with settings at a pixel count."""
    return PartTrial(settings=settings, width_px=rung.width_px, height_px=rung.height_px, rung=rung)


#: Above the first fewer pixels ceilings rise half as steeply as below them, up to hardly fewer than
#: all: at 0.95 of the width those of 26 demo photos and made-up pictures were 20 lower on average
#: than on the line to 100.
_RISE = 0.5


#: Widths between measured ones are multiples of this share of the framed width: close limits lead
#: to the same encodes. Twice as coarse lost 0.05 points (21 pictures, six aims).
_GRAIN = 1 / 32


def rungs_between(rungs: Sequence[Rung]) -> list[Rung]:
    """The pixel counts that a candidate may have, fewest first, given the measured ones, most
    first."""
    full, fewest = rungs[0], rungs[-1]
    count = round(1 / _GRAIN) if len(rungs) > 1 else 0
    on_grain = {max(1, round(full.width_px * each * _GRAIN)) for each in range(1, count)}
    widths = {rung.width_px for rung in rungs} | {w for w in on_grain if w > fewest.width_px}
    return [rung_between(rungs, width) for width in sorted(widths)]


def rung_between(rungs: Sequence[Rung], width_px: int) -> Rung:
    """A pixel count between measured ones: what is known of its neighbours, interpolated over the
    logarithm of the width, so that its ceiling is an estimate."""
    full = rungs[0]
    measured = next((rung for rung in rungs if rung.width_px == width_px), None)
    if measured:
        return measured
    fewest_first = rungs[::-1]
    log_widths = np.log([rung.width_px for rung in fewest_first])
    ceilings = [*(rung.ceiling for rung in fewest_first[:-1]), _ceiling_at_the_top(fewest_first)]

    def between(values: Sequence[float]) -> float:
        return float(np.interp(np.log(width_px), log_widths, values))

    def size_between(sizes: Sequence[int]) -> int:
        return round(float(np.exp(between(np.log(sizes).tolist()))))

    return Rung(
        width_px=width_px,
        height_px=max(1, round(full.height_px * width_px / full.width_px)),
        probe_size_bytes=size_between([rung.probe_size_bytes for rung in fewest_first]),
        quick_png_size_bytes=size_between([rung.quick_png_size_bytes for rung in fewest_first]),
        ceiling=between(ceilings),
    )


def _ceiling_at_the_top(fewest_first: Sequence[Rung]) -> float:
    """What a ceiling comes to with hardly fewer than all pixels: some sharpness is lost at once."""
    fewer, full = fewest_first[:-1], fewest_first[-1]
    if len(fewer) < 2:
        return (fewer or fewest_first)[-1].ceiling
    below, above = fewer[-2:]
    slope = (above.ceiling - below.ceiling) / math.log(above.width_px / below.width_px)
    rise = _RISE * slope * math.log(full.width_px / above.width_px)
    return min(max(above.ceiling + rise, above.ceiling), 100.0)
