import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lean_parcel.core.search.process import DraftError, Points, Prior, Process

PRIOR = Prior(
    shared=0.3,
    distance=0.2,
    width=0.4,
    softness=0.1,
    softness_distance=0.05,
    mode=0.15,
    mode_distance=0.1,
    local=0.2,
    reach_distance=0.7,
    reach_width=0.3,
    noise=0.02,
)
DRAFT = DraftError(mean=0.08, shared=0.05, own=0.04)
CHANCE = np.random.default_rng(3)
POINTS = Points(
    mode=CHANCE.integers(0, 2, 40).astype(float),
    distance=CHANCE.uniform(-2, 2, 40),
    log_width=CHANCE.uniform(-1.4, 0, 40),
    softness=CHANCE.uniform(0, 2, 40),
)
WHOLE = np.array([Process(PRIOR, POINTS).covariance(each) for each in range(40)])
observations = st.lists(
    st.tuples(st.integers(0, 39), st.floats(-1, 1), st.booleans()), min_size=1, max_size=8
)


def test_points_covary_alike_both_ways_and_most_within_a_mode() -> None:
    assert pytest.approx(WHOLE.T) == WHOLE
    assert np.linalg.eigvalsh(WHOLE).min() > -1e-9
    apart = Points(np.array([0.0, 0.0, 1.0]), np.array([0.5, 0.5, 0.5]), np.zeros(3), np.ones(3))
    same, alike, other = Process(PRIOR, apart).covariance(0)
    assert same == alike > other


@given(observations)
def test_what_is_expected_is_the_normal_distribution_given_what_was_observed(
    observed: list[tuple[int, float, bool]],
) -> None:
    process = Process(PRIOR, POINTS)
    for point, residual, is_draft in observed:
        process.observe(point, residual, DRAFT if is_draft else None)
    at = [point for point, _, _ in observed]
    drafts = np.array([float(is_draft) for _, _, is_draft in observed])
    noise = np.diag(0.02**2 + drafts * 0.04**2) + 0.05**2 * np.outer(drafts, drafts)
    inverse = np.linalg.inv(WHOLE[np.ix_(at, at)] + noise)
    values = np.array([residual for _, residual, _ in observed]) - 0.08 * drafts
    assert process.mean == pytest.approx(WHOLE[:, at] @ inverse @ values, abs=1e-6)
    left = np.diag(WHOLE) - np.einsum("ij,jk,ik->i", WHOLE[:, at], inverse, WHOLE[:, at])
    assert process.deviation == pytest.approx(np.sqrt(np.maximum(left, 0) + 0.02**2), abs=1e-6)


def test_a_draft_tells_less_than_an_encode_and_the_next_less_than_the_first() -> None:
    encode, draft, drafts = (Process(PRIOR, POINTS) for _ in range(3))
    encode.observe(7, 0.1)
    draft.observe(7, 0.18, DRAFT)
    for _ in range(3):
        drafts.observe(7, 0.18, DRAFT)
    before = Process(PRIOR, POINTS).deviation[7]
    assert encode.deviation[7] < 0.04 < drafts.deviation[7] < draft.deviation[7] < before
    assert drafts.deviation[7] > 0.05  # what all drafts of a picture get wrong stays
