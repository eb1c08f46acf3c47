"""What came of rounds, in words."""

import numpy as np
import pytest

from lean_parcel.core.eye.blind import Blind, blind
from lean_parcel.core.eye.outcome import choice_outcome, threshold_outcome


def rounds_in_which_the_first_was_chosen(times: int, rounds: int) -> Blind:
    series = blind(np.random.default_rng(1), rounds)
    for number in range(rounds):
        first = "a" if series.is_first("a") else "b"
        second = "b" if first == "a" else "a"
        series = series.answered(first if number < times else second)
    return series


@pytest.mark.parametrize(
    ("times", "words"),
    [
        (4, "Found WebP nearer to the original in 4 of 4 rounds"),
        (3, "Found WebP nearer to the original in 3 of 4 rounds"),
        (2, "WebP and AVIF were chosen equally often"),
        (1, "Found AVIF nearer to the original in 3 of 4 rounds"),
    ],
)
def test_a_choice_names_what_was_chosen_more_often(times: int, words: str) -> None:
    outcome = choice_outcome(rounds_in_which_the_first_was_chosen(times, 4), "WebP", "AVIF")
    assert outcome.kind == "choice"
    assert outcome.words.partition(";")[0] == words


def test_a_series_without_an_end_of_noticing_says_so() -> None:
    outcome = threshold_outcome(None, "WebP")
    assert outcome.words == "No likeness of WebP was found at which noticing ends"
    assert (outcome.likeness, outcome.uncertainty) == (None, None)
