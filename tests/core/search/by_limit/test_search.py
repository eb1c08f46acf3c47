import math
import random
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.qualities import QUALITIES
from lean_parcel.core.encoding.settings import Settings, is_draft
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.source import Limits
from lean_parcel.core.search.bracket import PATIENCE
from lean_parcel.core.search.by_limit import refining
from lean_parcel.core.search.by_limit.search import search_by_limit
from lean_parcel.core.search.by_limit.state import MOST_TRIALS
from lean_parcel.core.search.by_limit.survey import MOST_AT_A_PLACE
from lean_parcel.core.search.curves import MIN_QUALITY
from lean_parcel.core.search.ladder import PartTrial, SearchInput, rung_between
from lean_parcel.core.search.scales import scales_of, webp_scale
from lean_parcel.work.tasks.encoder_input import EncoderInput
from lean_parcel.work.tasks.encoding import encode_task
from lean_parcel.work.tasks.framing import frame_task
from lean_parcel.work.tasks.ladder import measure_ladder_task
from tests.builders import cutout, file, photo
from tests.core.search.fake_encoder import (
    SEARCH_INPUT,
    Encoder,
    carry_out,
    fake_encoder,
    is_lossless,
    large,
)


def run(
    name: Format,
    limit_bytes: int,
    encoder: Encoder = fake_encoder,
    search_input: SearchInput = SEARCH_INPUT,
) -> tuple[Candidate, dict[Trial, Measured]]:
    """A search's candidate, and everything it had encoded."""
    return carry_out(search_by_limit(name, search_input, limit_bytes, "#ffffff"), encoder)


@pytest.mark.parametrize("name", FORMATS)
@pytest.mark.parametrize("limit_bytes", [900, 5_000, 20_000, 60_000, 200_000])
def test_a_candidate_was_measured_and_is_within_the_limit(name: Format, limit_bytes: int) -> None:
    candidate, made = run(name, limit_bytes)
    assert made[candidate.trial] == candidate.measured
    assert candidate.measured.size_bytes <= limit_bytes
    assert candidate.meets_aim
    assert len(made) <= MOST_TRIALS + 3  # these curves are unlike those that are known


@pytest.mark.parametrize("name", ["jpeg", "avif"])
def test_both_chroma_modes_are_considered_at_full_pixels(name: Format) -> None:
    _, made = run(name, 60_000)
    full = {trial.settings.chroma for trial in made if trial.width_px == 1000}  # type: ignore[union-attr]
    assert full == {"4:2:0", "4:4:4"}


def test_fewer_pixels_win_where_the_limit_is_tight() -> None:
    candidate, _ = run("webp", 12_000)
    assert candidate.trial.width_px < 1000


def test_pixel_counts_that_cannot_win_are_not_encoded() -> None:
    candidate, made = run("webp", 200_000)
    assert candidate.measured.likeness > 88
    assert min(trial.width_px for trial in made) > 900


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


@settings(max_examples=40, deadline=None)
@example(seed=0, width_px=1, height_px=1, limit_bytes=267, is_cutout=False, name="jpeg")
@given(
    seed=st.integers(0, 10_000),
    width_px=st.integers(1, 72),
    height_px=st.integers(1, 56),
    limit_bytes=st.integers(1, 12_000),
    is_cutout=st.booleans(),
    name=st.sampled_from(FORMATS),
)
def test_no_real_file_marked_as_fitting_is_over_its_limit_by_a_byte(
    seed: int, width_px: int, height_px: int, limit_bytes: int, is_cutout: bool, name: Format
) -> None:
    pixels = (cutout if is_cutout else photo)(width_px, height_px, seed)
    framed = frame_task(file(pixels), "p.png", Framing(), Place(css_width_px=64), Limits())
    encoder_input = EncoderInput(pixels_png=framed.pixels_png)
    search_input = measure_ladder_task(encoder_input, framed.search_input)
    files: dict[Trial, bytes] = {}

    def real_encoder(trial: Trial) -> Measured:
        encoded = encode_task(encoder_input, trial)
        files[trial] = encoded.data
        return encoded.measured

    found, made = run(name, limit_bytes, real_encoder, search_input)
    size_bytes = len(files[found.trial])
    assert size_bytes == found.measured.size_bytes == made[found.trial].size_bytes
    assert found.meets_aim == (size_bytes <= limit_bytes)
    if not found.meets_aim:
        assert all(size.size_bytes > limit_bytes for size in made.values())
    if (found.trial.width_px, found.trial.height_px) == pixels.shape[1::-1]:
        assert encode(pixels, found.trial.settings) == files[found.trial]


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


