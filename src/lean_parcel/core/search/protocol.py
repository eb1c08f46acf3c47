"""The protocol of a search: a generator that yields a trial to be encoded, is sent what was
measured of it, and returns what it found."""

from collections.abc import Generator
from typing import TypeVar

from lean_parcel.core.candidates.trial import Candidate, Measured, Trial

_Found = TypeVar("_Found")
TrialSearch = Generator[Trial, Measured, _Found]
#: A search in one format, for its best candidate.
FormatSearch = TrialSearch[Candidate]


def asked_once(search: TrialSearch[_Found], made: dict[Trial, Measured]) -> TrialSearch[_Found]:
    """A search that asks for no trial twice; everything that is measured is added to `made`."""
    try:
        trial = next(search)
        while True:
            if trial not in made:
                made[trial] = yield trial
            trial = search.send(made[trial])
    except StopIteration as end:
        found: _Found = end.value
        return found
