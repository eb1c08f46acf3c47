import math

import numpy as np
import pytest

from lean_parcel.core.candidates.trial import Measured
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.search.ladder import rungs_between
from lean_parcel.core.search.modes import modes_of
from lean_parcel.core.search.picture_model import PictureModel
from tests.core.search.fake_encoder import SEARCH_INPUT

RUNGS = SEARCH_INPUT.rungs


def model(name: Format) -> PictureModel:
    return PictureModel(name, modes_of(name, SEARCH_INPUT, "#ffffff"), rungs_between(RUNGS))


def points(of: PictureModel, mode: int, width_px: int) -> list[int]:
    """The points of a mode at a width, by step."""
    name = modes_of("jpeg", SEARCH_INPUT, "#ffffff")[mode].name
    every = range(len(of.seconds))
    return [p for p in every if of.at(p)[0].name == name and of.at(p)[2].width_px == width_px]


@pytest.mark.parametrize("name", FORMATS)
def test_every_step_of_every_mode_is_there_at_every_width(name: Format) -> None:
    of = model(name)
    modes = modes_of(name, SEARCH_INPUT, "#ffffff")
    widths = {of.at(point)[2].width_px for point in range(len(of.seconds))}
    assert widths >= {rung.width_px for rung in RUNGS}
    assert (min(widths), max(widths)) == (RUNGS[-1].width_px, RUNGS[0].width_px)
    there = [
        of.point(of.at(p)[0], of.at(p)[1], of.at(p)[2].width_px)
        for p in (0, 321, len(of.seconds) - 1)
    ]
    assert there == [0, 321, len(of.seconds) - 1]
    assert len(of.seconds) == len(widths) * sum(len(mode.qualities) for mode in modes)
    assert of.is_full.sum() == sum(len(mode.qualities) for mode in modes)


def test_bytes_rise_with_quality_and_pixels_and_damage_falls_with_quality() -> None:
    of = model("jpeg")
    full, half = points(of, 0, 1000), points(of, 0, 500)
    log_bytes, log_damage = of.log_bytes[0], of.log_damage[0]
    assert len(full) == len(half) == 100
    assert (np.diff(log_bytes[full]) > 0).all()
    assert (log_bytes[full] > log_bytes[half]).all()
    assert log_damage[full[20]] > log_damage[full[60]] > log_damage[full[95]]


def test_a_photo_that_turns_out_heavy_is_expected_heavy_in_other_modes_too() -> None:
    of = model("jpeg")
    near, other = points(of, 0, 1000)[60], points(of, 1, 750)[50]
    before, unsure = of.log_bytes[0].copy(), of.log_bytes[1].copy()
    heavy = Measured(size_bytes=round(math.exp(before[near] + 0.3)), likeness=70)
    of.observe(near, heavy, is_draft=False)
    after, sure = of.log_bytes
    assert after[near] == pytest.approx(before[near] + 0.3, abs=0.02)
    assert before[other] < after[other] < before[other] + 0.3
    assert sure[near] < 0.05
    assert sure[other] < unsure[other]


def test_likeness_and_damage_are_the_same_told_twice() -> None:
    of = model("webp")
    likeness = of.likeness(np.full(len(of.seconds), math.log(12)))
    assert likeness[of.is_full] == pytest.approx(88)
    assert (likeness <= 88 + 1e-9).all()
    for wanted in (30.0, 60.0):
        assert of.likeness(of.log_damage_at(wanted)) == pytest.approx(
            np.minimum(wanted, [of.at(p)[2].ceiling for p in range(len(likeness))])
        )
    assert np.isneginf(of.log_damage_at(95)[~of.is_full]).any()


def test_a_draft_is_worth_it_until_something_was_measured_there() -> None:
    of = model("avif")
    assert of.is_drafted_well(2_000)
    of.observe(2_000, Measured(size_bytes=20_000, likeness=70), is_draft=False)
    assert not of.is_drafted_well(2_000)
