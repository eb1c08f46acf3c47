"""The search, search_format and candidate tables: the latest search for each photo."""

import sqlite3
from dataclasses import dataclass

from lean_parcel.core.encode import Format


@dataclass(frozen=True, slots=True, kw_only=True)
class FormatProgress:
    """How far a search is in one format: `running`, `done` or `failed`."""

    format: Format
    state: str
    encodes: int
    error_message: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Found:
    """A candidate of a search."""

    encode_id: int
    within_limit: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Search:
    """A search and what it has found so far: `running`, `done`, `stopped` or `failed`."""

    id: int
    framed_id: int | None
    limit_bytes: int
    state: str
    error_message: str | None
    formats: tuple[FormatProgress, ...]
    found: tuple[Found, ...]

    @property
    def is_at_rest(self) -> bool:
        """Whether it goes on by itself, or has nothing left to do."""
        return self.state in ("running", "done")


_DROP = "DELETE FROM search WHERE photo_id = :photo_id"
_ADD = """
INSERT INTO search (photo_id, limit_bytes, state) VALUES (:photo_id, :limit_bytes, 'running')
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
INSERT INTO candidate (search_id, encode_id, within_limit)
VALUES (:search_id, :encode_id, :within_limit) ON CONFLICT DO NOTHING"""
_END = """
UPDATE search SET state = :state, error_message = :error_message
WHERE id = :id"""
_OF_PHOTO = """
SELECT id, framed_id, limit_bytes, state, error_message FROM search WHERE photo_id = :photo_id"""
_FORMATS = """
SELECT format, state, encodes, error_message FROM search_format WHERE search_id = :search_id
ORDER BY rowid"""
_CANDIDATES = """
SELECT encode_id, within_limit FROM candidate WHERE search_id = :search_id ORDER BY rowid"""
_IS_CURRENT = "SELECT 1 FROM search WHERE id = :id"
_RUNNING = "SELECT photo_id, id FROM search WHERE state = 'running' ORDER BY photo_id"


def start(
    connection: sqlite3.Connection, photo_id: int, limit_bytes: int, formats: tuple[Format, ...]
) -> int:
    """Puts a new running search in the place of a photo's older one, and returns its id."""
    connection.execute(_DROP, {"photo_id": photo_id})
    row = connection.execute(_ADD, {"photo_id": photo_id, "limit_bytes": limit_bytes}).fetchone()
    for name in formats:
        connection.execute(_ADD_FORMAT, {"search_id": row["id"], "format": name})
    return int(row["id"])


def set_framed(connection: sqlite3.Connection, search_id: int, framed_id: int) -> None:
    """Says which framed pixels a search works on, once they are made."""
    connection.execute(_SET_FRAMED, {"id": search_id, "framed_id": framed_id})


def set_encodes(connection: sqlite3.Connection, search_id: int, name: Format, encodes: int) -> None:
    """How many measurements a format's search has asked for."""
    connection.execute(_SET_ENCODES, {"search_id": search_id, "format": name, "encodes": encodes})


def end_format(
    connection: sqlite3.Connection, search_id: int, name: Format, error_message: str | None = None
) -> None:
    """A format's search is over, with or without a fault."""
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
    connection: sqlite3.Connection, search_id: int, encode_id: int, *, within_limit: bool
) -> None:
    """Keeps a candidate."""
    connection.execute(
        _ADD_CANDIDATE,
        {"search_id": search_id, "encode_id": encode_id, "within_limit": within_limit},
    )


def end(
    connection: sqlite3.Connection,
    search_id: int,
    state: str,
    *,
    error_message: str | None = None,
) -> None:
    """A search is over: `done`, `stopped` or `failed`. Nothing happens to one that was replaced."""
    connection.execute(
        _END,
        {
            "id": search_id,
            "state": state,
            "error_message": error_message,
        },
    )


def is_current(connection: sqlite3.Connection, search_id: int) -> bool:
    """Whether a search was not replaced by a newer one."""
    return connection.execute(_IS_CURRENT, {"id": search_id}).fetchone() is not None


def of_photo(connection: sqlite3.Connection, photo_id: int) -> Search:
    """The latest search for a photo, which every photo has."""
    row = connection.execute(_OF_PHOTO, {"photo_id": photo_id}).fetchone()
    key = {"search_id": row["id"]}
    return Search(
        id=row["id"],
        framed_id=row["framed_id"],
        limit_bytes=row["limit_bytes"],
        state=row["state"],
        error_message=row["error_message"],
        formats=tuple(FormatProgress(**r) for r in map(dict, connection.execute(_FORMATS, key))),
        found=tuple(
            Found(encode_id=r["encode_id"], within_limit=bool(r["within_limit"]))
            for r in connection.execute(_CANDIDATES, key)
        ),
    )


def running(connection: sqlite3.Connection) -> list[tuple[int, int]]:
    """Photo and search ids of what was running when the workspace was last in use."""
    return [(int(row["photo_id"]), int(row["id"])) for row in connection.execute(_RUNNING)]
