"""Searches as generators: they yield a trial to be encoded, are sent what was measured of it, and
return what they found. So the same search runs against real encoders in worker processes, and
against fake ones in tests."""

from collections.abc import Generator
from typing import TypeVar

from lean_parcel.core.trial import Candidate, Measured, Trial

_Found = TypeVar("_Found")
Steps = Generator[Trial, Measured, _Found]
#: A search in one format, for its best candidate.
FormatSearch = Steps[Candidate]


def each_once(search: FormatSearch) -> FormatSearch:
    """A search that is never asked for a trial twice."""
    made: dict[Trial, Measured] = {}
    trial = next(search)
    while True:
        if trial not in made:
            made[trial] = yield trial
        try:
            trial = search.send(made[trial])
        except StopIteration as end:
            candidate: Candidate = end.value
            return candidate
