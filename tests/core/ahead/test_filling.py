import math
from dataclasses import replace
from itertools import pairwise

import pytest

from lean_parcel.core.ahead.filling import filled
from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.encoding.qualities import quality_of
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    EncoderSettings,
    JpegSettings,
    PassThrough,
    PngSettings,
    Settings,
    WebpSettings,
    draft_settings,
)
from lean_parcel.core.search.ladder import SearchInput
from tests.core.search.fake_encoder import SEARCH_INPUT, fake_encoder
from tests.recorded import Recorded

OF_EACH: list[EncoderSettings] = [
    JpegSettings(quality=60, chroma="4:2:0"),
    JpegSettings(quality=60, chroma="4:2:0", adaptive=True),
    WebpSettings(quality=60),
    AvifSettings(quality=60, chroma="4:4:4"),
    PngSettings(colours=57),
]


def at(settings: Settings, width_px: int = 1000) -> Trial:
    return Trial(settings=settings, width_px=width_px, height_px=width_px * 2 // 3)


def carried_out(
    on_curve: Trial,
    known: dict[Trial, Measured],
    most_bytes: float = math.inf,
    search_input: SearchInput = SEARCH_INPUT,
) -> dict[Trial, Measured]:
    """What filling a curve asks for."""
    made: dict[Trial, Measured] = {}
    search = filled(on_curve, search_input, known, most_bytes)
    try:
        trial = next(search)
        while True:
            assert trial not in made
            made[trial] = fake_encoder(trial)
            trial = search.send(made[trial])
    except StopIteration:
        return made


@pytest.mark.parametrize("settings", OF_EACH)
def test_a_curve_is_filled_from_ruin_to_no_visible_change(settings: EncoderSettings) -> None:
    found = at(settings)
    made = carried_out(found, {found: fake_encoder(found)})
    assert 1 <= len(made) <= 6
    for trial in made:
        assert trial.settings == draft_settings(trial.settings)  # type: ignore[arg-type]
        assert trial.width_px == 1000
    likenesses = [measured.likeness for measured in made.values()]
    if settings.format != "png":
        assert max(likenesses) >= 88
    sizes = sorted(each.size_bytes for each in [*made.values(), fake_encoder(found)])
    assert max(after / before for before, after in pairwise(sizes)) < 5


def test_what_is_known_is_not_made_again() -> None:
    found = at(WebpSettings(quality=60))
    known = {
        trial: fake_encoder(trial)
        for quality in range(0, 101, 4)
        for trial in (at(WebpSettings(quality=quality, effort=2)),)
    }
    assert carried_out(found, known) == {}


def test_a_curve_of_which_nothing_is_known_is_begun() -> None:
    found = at(AvifSettings(quality=61, chroma="4:2:0"))
    elsewhere = at(AvifSettings(quality=60, chroma="4:2:0"), width_px=500)
    made = carried_out(found, {elsewhere: fake_encoder(elsewhere)})
    assert {trial.width_px for trial in made} == {1000}


def test_a_curve_is_not_followed_beyond_what_is_shown() -> None:
    found = at(WebpSettings(quality=60))
    heaviest = fake_encoder(found).size_bytes
    made = carried_out(found, {found: fake_encoder(found)}, most_bytes=heaviest)
    assert max(each.size_bytes for each in made.values()) < heaviest


def test_pixels_that_allow_no_more_are_not_given_more_bytes() -> None:
    found = at(PngSettings(colours=204), width_px=250)
    below = at(PngSettings(colours=182), width_px=250)
    known = {found: Measured(size_bytes=9_000, likeness=40.1)}
    known[below] = Measured(size_bytes=8_500, likeness=40.0)
    assert all(each.size_bytes < 9_000 for each in carried_out(found, known).values())


def test_a_drawing_is_not_drafted_as_avif() -> None:
    full, second, *_ = SEARCH_INPUT.rungs
    drawing = replace(SEARCH_INPUT, rungs=(full, replace(second, ceiling=40)))
    found = at(AvifSettings(quality=60, chroma="4:2:0"))
    made = carried_out(found, {found: fake_encoder(found)}, search_input=drawing)
    assert {trial.settings.speed for trial in made} == {6}  # type: ignore[union-attr]


WITHOUT_STEPS: list[Settings] = [
    PassThrough(format="png"),
    PngSettings(colours=None),
    WebpSettings(quality=75, lossless=True),
]


@pytest.mark.parametrize("settings", WITHOUT_STEPS)
def test_what_has_no_steps_has_no_curve(settings: Settings) -> None:
    assert carried_out(at(settings), {}) == {}


def test_how_curves_are_filled(recorded: Recorded) -> None:
    told = {}
    for settings in OF_EACH:
        known = {at(settings): fake_encoder(at(settings))}
        made = carried_out(at(settings), known, 60_000)
        told[str(settings)] = [[quality_of(each.settings), made[each].size_bytes] for each in made]
    recorded(told)
