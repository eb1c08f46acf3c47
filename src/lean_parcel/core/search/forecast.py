"""What other aims, and other qualities, would come to in a format, by the model of a search:
expected, and not encoded."""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from lean_parcel.core.arrays import F64
from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.encoding.held import HeldKnobs, with_held
from lean_parcel.core.encoding.qualities import QUALITIES, at_quality, quality_of
from lean_parcel.core.encoding.settings import EncoderSettings, settings_values
from lean_parcel.core.formats import Format
from lean_parcel.core.search.ladder import Rung, SearchInput, rung_between
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


@dataclass(frozen=True, slots=True, kw_only=True)
class QualityStep:
    """What an encode comes to at a step of quality: measured, or else expected."""

    step: int
    size_bytes: int
    likeness: float
    is_measured: bool


def forecast(
    name: Format,
    search_input: SearchInput,
    made: Mapping[Trial, Measured],
    background: str,
    held: HeldKnobs,
) -> tuple[ForecastPoint, ...]:
    """The best that a format is expected to come to, by rising bytes, given what was encoded of the
    picture. It never looks worse with more bytes."""
    own = {trial: each for trial, each in made.items() if trial.settings.format == name}
    modes = modes_of(name, search_input, background)
    model = PictureModel(name, modes, _rungs_of(search_input, own))
    _tell(model, _told(modes, own, held), own)
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


def along_quality(
    settings: EncoderSettings,
    width_px: int,
    search_input: SearchInput,
    made: Mapping[Trial, Measured],
    background: str,
    held: HeldKnobs,
) -> tuple[QualityStep, ...]:
    """What settings come to at each step of quality, rising, with so many pixels sent and all else
    as it is; nothing where they have no quality. The curve is that of the mode most like them,
    corrected by what was measured."""
    if quality_of(settings) is None:
        return ()
    name = settings.format
    own = {trial: each for trial, each in made.items() if trial.settings.format == name}
    series = {
        trial: quality
        for trial in own
        if (quality := quality_of(trial.settings)) is not None
        and (trial.settings, trial.width_px) == (at_quality(settings, quality), width_px)
    }
    modes = modes_of(name, search_input, background)
    nearest = min(modes, key=lambda mode: _differences(mode, settings))
    mode = Mode(nearest.name, name, QUALITIES[name], lambda step: at_quality(settings, step))
    model = PictureModel(name, [*modes, mode], _rungs_of(search_input, own, width_px))
    others = {trial: each for trial, each in own.items() if trial not in series}
    _tell(model, _told(modes, others, held), own)
    on_steps = [(mode, mode.qualities.index(at), trial) for trial, at in series.items()]
    _tell(model, _some(on_steps, own), own)
    first = model.point(mode, 0, width_px)
    points = slice(first, first + len(mode.qualities))
    log_bytes = model.log_bytes[0][points]
    likeness = model.likeness(model.log_damage[0])[points]
    measured = {quality: own[trial] for trial, quality in series.items()}
    return tuple(
        QualityStep(
            step=step,
            size_bytes=known.size_bytes if known else round(math.exp(size)),
            likeness=known.likeness if known else float(looks),
            is_measured=known is not None,
        )
        for step, size, looks in zip(mode.qualities, log_bytes, likeness, strict=True)
        for known in [measured.get(step)]
    )


def _rungs_of(search_input: SearchInput, trials: Iterable[Trial], *widths_px: int) -> list[Rung]:
    """The pixel counts that are measured, encoded, or given, fewest first."""
    rungs = search_input.rungs
    widths = {rung.width_px for rung in rungs} | {trial.width_px for trial in trials}
    return [rung_between(rungs, width) for width in sorted(widths.union(widths_px))]


def _differences(mode: Mode, settings: EncoderSettings) -> int:
    """How many settings of a mode are others, but for the quality."""
    own, there = settings_values(mode.settings(mode.qualities[0])), settings_values(settings)
    return sum(own[field] != there[field] for field in own if field not in ("quality", "colours"))


_OnStep = tuple[Mode, int, Trial]


def _tell(model: PictureModel, on_steps: Sequence[_OnStep], made: Mapping[Trial, Measured]) -> None:
    for mode, step, trial in on_steps:
        point = model.point(mode, step, trial.width_px)
        model.observe(point, made[trial], is_draft=False)


def _told(modes: Sequence[Mode], made: Mapping[Trial, Measured], held: HeldKnobs) -> list[_OnStep]:
    """Some of what was encoded, with the modes and steps that it has."""
    found = []
    for trial in made:
        quality = quality_of(trial.settings)
        for mode in modes:
            if quality is not None and quality in mode.qualities:
                settings = mode.settings(quality)
                if trial.settings in (settings, with_held(settings, held)):
                    found.append((mode, mode.qualities.index(quality), trial))
    return _some(found, made)


def _some(found: Sequence[_OnStep], made: Mapping[Trial, Measured]) -> list[_OnStep]:
    """Not too many, spread evenly over bytes."""
    rising = sorted(found, key=lambda each: made[each[2]].size_bytes)
    chosen = np.linspace(0, len(rising) - 1, min(_TOLD, len(rising))).round().astype(int)
    return [rising[index] for index in chosen]


def _index_of_rising_maximum(values: F64) -> F64:
    """At each value the index of the highest so far."""
    is_highest = values >= np.maximum.accumulate(values)
    return np.maximum.accumulate(np.where(is_highest, np.arange(len(values)), 0))
