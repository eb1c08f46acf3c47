"""The search for what is aimed for: the lightest file that looks as it should within the limit, or
else the best looking one.

Its two parts are the searches by limit and by likeness. The first encode of the search by limit
tells which is the one to begin with: where a file about as heavy as the limit looks better than it
has to, the lightest that looks so is searched, and the other search only if that turns out too
heavy; else the limit is what counts, and the likeness only if it is reached after all, or so nearly
that another mode or pixel count may reach it.
"""

from lean_parcel.core.candidates.close_call import TOO_CLOSE
from lean_parcel.core.candidates.ranking import judged, ranked
from lean_parcel.core.candidates.trial import Candidate, Measured
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.formats import Format
from lean_parcel.core.search.by_likeness import search_by_likeness
from lean_parcel.core.search.by_limit.search import search_by_limit
from lean_parcel.core.search.ladder import SearchInput
from lean_parcel.core.search.protocol import FormatSearch, asked_once


def search_by_aim(
    name: Format, search_input: SearchInput, aim: Aim, background: str
) -> FormatSearch:
    """The search in one format: returns the best candidate for an aim, or where none meets it the
    nearest. No trial is asked for twice."""
    if aim.likeness is None:
        assert aim.limit_bytes is not None
        return search_by_limit(name, search_input, aim.limit_bytes, background)
    by_likeness = search_by_likeness(name, search_input, aim.likeness, background)
    if aim.limit_bytes is None:
        return by_likeness
    by_limit = search_by_limit(name, search_input, aim.limit_bytes, background)
    return asked_once(_search(by_limit, by_likeness, aim), {})


def _search(by_limit: FormatSearch, by_likeness: FormatSearch, aim: Aim) -> FormatSearch:
    first = yield next(by_limit)
    if aim.is_enough(first.likeness):
        lightest = _judged((yield from by_likeness), aim)
        if lightest.meets_aim and aim.is_enough(lightest.measured.likeness):
            return lightest
        return (yield from _went_on(by_limit, first))
    found = yield from _went_on(by_limit, first)
    if not found.meets_aim or not aim.is_enough(found.measured.likeness + TOO_CLOSE):
        return found
    return ranked([found, _judged((yield from by_likeness), aim)], aim)[0]


def _went_on(search: FormatSearch, first: Measured) -> FormatSearch:
    """What a search comes to that is told what its first trial came to."""
    try:
        trial = search.send(first)
        while True:
            trial = search.send((yield trial))
    except StopIteration as end:
        found: Candidate = end.value
        return found


def _judged(found: Candidate, aim: Aim) -> Candidate:
    return judged(found.trial, found.measured, aim)