def test_of_equals_the_lightest_is_found() -> None:
    candidate, made = run("webp", 60_000, lambda trial: replace(fake_encoder(trial), likeness=90.0))
    fitting = [each.size_bytes for each in made.values() if each.size_bytes <= 60_000]
    assert len(fitting) > 1
    assert candidate.measured.size_bytes == min(fitting)


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


def test_grey_pixels_have_one_mode_only() -> None:
    grey = replace(SEARCH_INPUT, is_grey=True)
    for name, field in (("jpeg", "chroma"), ("avif", "chroma"), ("webp", "sharp_chroma")):
        _, made = run(name, 60_000, search_input=grey)  # type: ignore[arg-type]
        assert len({getattr(trial.settings, field) for trial in made}) == 1


@settings(max_examples=150, deadline=None)
@example(name="png", limit_bytes=10_012, seed=413, kind="noise")
@example(name="png", limit_bytes=59_567, seed=31_514, kind="noise")
@example(name="png", limit_bytes=80_933, seed=937_938, kind="noise")
@given(
    name=st.sampled_from(FORMATS),
    limit_bytes=st.integers(1, 300_000),
    seed=st.integers(0, 10**6),
    kind=st.sampled_from(["noise", "steps", "plateau", "jump"]),
)
def test_whatever_the_encoders_do_the_result_fits_and_is_full_or_the_next_step_does_not_fit(
    name: Format, limit_bytes: int, seed: int, kind: str
) -> None:
    encoder = nasty(kind, seed)
    candidate, made = run(name, limit_bytes, encoder)
    assert made[candidate.trial] == candidate.measured
    assert candidate.meets_aim == (candidate.measured.size_bytes <= limit_bytes)
    if not candidate.meets_aim:
        assert all(measured.size_bytes > limit_bytes for measured in made.values())
    elif not is_lossless(candidate.trial.settings):
        fitting = {
            trial: measured
            for trial, measured in made.items()
            if measured.size_bytes <= limit_bytes
        }
        assert candidate.measured.likeness == max(each.likeness for each in fitting.values())
        assert any(
            measured.size_bytes >= 0.95 * limit_bytes or is_filled(trial, made, limit_bytes)
            for trial, measured in fitting.items()
        )
    modes = scales_of(name, SEARCH_INPUT, "#ffffff")
    places = len(modes) * len(SEARCH_INPUT.rungs)
    assert len(made) <= places * (MOST_AT_A_PLACE + PATIENCE + math.ceil(math.log2(101)))


def nasty(kind: str, seed: int) -> Encoder:
    """Encoders whose bytes do as they like; every trial always comes to the same."""

    def encoder(trial: Trial) -> Measured:
        made = fake_encoder(trial)
        dice = random.Random(f"{seed} {trial}")
        size_bytes = {
            "noise": dice.randint(1, 400_000),
            "steps": 2 ** round(math.log2(made.size_bytes)),
            "plateau": max(made.size_bytes, 5_000 + seed % 30_000),
            "jump": made.size_bytes * (9 if made.size_bytes > seed % 90_000 else 1),
        }[kind]
        return replace(made, size_bytes=size_bytes, likeness=made.likeness - dice.random() * 20)

    return encoder


