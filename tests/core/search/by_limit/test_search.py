import math
from dataclasses import replace

import pytest

from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.encoding.qualities import QUALITIES
from lean_parcel.core.encoding.settings import is_draft
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.search.by_limit import refining
from lean_parcel.core.search.by_limit.limit_search import MOST_TRIALS
from lean_parcel.core.search.by_limit.survey import MOST_AT_A_PLACE
from lean_parcel.core.search.curves import MIN_QUALITY
from lean_parcel.core.search.ladder import PartTrial, rung_between
from lean_parcel.core.search.scales import webp_scale
from tests.core.search.by_limit.running import run
from tests.core.search.fake_encoder import (
    SEARCH_INPUT,
    fake_encoder,
    is_lossless,
    large,
)


@pytest.mark.parametrize("name", FORMATS)
@pytest.mark.parametrize("limit_bytes", [900, 5_000, 20_000, 60_000, 200_000])
def test_a_candidate_was_measured_and_is_within_the_limit(name: Format, limit_bytes: int) -> None:
    candidate, made = run(name, limit_bytes)
    assert made[candidate.trial] == candidate.measured
    assert candidate.measured.size_bytes <= limit_bytes
    assert candidate.meets_aim
    assert len(made) <= MOST_TRIALS + 3  # these curves are unlike those that are known


def test_fewer_pixels_win_where_the_limit_is_tight() -> None:
    candidate, _ = run("webp", 12_000)
    assert candidate.trial.width_px < 1000


def test_a_pixel_count_between_the_measured_ones_wins_where_it_is_best() -> None:
    scale = webp_scale()

    def encoder(trial: Trial) -> Measured:
        step = scale.qualities.index(trial.settings.quality)  # type: ignore[union-attr]
        at = rung_between(SEARCH_INPUT.rungs, trial.width_px)
        likeness = at.ceiling - 120 * (1 - step / 101) ** 2
        return Measured(
            size_bytes=round(math.exp(scale.log_sizes(at)[step])),
            likeness=likeness - 900 * math.log(trial.width_px / 600) ** 2,
        )

    candidate, made = run("webp", 20_000, encoder)
    assert 570 <= candidate.trial.width_px <= 630
    assert candidate.measured.size_bytes > 0.95 * 20_000
    assert len(made) <= MOST_TRIALS


def test_where_nothing_fits_the_smallest_worth_offering_comes_back_as_over() -> None:
    only, _ = run("jpeg", 10)
    assert not only.meets_aim
    assert only.trial.width_px == 250
    assert only.trial.settings.quality >= MIN_QUALITY["jpeg"]  # type: ignore[union-attr]


@pytest.mark.parametrize("name", ["webp", "png"])
def test_a_lossless_file_that_fits_is_enough(name: Format) -> None:
    candidate, made = run(name, 700_000)
    assert is_lossless(candidate.trial.settings)
    assert len(made) == 1


@pytest.mark.parametrize("name", ["webp", "png"])
def test_a_lossless_file_that_cannot_fit_is_not_tried(name: Format) -> None:
    _, made = run(name, 60_000)
    assert not any(is_lossless(trial.settings) for trial in made)


def mode(trial: Trial) -> object:
    """What is the same of a trial at every quality."""
    field = "colours" if trial.settings.format == "png" else "quality"
    return replace(trial.settings, **{field: 50}), trial.width_px


