"""What other aims would come to in a format, by the model of a search: expected, with its band, and
not encoded."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from lean_parcel.core.arrays import F64
from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.encoding.held import HeldKnobs, with_held
from lean_parcel.core.encoding.qualities import quality_of
from lean_parcel.core.formats import Format
from lean_parcel.core.search.ladder import SearchInput, rung_between
from lean_parcel.core.search.modes import Mode, modes_of
from lean_parcel.core.search.picture_model import PictureModel

#: Points of a curve, evenly apart in the logarithm of bytes.
_POINTS = 24
#: Encodes that are told to the model at most: more of them tell little more.
_TOLD = 8


@dataclass(frozen=True, slots=True, kw_only=True)
class ForecastPoint:
    """The best likeness to expect at so many bytes; two in three are between `least` and `most`."""

    size_bytes: int
    likeness: float
    least: float
    most: float


def forecast(
    name: Format,
    search_input: SearchInput,
    made: Mapping[Trial, Measured],
    background: str,
    held: HeldKnobs,
) -> tuple[ForecastPoint, ...]:
    """The best that a format is expected to come to, by rising bytes, given what was encoded of the
    picture. It never looks worse with more bytes."""
    rungs = search_input.rungs
    own = {trial: each for trial, each in made.items() if trial.settings.format == name}
    widths = {trial.width_px for trial in own} | {rung.width_px for rung in rungs}
    at = [rung_between(rungs, width) for width in sorted(widths)]
    modes = modes_of(name, search_input, background)
    model = PictureModel(name, modes, at)
    for mode, step, trial in _told(modes, own, held):
        point = model.point(mode, step, trial.width_px)
        model.observe(point, own[trial], is_draft=False)
    log_bytes, log_damage = model.log_bytes[0], model.log_damage
    expected, worse, better = (
        model.likeness(log_damage[0] + by * log_damage[1]) for by in (0.0, 1.0, -1.0)
    )
    order = np.argsort(log_bytes)
    best = order[_index_of_rising_maximum(expected[order])]
    wanted = np.linspace(float(log_bytes.min()), float(log_bytes.max()), _POINTS)
    within = np.searchsorted(log_bytes[order], wanted, side="right") - 1
    return tuple(
        ForecastPoint(
            size_bytes=round(math.exp(size)),
            likeness=float(expected[point]),
            least=float(worse[point]),
            most=float(better[point]),
        )
        for size, point in zip(wanted, best[within], strict=True)
    )


def _told(
    modes: Sequence[Mode], made: Mapping[Trial, Measured], held: HeldKnobs
) -> list[tuple[Mode, int, Trial]]:
    """Some of what was encoded, with the modes and steps that it has, spread evenly over bytes."""
    found = []
    for trial in made:
        quality = quality_of(trial.settings)
        for mode in modes:
            if quality is not None and quality in mode.qualities:
                settings = mode.settings(quality)
                if trial.settings in (settings, with_held(settings, held)):
                    found.append((mode, mode.qualities.index(quality), trial))
    found.sort(key=lambda each: made[each[2]].size_bytes)
    chosen = np.linspace(0, len(found) - 1, min(_TOLD, len(found))).round().astype(int)
    return [found[index] for index in chosen]


def _index_of_rising_maximum(values: F64) -> F64:
    """At each value the index of the highest so far."""
    is_highest = values >= np.maximum.accumulate(values)
    return np.maximum.accumulate(np.where(is_highest, np.arange(len(values)), 0))
