"""Searches of large pictures, which are surveyed by a part."""

import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.encoding.qualities import QUALITIES
from lean_parcel.core.encoding.settings import JpegSettings, Settings, is_draft
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.search.by_limit.search import search_by_limit
from lean_parcel.core.search.curves import MIN_QUALITY
from lean_parcel.core.search.ladder import PartTrial, rung_between
from lean_parcel.core.search.scales import scales_of
from tests.core.search.by_limit.running import run
from tests.core.search.fake_encoder import (
    Encoder,
    large,
)


def test_of_large_pictures_no_other_place_is_searched_where_damage_is_hard_to_spot() -> None:
    search_input, alike = large(2)

    def promising(trial: Trial) -> Measured:
        """Parts of 4:4:4 look better than the whole will."""
        made = alike(trial)
        is_full = getattr(trial.settings, "chroma", "") == "4:4:4"
        promise = 3 if is_full and isinstance(trial, PartTrial) else 0
        return replace(made, likeness=made.likeness - 2 * is_full + promise)

    for limit_bytes, modes in ((52_000, 1), (40_000, 2)):
        candidate, made = run("avif", limit_bytes, promising, search_input)
        assert (candidate.measured.likeness >= 80) == (modes == 1)
        whole = {t.settings.chroma for t in made if not isinstance(t, PartTrial)}  # type: ignore[union-attr]
        assert len(whole) == modes


@pytest.mark.parametrize(("times", "whole"), [(1, True), (2, False)])
@pytest.mark.parametrize("name", ["webp", "png"])
def test_of_large_pictures_a_part_tells_whether_a_lossless_file_is_worth_trying(
    name: Format, times: int, whole: bool
) -> None:
    search_input, encoder = large(times)

    def heavy(trial: Trial) -> Measured:
        made = Measured(size_bytes=600_000, likeness=100)
        return made if keeps_all(trial.settings) else encoder(trial)

    _, made = run(name, 400_000, heavy, search_input)
    tried = [trial for trial in made if keeps_all(trial.settings)]
    assert [not isinstance(trial, PartTrial) for trial in tried] == [whole]


def keeps_all(settings: Settings) -> bool:
    """Whether every pixel stays as it is, with whatever effort."""
    return getattr(settings, "lossless", False) or getattr(settings, "colours", 0) is None


def test_of_large_pictures_nothing_is_tried_beyond_what_can_be_seen() -> None:
    def bright(encoder: Encoder) -> Encoder:
        return lambda trial: replace(encoder(trial), likeness=95)

    counts = []
    for times in (1, 2):
        search_input, encoder = large(times)
        _, made = run("avif", 70_000, bright(encoder), search_input)
        counts.append(sum(not isinstance(trial, PartTrial) for trial in made))
    assert counts[1] < counts[0]


@pytest.mark.parametrize(
    ("name", "limit_bytes", "times", "is_heavy"),
    [
        ("webp", 50_000, 1, False),
        ("webp", 50_000, 2, True),
        ("avif", 50_000, 2, True),
        ("jpeg", 70_000, 2, False),
    ],
)
def test_the_rest_of_a_limit_is_left_of_heavy_pictures_but_as_jpeg(
    name: Format, limit_bytes: int, times: int, is_heavy: bool
) -> None:
    search_input, encoder = large(times)
    _, made = run(name, limit_bytes, encoder, search_input)
    widths = {trial.width_px for trial in made if not isinstance(trial, PartTrial)}
    between = widths - {rung.width_px for rung in search_input.rungs}
    assert bool(between) != is_heavy


@pytest.mark.parametrize(("too_heavy", "winner"), [(1.15, "4:4:4"), (1.6, "4:2:0")])
def test_what_is_slightly_too_heavy_by_a_part_is_tried_beside_another_mode(
    too_heavy: float, winner: str
) -> None:
    """A screen, whose parts are heavier than what they stand for."""
    lowest = QUALITIES["avif"].index(MIN_QUALITY["avif"])

    def screen(trial: Trial) -> Measured:
        step = QUALITIES["avif"].index(trial.settings.quality)  # type: ignore[union-attr]
        is_full = getattr(trial.settings, "chroma", "") == "4:4:4"
        times = too_heavy if is_full and isinstance(trial, PartTrial) else 1.0
        likeness = 40 + step / 2 + (8 if is_full else 0)
        return Measured(size_bytes=round(times * (1000 + 6 * step)), likeness=likeness)

    search_input, _ = large(2)
    full = replace(search_input, rungs=search_input.rungs[:1])
    candidate, _ = run("avif", 1000 + 6 * (lowest + 3), screen, full)
    assert candidate.trial.settings.chroma == winner  # type: ignore[union-attr]


