"""Searches as generators: they yield trials that may be encoded side by side, are sent what was
measured of each, and return what they found. So the same search runs against real encoders in
worker processes, and against fake ones in tests."""

from collections.abc import Generator
from typing import TypeVar

from lean_parcel.core.trial import Candidate, Measured, Trial

_Found = TypeVar("_Found")
#: Several trials at a time.
Steps = Generator[tuple[Trial, ...], tuple[Measured, ...], _Found]
#: A search in one format, for its best candidate.
FormatSearch = Steps[Candidate]


def each_once(search: FormatSearch) -> FormatSearch:
    """A search that is never asked for a trial twice."""
    made: dict[Trial, Measured] = {}
    trials = next(search)
    while True:
        new = tuple(dict.fromkeys(trial for trial in trials if trial not in made))
        if new:
            made.update(zip(new, (yield new), strict=True))
        try:
            trials = search.send(tuple(made[trial] for trial in trials))
        except StopIteration as end:
            candidate: Candidate = end.value
            return candidate
