import math
from collections.abc import Callable
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lean_parcel.core.errors import UsageError
from lean_parcel.core.search import PATIENCE, largest_fitting

STEPS = 101
MODEL = [math.log(2_000) + step * 0.04 for step in range(STEPS)]
MODEL_SIZES = [round(math.exp(value)) for value in MODEL]


def run(sizes: list[int], limit_bytes: int) -> tuple[int | None, list[int]]:
    """The step found and those asked for, against a fake encoder of known sizes."""
    search = largest_fitting(MODEL[: len(sizes)], limit_bytes)
    asked = [next(search)]
    while True:
        try:
            asked.append(search.send(sizes[asked[-1]]))
        except StopIteration as end:
            return end.value, asked


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
        next(largest_fitting(MODEL, 0))
