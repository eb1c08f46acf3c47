import math
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest

from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.search.forecast import ForecastPoint, forecast
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