def test_where_no_trials_are_left_for_it_a_pixel_count_between_two_places_is_tried_at_the_end(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(refining, "_KEPT", MOST_TRIALS)
    same = tuple(replace(rung, ceiling=100) for rung in SEARCH_INPUT.rungs)

    def encoder(trial: Trial) -> Measured:
        step = QUALITIES["avif"].index(trial.settings.quality)  # type: ignore[union-attr]
        most = 99 - 500 * math.log(trial.width_px / 640) ** 2
        return replace(fake_encoder(trial), likeness=most - 120 * (1 - step / 101) ** 2)

    search_input = replace(SEARCH_INPUT, is_grey=True, rungs=same)
    candidate, made = run("avif", 16_000, encoder, search_input)
    assert {500, 750} <= {trial.width_px for trial in made}
    assert 590 < candidate.trial.width_px < 690


def test_another_mode_is_searched_until_no_change_is_visible() -> None:
    _, alike = large(1)
    for limit_bytes, is_searched in ((55_000, True), (80_000, False)):
        candidate, made = run("avif", limit_bytes, alike)
        assert (candidate.measured.likeness < 90) == is_searched
        dear = [trial for trial in made if trial.settings.chroma == "4:4:4"]  # type: ignore[union-attr]
        assert (len(dear) > MOST_AT_A_PLACE) == is_searched


@pytest.mark.parametrize("name", ["jpeg", "webp", "avif"])
def test_modes_are_compared_and_a_search_stays_in_few_places(name: Format) -> None:
    _, made = run(name, 60_000)
    assert not any(is_draft(trial.settings) for trial in made)
    assert len({mode(trial) for trial in made}) >= 2
    assert len({mode(trial) for trial in made}) <= 5
    assert len(made) <= MOST_TRIALS


@pytest.mark.parametrize(("dear_bonus", "winner"), [(0.8, "4:4:4"), (-0.8, "4:2:0")])
def test_of_two_modes_that_are_nearly_alike_the_better_wins(dear_bonus: float, winner: str) -> None:
    def encoder(trial: Trial) -> Measured:
        made = fake_encoder(replace(trial, settings=replace(trial.settings, chroma="4:2:0")))
        is_full = getattr(trial.settings, "chroma", "") == "4:4:4"
        bonus = dear_bonus if is_full else 0.0
        return replace(made, likeness=made.likeness - 15 + bonus)

    candidate, _ = run("avif", 60_000, encoder)
    assert candidate.trial.settings.chroma == winner  # type: ignore[union-attr]


def test_a_mode_that_was_too_heavy_may_win_with_fewer_pixels() -> None:
    def dear_but_good(trial: Trial) -> Measured:
        made = fake_encoder(replace(trial, settings=replace(trial.settings, chroma="4:2:0")))
        if getattr(trial.settings, "chroma", "") != "4:4:4":
            return replace(made, likeness=made.likeness - 30)
        times = 6 if trial.width_px >= 750 else 1
        return replace(made, size_bytes=made.size_bytes * times)

    candidate, made = run("avif", 30_000, dear_but_good)
    assert candidate.trial.settings.chroma == "4:4:4"  # type: ignore[union-attr]
    assert candidate.trial.width_px < 750
    assert 750 in {trial.width_px for trial in made}


def test_where_nothing_fits_in_a_refined_place_the_one_that_it_came_from_is_searched() -> None:
    search_input, fake = large(2)
    measured_px = {rung.width_px for rung in search_input.rungs}

    def encoder(trial: Trial) -> Measured:
        made = fake(trial)
        is_heavy = trial.width_px not in measured_px and not isinstance(trial, PartTrial)
        likeness = made.likeness - 900 * math.log(trial.width_px / 1240) ** 2
        return Measured(size_bytes=10**6 if is_heavy else made.size_bytes, likeness=likeness)

    grey = replace(search_input, is_grey=True)
    candidate, made = run("webp", 16_000, encoder, grey)
    whole = {trial.width_px for trial in made if not isinstance(trial, PartTrial)}
    assert whole - measured_px
    assert candidate.trial.width_px in measured_px


def test_of_equals_the_lightest_is_found() -> None:
    candidate, made = run("webp", 60_000, lambda trial: replace(fake_encoder(trial), likeness=90.0))
    fitting = [each.size_bytes for each in made.values() if each.size_bytes <= 60_000]
    assert len(fitting) > 1
    assert candidate.measured.size_bytes == min(fitting)
