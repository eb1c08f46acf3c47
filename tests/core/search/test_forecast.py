import math
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest

from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.encoding.qualities import QUALITIES, at_quality
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    EncoderSettings,
    JpegSettings,
    PngSettings,
    WebpSettings,
)
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.search.forecast import (
    ForecastPoint,
    QualityStep,
    along_quality,
    forecast,
)
from lean_parcel.core.search.ladder import rung_between
from lean_parcel.core.search.modes import modes_of
from tests.core.search.fake_encoder import SEARCH_INPUT


def told(name: Format, made: dict[Trial, Measured]) -> tuple[ForecastPoint, ...]:
    return forecast(name, SEARCH_INPUT, made, "#ffffff", {})


def at(curve: tuple[ForecastPoint, ...], size_bytes: float) -> ForecastPoint:
    """The point nearest to a size."""
    return min(curve, key=lambda each: abs(math.log(each.size_bytes / size_bytes)))


def trial(quality: int, width_px: int = 1000, chroma: int = 0) -> Trial:
    mode = modes_of("jpeg", SEARCH_INPUT, "#ffffff")[chroma]
    return mode.trial(mode.qualities.index(quality), rung_between(SEARCH_INPUT.rungs, width_px))


@pytest.mark.parametrize("name", FORMATS)
def test_before_anything_is_encoded_it_is_that_of_an_average_picture(name: Format) -> None:
    curve = told(name, {})
    assert all(a.size_bytes < b.size_bytes for a, b in pairwise(curve))
    assert all(a.likeness <= b.likeness for a, b in pairwise(curve))
    assert all(each.least <= each.likeness <= each.most <= 100 for each in curve)
    assert curve[0].likeness < 50 < 90 < curve[-1].likeness


def test_what_was_encoded_moves_it_and_narrows_it() -> None:
    before = at(told("jpeg", {}), 60_000)
    better, worse = (
        {trial(76): Measured(size_bytes=60_000, likeness=before.likeness + by)} for by in (6, -12)
    )
    after = at(told("jpeg", better), 60_000)
    assert after.likeness > before.likeness > at(told("jpeg", worse), 60_000).likeness
    assert after.most - after.least < before.most - before.least


def test_an_encode_at_a_width_between_is_told_too_and_another_format_is_not() -> None:
    odd = {trial(75, 811): Measured(size_bytes=300_000, likeness=60.0)}
    assert told("jpeg", odd) != told("jpeg", {})
    assert told("webp", odd) == told("webp", {})


def test_with_knobs_that_are_held_encodes_are_known_by_them() -> None:
    held = {"jpeg": {"table": 4}}
    made = trial(75)
    there = replace(made, settings=replace(made.settings, table=4))  # type: ignore[call-arg]
    heavy = {there: Measured(size_bytes=300_000, likeness=60.0)}
    assert forecast("jpeg", SEARCH_INPUT, heavy, "#ffffff", held) != told("jpeg", {})
    assert told("jpeg", heavy) == told("jpeg", {})


def test_many_encodes_are_told_in_part_only() -> None:
    chance = np.random.default_rng(1)
    made = {
        trial(quality): Measured(size_bytes=1_000 * quality, likeness=float(chance.uniform(60, 90)))
        for quality in range(20, 90)
    }
    assert len(told("jpeg", made)) == len(told("jpeg", {}))


SETTINGS: tuple[EncoderSettings, ...] = (
    JpegSettings(quality=70, chroma="4:2:0"),
    JpegSettings(quality=70, chroma="4:2:0", table=4, trellis=False),
    WebpSettings(quality=50),
    AvifSettings(quality=50, chroma="4:4:4", speed=8),
    PngSettings(colours=64),
)


def steps_of(
    settings: EncoderSettings, made: dict[Trial, Measured], width_px: int = 1000
) -> dict[int, QualityStep]:
    steps = along_quality(settings, width_px, SEARCH_INPUT, made, "#ffffff", {})
    return {each.step: each for each in steps}


@pytest.mark.parametrize("settings", SETTINGS)
def test_every_step_of_quality_is_expected_and_more_of_it_takes_more(
    settings: EncoderSettings,
) -> None:
    steps = steps_of(settings, {})
    assert tuple(steps) == QUALITIES[settings.format]
    assert not any(each.is_measured for each in steps.values())
    assert all(a.size_bytes <= b.size_bytes for a, b in pairwise(steps.values()))
    assert all(a.likeness <= b.likeness for a, b in pairwise(steps.values()))


@pytest.mark.parametrize("settings", SETTINGS)
def test_what_was_measured_is_told_as_it_is_and_moves_its_neighbours(
    settings: EncoderSettings,
) -> None:
    middle = QUALITIES[settings.format][len(QUALITIES[settings.format]) // 2]
    before = steps_of(settings, {})
    there = Trial(settings=at_quality(settings, middle), width_px=1000, height_px=750)
    made = {there: Measured(size_bytes=before[middle].size_bytes * 2, likeness=71.25)}
    after = steps_of(settings, made)
    assert after[middle] == QualityStep(
        step=middle,
        size_bytes=before[middle].size_bytes * 2,
        likeness=71.25,
        is_measured=True,
    )
    assert sum(each.is_measured for each in after.values()) == 1
    for step, each in after.items():
        assert each.size_bytes > 1.1 * before[step].size_bytes


def test_what_was_measured_otherwise_tells_of_it_and_is_not_taken_for_it() -> None:
    settings = JpegSettings(quality=70, chroma="4:2:0", table=4)
    before = steps_of(settings, {})
    heavy = {trial(70): Measured(size_bytes=before[70].size_bytes * 2, likeness=60.0)}
    after = steps_of(settings, heavy)
    assert not any(each.is_measured for each in after.values())
    assert before[70].size_bytes < after[70].size_bytes < 2 * before[70].size_bytes


def test_fewer_pixels_take_fewer_bytes_and_are_told_apart() -> None:
    settings = JpegSettings(quality=70, chroma="4:2:0")
    made = {trial(70): Measured(size_bytes=60_000, likeness=80.0)}
    at_full, at_half = steps_of(settings, made), steps_of(settings, made, width_px=500)
    assert at_full[70].is_measured
    assert not at_half[70].is_measured
    assert at_half[70].size_bytes < at_full[70].size_bytes


@pytest.mark.parametrize(
    "settings", [PngSettings(colours=None), WebpSettings(quality=75, lossless=True)]
)
def test_what_has_no_quality_has_no_steps(settings: EncoderSettings) -> None:
    assert steps_of(settings, {}) == {}
