"""The protocol of a search: a generator that yields a trial to be encoded, is sent what was
measured of it, and returns what it found."""

from collections.abc import Generator
from dataclasses import replace
from typing import TypeVar

from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.encoding.held import HeldKnobs, with_held

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


def held_to(search: FormatSearch, held: HeldKnobs) -> FormatSearch:
    """A search whose every trial has the knobs that are held."""
    try:
        trial = next(search)
        while True:
            trial = search.send((yield _held(trial, held)))
    except StopIteration as end:
        found: Candidate = end.value
        return replace(found, trial=_held(found.trial, held))


def _held(trial: Trial, held: HeldKnobs) -> Trial:
    return replace(trial, settings=with_held(trial.settings, held))