def is_filled(trial: Trial, made: dict[Trial, Measured], limit_bytes: int) -> bool:
    """Whether the next step was measured not to fit, or does not exist; at the pixel count of the
    trial itself, or at the one for which it was tried, or the step before it."""

    def is_end(place: Trial) -> bool:
        above = next_step(place)
        if place not in made or made[place].size_bytes > limit_bytes:
            return False
        return above is None or (above in made and made[above].size_bytes > limit_bytes)

    widths = {(each.width_px, each.height_px) for each in made}
    return any(
        is_end(replace(step, width_px=width_px, height_px=height_px))
        for step in (trial, step_before(trial))
        for width_px, height_px in widths
    )


def step_before(trial: Trial) -> Trial:
    return _step_beside(trial, -1) or trial


def next_step(trial: Trial) -> Trial | None:
    return _step_beside(trial, 1)


def _step_beside(trial: Trial, by: int) -> Trial | None:
    field = "colours" if trial.settings.format == "png" else "quality"
    steps = QUALITIES[trial.settings.format]
    index = steps.index(getattr(trial.settings, field)) + by
    if not 0 <= index < len(steps):
        return None
    return replace(trial, settings=replace(trial.settings, **{field: steps[index]}))


LARGE = replace(
    SEARCH_INPUT,
    rungs=tuple(
        replace(
            at,
            width_px=2 * at.width_px,
            height_px=2 * at.height_px,
            probe_size_bytes=4 * at.probe_size_bytes,
            quick_png_size_bytes=4 * at.quick_png_size_bytes,
        )
        for at in SEARCH_INPUT.rungs
    ),
)


def fake_large_encoder(trial: Trial) -> Measured:
    """The fake encoder with twice the pixels each way."""
    small = Trial(
        settings=trial.settings,
        width_px=max(1, trial.width_px // 2),
        height_px=max(1, trial.height_px // 2),
    )
    measured = fake_encoder(small)
    return replace(measured, size_bytes=4 * measured.size_bytes)


@pytest.mark.parametrize("name", FORMATS)
@given(
    limit_bytes=st.integers(8_000, 900_000),
    size_bias=st.floats(-0.3, 0.3),
    likeness_bias=st.floats(-6, 6),
)
def test_however_wrong_a_part_is_the_result_was_measured_whole_and_fits(
    name: Format, limit_bytes: int, size_bias: float, likeness_bias: float
) -> None:
    def encoder(trial: Trial) -> Measured:
        measured = fake_large_encoder(trial)
        if not isinstance(trial, PartTrial):
            return measured
        return Measured(
            size_bytes=max(1, round(measured.size_bytes * math.exp(size_bias))),
            likeness=min(100.0, measured.likeness + likeness_bias),
        )

    candidate, made = run(name, limit_bytes, encoder, LARGE)
    assert not isinstance(candidate.trial, PartTrial)
    assert made[candidate.trial] == candidate.measured
    assert candidate.meets_aim == (candidate.measured.size_bytes <= limit_bytes)


def test_a_large_picture_is_encoded_whole_only_at_the_end() -> None:
    for name in ("jpeg", "webp", "avif"):
        candidate, made = run(name, 240_000, fake_large_encoder, LARGE)  # type: ignore[arg-type]
        whole = [trial for trial in made if not isinstance(trial, PartTrial)]
        assert candidate.meets_aim
        assert len(whole) <= 5
        assert len(made) > len(whole)


def test_a_large_jpeg_begins_with_a_file_that_counts() -> None:
    candidate, made = run("jpeg", 240_000, fake_large_encoder, LARGE)
    first = next(iter(made))
    unmeasured = replace(LARGE, rungs=LARGE.rungs[:1], is_measured=False)
    assert next(search_by_limit("jpeg", unmeasured, 240_000, "#ffffff")) == first
    assert not isinstance(first, PartTrial)
    assert not is_draft(first.settings)

    def nearly_full(trial: Trial) -> Measured:
        measured = fake_large_encoder(trial)
        return replace(measured, size_bytes=235_000) if trial == first else measured

    candidate, made = run("jpeg", 240_000, nearly_full, LARGE)
    whole = [t for t in made if t.settings == first.settings and not isinstance(t, PartTrial)]
    assert whole == [first]
    assert candidate.measured.size_bytes > 0.9 * 240_000
