"""The search, search_format and candidate tables: the latest search for each photo, and for each of
its variants by their density."""

import json
import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from lean_parcel.core.formats import Format
from lean_parcel.store.rows import as_a

#: A search runs until it is done, was stopped by a person, or failed.
SearchState = Literal["running", "done", "stopped", "failed"]
FormatState = Literal["running", "done", "failed"]
#: In place of a density: the photo's own search, at the density of its place.
OWN = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class FormatProgress:
    """How far a search is in one format, after how many encodes."""

    format: Format
    state: FormatState
    encodes: int
    error_message: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class FoundCandidate:
    """A candidate of a search, which may be a better one in the place of another."""

    encode_id: int
    meets_aim: bool
    improves_id: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Search:
    """A search and what it has found so far."""

    id: int
    framed_id: int | None
    limit_bytes: int | None
    state: SearchState
    error_message: str | None
    formats: tuple[FormatProgress, ...]
    found: tuple[FoundCandidate, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class SearchRef:
    """Which search: of a photo, at a density or its own."""

    photo_id: int
    density: float
    id: int
    state: SearchState


@dataclass(frozen=True, slots=True, kw_only=True)
class SearchOutcome:
    """What a search has come to so far: its state, or why it failed, and the encodes that meet the
    aim."""

    framed_id: int | None
    state: SearchState
    error_message: str | None
    fitting_ids: tuple[int, ...]


_DROP = "DELETE FROM search WHERE photo_id = :photo_id AND density = :density"
_ADD = """
INSERT INTO search (photo_id, density, limit_bytes, state)
VALUES (:photo_id, :density, :limit_bytes, 'running')
RETURNING id"""
_ADD_FORMAT = """
INSERT INTO search_format (search_id, format, state) VALUES (:search_id, :format, 'running')"""
_SET_FRAMED = "UPDATE search SET framed_id = :framed_id WHERE id = :id"
_SET_ENCODES = """
UPDATE search_format SET encodes = :encodes WHERE search_id = :search_id AND format = :format"""
_END_FORMAT = """
UPDATE search_format SET state = :state, error_message = :error_message
WHERE search_id = :search_id AND format = :format"""
_ADD_CANDIDATE = """
INSERT INTO candidate (search_id, encode_id, meets_aim, improves_id)
SELECT id, :encode_id, :meets_aim, :improves_id FROM search WHERE id = :search_id
ON CONFLICT DO NOTHING"""
_END = """
UPDATE search SET state = :state, error_message = :error_message
WHERE id = :id AND state = 'running'"""
_FAILURE = """
SELECT error_message FROM search_format WHERE search_id = :id AND state = 'failed'
AND NOT EXISTS (SELECT 1 FROM candidate WHERE search_id = :id) ORDER BY rowid"""
_OF_PHOTO = """
SELECT id, framed_id, limit_bytes, state, error_message FROM search
WHERE photo_id = :photo_id AND density = :density"""
_ALL_OF = """
SELECT photo_id, density, id, state FROM search WHERE photo_id = :photo_id ORDER BY density"""
_FORMATS = """
SELECT format, state, encodes, error_message FROM search_format WHERE search_id = :search_id
ORDER BY rowid"""
_CANDIDATES = """
SELECT encode_id, meets_aim, improves_id FROM candidate WHERE search_id = :search_id
ORDER BY rowid"""
_OF_ALL = """
SELECT id, photo_id, framed_id, state, error_message FROM search
WHERE photo_id IN (SELECT value FROM json_each(:ids)) AND density = 0"""
_OF_VARIANTS = """
SELECT id, photo_id, density, framed_id, limit_bytes, state, error_message FROM search
WHERE photo_id IN (SELECT value FROM json_each(:ids)) AND density != 0"""
_FORMATS_OF_ALL = """
SELECT search_id, format, state, encodes, error_message FROM search_format
WHERE search_id IN (SELECT value FROM json_each(:ids)) ORDER BY rowid"""
_CANDIDATES_OF_ALL = """
SELECT search_id, encode_id, meets_aim, improves_id FROM candidate
WHERE search_id IN (SELECT value FROM json_each(:ids)) ORDER BY rowid"""
_FITTING_OF_ALL = """
SELECT search.photo_id, encode_id FROM candidate JOIN search ON search.id = search_id
WHERE photo_id IN (SELECT value FROM json_each(:ids)) AND density = 0 AND meets_aim
ORDER BY candidate.rowid"""
_IS_RUNNING = "SELECT 1 FROM search WHERE id = :id AND state = 'running'"
_RUNNING = """
SELECT photo_id, density, id, state FROM search WHERE state = 'running'
ORDER BY photo_id, density"""


def start(
    connection: sqlite3.Connection,
    photo_id: int,
    limit_bytes: int | None,
    formats: tuple[Format, ...],
    density: float = OWN,
) -> SearchRef:
    """Puts a new running search in the place of a photo's older one at a density."""
    drop(connection, photo_id, density)
    key = {"photo_id": photo_id, "density": density}
    row = connection.execute(_ADD, {**key, "limit_bytes": limit_bytes}).fetchone()
    for name in formats:
        connection.execute(_ADD_FORMAT, {"search_id": row["id"], "format": name})
    return SearchRef(photo_id=photo_id, density=density, id=row["id"], state="running")


def drop(connection: sqlite3.Connection, photo_id: int, density: float) -> None:
    """Forgets a search; what it made stays."""
    connection.execute(_DROP, {"photo_id": photo_id, "density": density})


def set_framed(connection: sqlite3.Connection, search_id: int, framed_id: int) -> None:
    """Sets the framed pixels that a search works on, once they are made."""
    connection.execute(_SET_FRAMED, {"id": search_id, "framed_id": framed_id})


def set_encodes(connection: sqlite3.Connection, search_id: int, name: Format, encodes: int) -> None:
    """Sets how many encodes a format's search has asked for."""
    connection.execute(_SET_ENCODES, {"search_id": search_id, "format": name, "encodes": encodes})


def end_format(
    connection: sqlite3.Connection, search_id: int, name: Format, error_message: str | None = None
) -> None:
    """Ends the search in one format: it is done, or failed with a message."""
    connection.execute(
        _END_FORMAT,
        {
            "search_id": search_id,
            "format": name,
            "state": "failed" if error_message else "done",
            "error_message": error_message,
        },
    )


def add_candidate(
    connection: sqlite3.Connection,
    search_id: int,
    encode_id: int,
    *,
    meets_aim: bool,
    improves_id: int | None = None,
) -> None:
    """Stores a candidate, or a better one in the place of another; nothing for a search that was
    replaced."""
    connection.execute(
        _ADD_CANDIDATE,
        {
            "search_id": search_id,
            "encode_id": encode_id,
            "meets_aim": meets_aim,
            "improves_id": improves_id,
        },
    )


def failure_of(connection: sqlite3.Connection, search_id: int) -> str | None:
    """Why a search found nothing, where it did and a format failed."""
    row = connection.execute(_FAILURE, {"id": search_id}).fetchone()
    return row["error_message"] if row else None


def end(
    connection: sqlite3.Connection,
    search_id: int,
    state: Literal["done", "stopped", "failed"],
    *,
    error_message: str | None = None,
) -> None:
    """Ends a search that runs; one that was replaced or has ended stays as it is."""
    connection.execute(
        _END,
        {
            "id": search_id,
            "state": state,
            "error_message": error_message,
        },
    )


def is_running(connection: sqlite3.Connection, search_id: int) -> bool:
    """Whether a search still runs: it has not ended, and was not replaced by a newer one."""
    return connection.execute(_IS_RUNNING, {"id": search_id}).fetchone() is not None


def of_photo(connection: sqlite3.Connection, photo_id: int) -> Search:
    """The latest search for a photo, which every photo has."""
    search = at_density(connection, photo_id, OWN)
    assert search
    return search


def at_density(connection: sqlite3.Connection, photo_id: int, density: float) -> Search | None:
    """The latest search for a photo's variants at a density, or its own; None where there is
    none."""
    values = {"photo_id": photo_id, "density": density}
    row = connection.execute(_OF_PHOTO, values).fetchone()
    if row is None:
        return None
    key = {"search_id": row["id"]}
    return as_a(
        Search,
        row,
        formats=tuple(as_a(FormatProgress, each) for each in connection.execute(_FORMATS, key)),
        found=found(connection, row["id"]),
    )


def of_variants(
    connection: sqlite3.Connection, photo_ids: Iterable[int]
) -> dict[tuple[int, float], Search]:
    """The searches for the variants of photos, by photo and density, in three queries."""
    rows = connection.execute(_OF_VARIANTS, {"ids": json.dumps(list(photo_ids))}).fetchall()
    key = {"ids": json.dumps([row["id"] for row in rows])}
    formats: dict[int, list[FormatProgress]] = {row["id"]: [] for row in rows}
    for each in connection.execute(_FORMATS_OF_ALL, key):
        formats[each["search_id"]].append(as_a(FormatProgress, each))
    found: dict[int, list[FoundCandidate]] = {row["id"]: [] for row in rows}
    for each in connection.execute(_CANDIDATES_OF_ALL, key):
        meets_aim = bool(each["meets_aim"])
        found[each["search_id"]].append(as_a(FoundCandidate, each, meets_aim=meets_aim))
    return {
        (row["photo_id"], row["density"]): as_a(
            Search, row, formats=tuple(formats[row["id"]]), found=tuple(found[row["id"]])
        )
        for row in rows
    }


def all_of(connection: sqlite3.Connection, photo_id: int) -> list[SearchRef]:
    """All searches of a photo, its own first."""
    rows = connection.execute(_ALL_OF, {"photo_id": photo_id})
    return [as_a(SearchRef, row) for row in rows]


def found(connection: sqlite3.Connection, search_id: int) -> tuple[FoundCandidate, ...]:
    """The candidates of a search; none of one that was replaced."""
    return tuple(
        as_a(FoundCandidate, row, meets_aim=bool(row["meets_aim"]))
        for row in connection.execute(_CANDIDATES, {"search_id": search_id})
    )


def outcomes_of(
    connection: sqlite3.Connection, photo_ids: Iterable[int]
) -> dict[int, SearchOutcome]:
    """What the latest searches of photos have come to, by the ids of their photos."""
    key = {"ids": json.dumps(list(photo_ids))}
    fitting: dict[int, list[int]] = {}
    for row in connection.execute(_FITTING_OF_ALL, key):
        fitting.setdefault(row["photo_id"], []).append(row["encode_id"])
    return {
        row["photo_id"]: as_a(
            SearchOutcome, row, fitting_ids=tuple(fitting.get(row["photo_id"], ()))
        )
        for row in connection.execute(_OF_ALL, key)
    }


def running(connection: sqlite3.Connection) -> list[SearchRef]:
    """All that run, or ran when the workspace was last in use."""
    return [as_a(SearchRef, row) for row in connection.execute(_RUNNING)]
