"""Carrying out a search in this process."""

from collections.abc import Callable

from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.search.protocol import FormatSearch

Measure = Callable[[Trial], Measured]


def carry_out(search: FormatSearch, measure: Measure) -> tuple[Candidate, int]:
    """The candidate that a search finds, and how many encodes it asked for."""
    trial, encodes = next(search), 0
    while True:
        encodes += 1
        try:
            trial = search.send(measure(trial))
        except StopIteration as end:
            return end.value, encodes
