"""What holds whatever files and encoders there are."""

import math
import random
from dataclasses import replace

from hypothesis import example, given, settings
from hypothesis import strategies as st

from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.qualities import QUALITIES
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.source import Limits
from lean_parcel.core.search.bracket import PATIENCE
from lean_parcel.core.search.by_limit.survey import MOST_AT_A_PLACE
from lean_parcel.core.search.scales import scales_of
from lean_parcel.work.tasks.encoder_input import EncoderInput
from lean_parcel.work.tasks.encoding import encode_task, measure_ladder_task
from lean_parcel.work.tasks.framing import frame_task
from tests.builders import cutout, file, photo
from tests.core.search.by_limit.running import run
from tests.core.search.fake_encoder import (
    SEARCH_INPUT,
    Encoder,
    fake_encoder,
    is_lossless,
)


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