@pytest.mark.parametrize("name", FORMATS)
@given(
    limit_bytes=st.integers(2_000, 225_000),
    size_bias=st.floats(-0.3, 0.3),
    likeness_bias=st.floats(-6, 6),
)
def test_however_wrong_a_part_is_the_result_was_measured_whole_and_fits(
    name: Format, limit_bytes: int, size_bias: float, likeness_bias: float
) -> None:
    search_input, fake = large(2)

    def encoder(trial: Trial) -> Measured:
        measured = fake(trial)
        if not isinstance(trial, PartTrial):
            return measured
        return Measured(
            size_bytes=max(1, round(measured.size_bytes * math.exp(size_bias))),
            likeness=min(100.0, measured.likeness + likeness_bias),
        )

    candidate, made = run(name, limit_bytes, encoder, search_input)
    assert not isinstance(candidate.trial, PartTrial)
    assert made[candidate.trial] == candidate.measured
    assert candidate.meets_aim == (candidate.measured.size_bytes <= limit_bytes)


def test_a_large_picture_is_encoded_whole_only_at_the_end() -> None:
    search_input, encoder = large(2)
    for name in ("jpeg", "webp", "avif"):
        candidate, made = run(name, 60_000, encoder, search_input)  # type: ignore[arg-type]
        whole = [trial for trial in made if not isinstance(trial, PartTrial)]
        assert candidate.meets_aim
        assert len(whole) <= 5
        assert len(made) > len(whole)


def test_a_large_jpeg_begins_with_a_file_that_counts() -> None:
    search_input, encoder = large(2)
    _, made = run("jpeg", 60_000, encoder, search_input)
    first = next(iter(made))
    unmeasured = replace(search_input, rungs=search_input.rungs[:1], is_measured=False)
    assert next(search_by_limit("jpeg", unmeasured, 60_000, "#ffffff")) == first
    assert not isinstance(first, PartTrial)
    assert not is_draft(first.settings)

    def nearly_full(trial: Trial) -> Measured:
        measured = encoder(trial)
        return replace(measured, size_bytes=58_750) if trial == first else measured

    candidate, made = run("jpeg", 60_000, nearly_full, search_input)
    whole = [t for t in made if t.settings == first.settings and not isinstance(t, PartTrial)]
    assert whole == [first]
    assert candidate.measured.size_bytes > 0.9 * 60_000


@pytest.mark.parametrize("off", [0.8, 1.25])
def test_how_far_off_parts_are_is_learned_from_the_first_jpeg(off: float) -> None:
    search_input, encoder = large(2)

    def biased(trial: Trial) -> Measured:
        measured = encoder(trial)
        times = off if isinstance(trial, PartTrial) else 1.0
        return replace(measured, size_bytes=round(times * measured.size_bytes))

    found, made = run("jpeg", 60_000, encoder, search_input)
    found_so, made_so = run("jpeg", 60_000, biased, search_input)
    assert found_so == found
    assert list(made_so) == list(made)


@pytest.mark.parametrize("is_grey", [False, True])
def test_a_large_jpeg_begins_with_adaptive_quantisation_unless_it_is_grey(is_grey: bool) -> None:
    search_input = replace(large(2)[0], is_grey=is_grey, is_measured=False)
    first = next(search_by_limit("jpeg", search_input, 60_000, "#ffffff"))
    assert isinstance(first.settings, JpegSettings)
    assert first.settings.adaptive != is_grey


def test_the_pixels_of_a_large_palette_are_refined_by_files() -> None:
    search_input, encoder = large(2)
    measured_px = {rung.width_px for rung in search_input.rungs}
    _, made = run("png", 30_000, encoder, search_input)
    parts = {trial.width_px for trial in made if isinstance(trial, PartTrial)}
    assert parts
    assert parts <= measured_px
    assert {trial.width_px for trial in made} > parts


def test_a_step_that_is_known_to_be_too_heavy_is_not_encoded_with_all_pixels() -> None:
    search_input, encoder = large(2)
    adaptive, *_ = scales_of("jpeg", search_input, "#ffffff")

    def known(trial: Trial) -> Measured:
        """Adaptive JPEGs have the bytes that are expected of them, others more."""
        settings = trial.settings
        assert isinstance(settings, JpegSettings)
        step = adaptive.qualities.index(settings.quality)
        log_size = adaptive.log_sizes(rung_between(search_input.rungs, trial.width_px))[step]
        times = 1 if settings.adaptive else 2
        return replace(encoder(trial), size_bytes=round(times * math.exp(log_size)))

    for limit_bytes in range(40_000, 120_000, 5_000):
        candidate, made = run("jpeg", limit_bytes, known, search_input)
        whole = [trial for trial in made if not isinstance(trial, PartTrial)]
        assert candidate.meets_aim
        assert all(made[trial].size_bytes <= 1.02 * limit_bytes for trial in whole[1:])
