import math
from collections.abc import Callable
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lean_parcel.core.encode import FORMATS, Format
from lean_parcel.core.reach import lightest_first, lowest_reaching, search_reaching
from lean_parcel.core.scales import QUALITIES
from lean_parcel.core.trial import Candidate, Measured, Trial
from tests.core.test_fit import SUBJECT, fake_encoder


def reach(curve: list[float], likeness: float) -> tuple[int | None, int]:
    """What is found on a curve of likenesses, and after how many measurements."""
    search = lowest_reaching(len(curve), likeness)
    step, asked = next(search), {-1}
    while True:
        assert step not in asked
        asked.add(step)
        try:
            step = search.send(curve[step])
        except StopIteration as end:
            return end.value, len(asked) - 1


NASTY: dict[str, Callable[[int], float]] = {
    "line": lambda i: 100 * i / 99,
    "bent": lambda i: 100 * (1 - (1 - i / 99) ** 3),
    "late": lambda i: 100 * (i / 99) ** 6,
    "steps": lambda i: 10.0 * (i // 10),
    "plateau": lambda i: min(60.0, 2.0 * i) if i < 80 else 95.0,
    "jump": lambda i: 20.0 if i < 37 else 92.0,
    "falling": lambda i: 100 * i / 99 - (8 if i % 7 == 3 else 0),
}


@pytest.mark.parametrize("name", NASTY)
@pytest.mark.parametrize("likeness", [15.0, 50.0, 80.0, 90.0, 99.5])
def test_the_step_reaches_and_the_one_below_does_not(name: str, likeness: float) -> None:
    curve = [NASTY[name](i) for i in range(100)]
    step, asked = reach(curve, likeness)
    if step is None:
        assert curve[-1] < likeness
    else:
        assert curve[step] >= likeness
        assert step == 0 or curve[step - 1] < likeness
    assert asked <= 13


def test_smooth_curves_take_few_measurements() -> None:
    counts = [
        reach([NASTY[name](i) for i in range(100)], likeness)[1]
        for name in ("line", "bent")
        for likeness in (50.0, 70.0, 80.0, 90.0)
    ]
    assert sum(counts) / len(counts) <= 5


@given(st.lists(st.floats(0, 100), min_size=1, max_size=80), st.floats(0, 100))
def test_any_rising_curve_is_met_exactly(values: list[float], likeness: float) -> None:
    curve = sorted(values)
    step, _ = reach(curve, likeness)
    expected = next((i for i, value in enumerate(curve) if value >= likeness), None)
    assert step == expected


def run(name: Format, likeness: float) -> tuple[Candidate, dict[Trial, Measured]]:
    """A format's candidate, and everything it had encoded."""
    search = search_reaching(name, SUBJECT, likeness, "#ffffff")
    made: dict[Trial, Measured] = {}
    trial = next(search)
    while True:
        assert trial not in made
        made[trial] = fake_encoder(trial)
        try:
            trial = search.send(made[trial])
        except StopIteration as end:
            return end.value, made


@pytest.mark.parametrize("name", FORMATS)
@pytest.mark.parametrize("likeness", [50.0, 70.0, 80.0, 90.0, 95.0])
def test_the_lightest_of_the_whole_space_is_found(name: Format, likeness: float) -> None:
    candidate, made = run(name, likeness)
    assert candidate.within_limit
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
    assert candidate.measured.size_bytes <= 1.02 * lightest
    assert len(made) <= 20


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


def test_pixel_counts_that_cannot_reach_are_never_encoded() -> None:
    _, made = run("jpeg", 80.0)
    assert {trial.width_px for trial in made} <= {1000, 750}


def test_where_nothing_reaches_the_best_is_offered_and_said_not_to() -> None:
    candidate, _ = run("jpeg", 100.0)
    assert not candidate.within_limit
    assert candidate.measured.likeness > 90


def test_offers_come_lightest_first_and_what_does_not_reach_last() -> None:
    found = [run(name, 80.0)[0] for name in FORMATS] + [run("jpeg", 100.0)[0]]
    order = lightest_first(found, SUBJECT)
    sizes = [candidate.measured.size_bytes for candidate in order[:-1]]
    assert sizes == sorted(sizes)
    assert not order[-1].within_limit
