"""Which modes and pixel counts are looked at."""

from dataclasses import replace

import numpy as np
import pytest

from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.formats import Format
from lean_parcel.core.search.by_limit.survey import MOST_AT_A_PLACE
from lean_parcel.core.search.ladder import rung_between
from tests.core.search.by_limit.running import run
from tests.core.search.fake_encoder import (
    SEARCH_INPUT,
    fake_encoder,
)


def test_pixel_counts_that_cannot_win_are_not_encoded() -> None:
    candidate, made = run("webp", 200_000)
    assert candidate.measured.likeness > 88
    assert min(trial.width_px for trial in made) > 900


def test_a_pixel_count_that_cannot_use_its_bytes_is_not_thought_better_for_them() -> None:
    """At 350 px the longest palette leaves half of the limit unused."""

    def encoder(trial: Trial) -> Measured:
        made = fake_encoder(trial)
        widths = [250, 350, 500, 750, 1000]
        bytes_left = float(np.interp(trial.width_px, widths, [0.2, 0.4, 1.0, 2.0, 4.0]))
        likeness = float(np.interp(trial.width_px, widths, [40.0, 50.8, 54.7, 30.0, 10.0]))
        colours = getattr(trial.settings, "colours", None) or 256
        size_bytes = int(bytes_left * 70_000 * (colours / 256) ** 0.5)
        return replace(made, size_bytes=size_bytes, likeness=likeness)

    candidate, _ = run("png", 72_000, encoder)
    assert 480 <= candidate.trial.width_px <= 520


@pytest.mark.parametrize(("ceiling", "width_px"), [(80, 1000), (99, 500)])
def test_where_fewer_pixels_alone_do_no_harm_still_fewer_are_surveyed(
    ceiling: float, width_px: int
) -> None:
    full, *fewer = SEARCH_INPUT.rungs
    search_input = replace(
        SEARCH_INPUT, rungs=(full, *(replace(rung, ceiling=ceiling) for rung in fewer))
    )
    widths, likeness = [250, 350, 500, 750, 1000], [50.0, 60.0, 70.0, 58.0, 60.0]

    def encoder(trial: Trial) -> Measured:
        made = fake_encoder(trial)
        most = float(np.interp(trial.width_px, widths, likeness))
        return replace(made, likeness=min(most, made.likeness))

    candidate, _ = run("webp", 40_000, encoder, search_input)
    assert candidate.trial.width_px == pytest.approx(width_px, rel=0.1)


def test_with_fewer_pixels_only_sharp_chroma_is_tried() -> None:
    _, made = run("webp", 30_000)
    sharp = {False: set[bool](), True: set[bool]()}
    for trial in made:
        sharp[trial.width_px == 1000].add(trial.settings.sharp_chroma)  # type: ignore[union-attr]
    assert sharp == {True: {False, True}, False: {True}}


def test_fewer_pixels_that_look_no_better_are_left_at_that() -> None:
    def worthless_below_full(trial: Trial) -> Measured:
        made = fake_encoder(trial)
        return made if trial.width_px == 1000 else replace(made, likeness=-50)

    _, made = run("webp", 20_000, worthless_below_full)
    fewer = [trial for trial in made if trial.width_px < 1000]
    assert {trial.width_px for trial in fewer if trial.width_px < 900} == {750}
    assert sum(trial.width_px == 750 for trial in fewer) <= MOST_AT_A_PLACE


def test_a_survey_begins_with_the_most_pixels_that_leave_its_start_quality() -> None:
    _, made = run("webp", 9_000)
    assert next(iter(made)).width_px == 500


def test_a_photo_lighter_than_expected_is_surveyed_with_more_pixels_too() -> None:
    def light(trial: Trial) -> Measured:
        made = fake_encoder(trial)
        return replace(made, size_bytes=made.size_bytes // 3)

    _, made = run("webp", 12_000, light)
    assert next(iter(made)).width_px < 1000
    assert 1000 in {trial.width_px for trial in made}


def test_where_few_colours_come_near_the_ceiling_more_pixels_are_surveyed_too() -> None:
    def drawing(trial: Trial) -> Measured:
        made = fake_encoder(trial)
        return replace(made, likeness=rung_between(SEARCH_INPUT.rungs, trial.width_px).ceiling - 1)

    candidate, made = run("png", 35_000, drawing)
    first = next(iter(made)).width_px
    assert candidate.trial.width_px > first


def test_a_palette_gets_more_and_more_pixels_while_that_looks_better() -> None:
    """A logo, whose bytes grow less with its pixels than those of photos."""

    def logo(trial: Trial) -> Measured:
        colours = getattr(trial.settings, "colours", None) or 1_000
        size_bytes = round(3_600 * (trial.width_px / 250) ** 0.6 * colours**0.4)
        ceiling = rung_between(SEARCH_INPUT.rungs, trial.width_px).ceiling
        return Measured(size_bytes=size_bytes, likeness=ceiling - 60 / colours)

    candidate, made = run("png", 25_000, logo)
    assert candidate.trial.width_px == 1000
    assert {500, 750, 1000} <= {trial.width_px for trial in made}


def test_grey_pixels_have_one_mode_only() -> None:
    grey = replace(SEARCH_INPUT, is_grey=True)
    for name, field in (("jpeg", "chroma"), ("avif", "chroma"), ("webp", "sharp_chroma")):
        _, made = run(name, 60_000, search_input=grey)  # type: ignore[arg-type]
        assert len({getattr(trial.settings, field) for trial in made}) == 1


@pytest.mark.parametrize("name", ["jpeg", "avif"])
def test_both_chroma_modes_are_considered_at_full_pixels(name: Format) -> None:
    _, made = run(name, 60_000)
    full = {trial.settings.chroma for trial in made if trial.width_px == 1000}  # type: ignore[union-attr]
    assert full == {"4:2:0", "4:4:4"}
