import math
from dataclasses import replace

import pytest

from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.encoding.qualities import QUALITIES
from lean_parcel.core.encoding.settings import is_draft
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.search.by_likeness import search_by_likeness
from lean_parcel.core.search.ladder import PartTrial
from tests.core.search.fake_encoder import SEARCH_INPUT, carry_out, fake_encoder, large


def run(name: Format, likeness: float) -> tuple[Candidate, dict[Trial, Measured]]:
    """A format's candidate, and everything it had encoded."""
    return carry_out(search_by_likeness(name, SEARCH_INPUT, likeness, "#ffffff"), fake_encoder)


@pytest.mark.parametrize("name", FORMATS)
@pytest.mark.parametrize("likeness", [50.0, 70.0, 80.0, 90.0, 95.0])
def test_the_lightest_of_the_whole_space_is_found(name: Format, likeness: float) -> None:
    candidate, made = run(name, likeness)
    assert candidate.meets_aim
    assert candidate.measured.likeness >= likeness
    assert candidate.measured == made[candidate.trial]
    lightest = min(
        (
            fake_encoder(trial).size_bytes
            for trial in _space(name, made)
            if fake_encoder(trial).likeness >= likeness
        ),
        default=math.inf,
    )
    assert candidate.measured.size_bytes <= 1.04 * lightest  # a step of quality
    assert len(made) <= 22


@pytest.mark.parametrize("name", ["webp", "avif"])
@pytest.mark.parametrize("likeness", [60.0, 80.0, 90.0])
def test_drafts_with_less_effort_tell_where_to_search(name: Format, likeness: float) -> None:
    candidate, made = run(name, likeness)
    full_effort = [trial for trial in made if not is_draft(trial.settings)]
    assert candidate.trial in full_effort
    assert len(full_effort) <= min(10, len(made) / 2)


def _space(name: Format, made: dict[Trial, Measured]) -> list[Trial]:
    """All steps of the modes and pixel counts that a search has looked at."""

    field = "colours" if name == "png" else "quality"
    seen = {
        (replace(trial.settings, **{field: 50}), trial.width_px, trial.height_px)
        for trial in made
        if not getattr(trial.settings, "lossless", False)
        and getattr(trial.settings, "colours", 1) is not None
    }
    return [
        Trial(settings=replace(settings, **{field: step}), width_px=width, height_px=height)
        for settings, width, height in seen
        for step in QUALITIES[name]
    ]


def test_of_large_pictures_parts_tell_where_to_search() -> None:
    search_input, encoder = large(2)
    candidate, made = carry_out(search_by_likeness("avif", search_input, 80.0, "#ffffff"), encoder)
    whole = [trial for trial in made if not isinstance(trial, PartTrial)]
    assert candidate.trial in whole
    assert candidate.meets_aim
    assert len(whole) <= len(made) / 2


def test_pixel_counts_that_cannot_reach_are_never_encoded() -> None:
    _, made = run("jpeg", 80.0)
    assert min(trial.width_px for trial in made) >= 750


def test_where_nothing_reaches_the_best_is_offered_and_said_not_to() -> None:
    candidate, _ = run("jpeg", 100.0)
    assert not candidate.meets_aim
    assert candidate.measured.likeness > 90
