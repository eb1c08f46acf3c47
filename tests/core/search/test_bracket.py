import math
from collections.abc import Callable
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lean_parcel.core.errors import UsageError
from lean_parcel.core.search.bracket import PATIENCE, LikenessBracket, SizeBracket

STEPS = 101
MODEL = [math.log(2_000) + step * 0.04 for step in range(STEPS)]
MODEL_SIZES = [round(math.exp(value)) for value in MODEL]


def run(sizes: list[int], limit_bytes: int) -> tuple[int | None, list[int]]:
    """The step found and those asked for, against a fake encoder of known sizes."""
    bracket = SizeBracket(MODEL[: len(sizes)], limit_bytes)
    asked = []
    while (step := bracket.next_step()) is not None:
        asked.append(step)
        bracket.add(step, sizes[step])
    return bracket.best, asked


CURVES: dict[str, Callable[[int], float]] = {
    "as known": lambda step: math.exp(MODEL[step]),
    "half as heavy": lambda step: math.exp(MODEL[step]) / 2,
    "four times as heavy": lambda step: math.exp(MODEL[step]) * 4,
    "much flatter": lambda step: math.exp(MODEL[step] * 0.3 + 6),
    "much steeper": lambda step: math.exp(MODEL[step] * 2 - 7),
    "linear": lambda step: 1_000 + 900 * step,
    "in plateaus": lambda step: math.exp(MODEL[step // 9 * 9]),
    "one jump": lambda step: 5_000 if step < 70 else 60_000,
    "flat": lambda step: 9_000,
}


@pytest.mark.parametrize("curve", CURVES)
@pytest.mark.parametrize("limit_bytes", [1, 1_500, 4_999, 9_000, 20_000, 50_000, 10**7])
def test_on_rising_curves_the_largest_fitting_step_is_found(curve: str, limit_bytes: int) -> None:
    sizes = [int(CURVES[curve](step)) for step in range(STEPS)]
    fitting = [step for step, size in enumerate(sizes) if size <= limit_bytes]
    found, asked = run(sizes, limit_bytes)
    assert found == (max(fitting) if fitting else None)
    assert len(asked) == len(set(asked)) <= PATIENCE + math.ceil(math.log2(STEPS)) + 1


@given(
    sizes=st.lists(st.integers(1, 50_000), min_size=1, max_size=STEPS),
    limit_bytes=st.integers(1, 60_000),
)
def test_whatever_the_sizes_the_result_fits_and_the_next_step_does_not(
    sizes: list[int], limit_bytes: int
) -> None:
    found, asked = run(sizes, limit_bytes)
    if found is None:
        assert sizes[0] > limit_bytes
        assert 0 in asked
    else:
        assert sizes[found] <= limit_bytes
        assert found in asked
        if found + 1 < len(sizes):
            assert sizes[found + 1] > limit_bytes
            assert found + 1 in asked
    assert len(asked) == len(set(asked))


@pytest.mark.parametrize("factor", [0.5, 0.8, 1, 1.25, 2])
def test_a_photo_of_another_weight_takes_four_encodes_at_most(factor: float) -> None:
    sizes = [round(size * factor) for size in MODEL_SIZES]
    for step, (here, above) in enumerate(pairwise(sizes[5:95]), start=5):
        found, asked = run(sizes, (here + above) // 2)
        assert found == step
        assert len(asked) <= 4


def test_a_limit_of_nothing_is_refused() -> None:
    with pytest.raises(UsageError):
        SizeBracket(MODEL, 0)


@given(
    sizes=st.lists(st.integers(1, 50_000), min_size=3, max_size=STEPS),
    limit_bytes=st.integers(1, 60_000),
    data=st.data(),
)
def test_what_is_known_is_not_asked_for_and_nothing_below_the_lowest(
    sizes: list[int], limit_bytes: int, data: st.DataObject
) -> None:
    lowest = data.draw(st.integers(0, len(sizes) - 1))
    steps = data.draw(st.sets(st.integers(lowest, len(sizes) - 1)))
    known = {step: sizes[step] for step in steps}
    bracket = SizeBracket(MODEL[: len(sizes)], limit_bytes, known, lowest)
    while (step := bracket.next_step()) is not None:
        assert step >= lowest
        assert step not in known
        known[step] = sizes[step]
        bracket.add(step, sizes[step])
    if bracket.best is None:
        assert known[lowest] > limit_bytes
    else:
        assert known[bracket.best] <= limit_bytes
        above = bracket.best + 1
        assert above == len(sizes) or known[above] > limit_bytes


def test_with_caution_the_first_steps_are_lower() -> None:
    limit_bytes = round(math.exp(MODEL[20]))
    bold, careful = SizeBracket(MODEL, limit_bytes), SizeBracket(MODEL, limit_bytes, caution=0.5)
    first = careful.next_step()
    assert first is not None
    assert bold.next_step() == 20
    assert MODEL[first] == pytest.approx(MODEL[20] - 0.5, abs=MODEL[1] - MODEL[0])
    careful.add(first, round(math.exp(MODEL[first])))
    second = careful.next_step()
    assert second is not None
    assert first < second < 20
    assert MODEL[second] <= MODEL[20] - 0.25


def reach(curve: list[float], likeness: float) -> tuple[int | None, int]:
    """What is found on a curve of likenesses, and after how many measurements."""
    bracket = LikenessBracket(len(curve), likeness)
    asked: set[int] = set()
    while (step := bracket.next_step()) is not None:
        assert step not in asked
        asked.add(step)
        bracket.add(step, curve[step])
    return bracket.best, len(asked)


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
