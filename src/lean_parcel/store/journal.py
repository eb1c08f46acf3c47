"""The entry table: the journals of all photos, and the journal of the pages' layout.

The current entry of a journal is the one that was visited last. Undo visits its parent; redo visits
the child that was visited last. A branch that was left by a new step stays, and can be visited.
"""

import json
import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache

from pydantic import TypeAdapter

from lean_parcel.core.decisions.state import State
from lean_parcel.core.errors import NotFoundError, UsageError
from lean_parcel.core.eye.outcome import Outcome
from lean_parcel.core.page.layout import Layout
from lean_parcel.store.rows import as_a

_STATES: TypeAdapter[State] = TypeAdapter(State)
_LAYOUTS: TypeAdapter[Layout] = TypeAdapter(Layout)


@dataclass(frozen=True, slots=True)
class JournalKey:
    """Which journal: that of a photo, or `PAGES`."""

    photo_id: int | None


PAGES = JournalKey(None)

_OWN_THRESHOLD = """
SELECT outcome.value AS outcome
FROM entry, json_each(entry.state, '$.outcomes') AS outcome
WHERE photo_id IS NOT NULL AND instr(state, '"threshold"')
  AND json_extract(outcome.value, '$.likeness') IS NOT NULL
  AND visited = (SELECT max(visited) FROM entry AS other WHERE other.photo_id = entry.photo_id)
ORDER BY entry.id DESC, outcome.key DESC LIMIT 1"""


def of_photo(photo_id: int) -> JournalKey:
    """The journal of a photo."""
    return JournalKey(photo_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """A row of the entry table; the state is JSON, for `read_state` or `read_layout`."""

    id: int
    parent_id: int | None
    words: str
    state: str
    made_at: str


@dataclass(frozen=True, slots=True, kw_only=True)
class StepEntry:
    """An entry of a photo that was made in a step on many, the one before it, and the photo's
    current one."""

    photo_id: int
    id: int
    parent_id: int | None
    current_id: int


_OF_STEP = """
SELECT photo_id, id, parent_id, (
  SELECT id FROM entry AS other WHERE other.photo_id = entry.photo_id
  ORDER BY visited DESC LIMIT 1) AS current_id
FROM entry WHERE step_id = :step_id ORDER BY photo_id"""
_APPEND = """
INSERT INTO entry (photo_id, parent_id, words, state, step_id, visited)
VALUES (:photo_id, :parent_id, :words, :state, :step_id,
  (SELECT coalesce(max(visited), 0) + 1 FROM entry))
RETURNING id, parent_id, words, state, made_at"""
_CURRENT = """
SELECT id, parent_id, words, state, made_at FROM entry
WHERE photo_id IS :photo_id ORDER BY visited DESC LIMIT 1"""
_GET = """
SELECT id, parent_id, words, state, made_at FROM entry
WHERE id = :id AND photo_id IS :photo_id"""
_NEXT = """
SELECT id, parent_id, words, state, made_at FROM entry
WHERE parent_id = :id ORDER BY visited DESC LIMIT 1"""
_VISIT = """
UPDATE entry SET visited = (SELECT max(visited) + 1 FROM entry) WHERE id = :id"""
_ALL = """
SELECT id, parent_id, words, state, made_at FROM entry
WHERE photo_id IS :photo_id ORDER BY id"""
_CURRENT_OF_ALL = """
SELECT entry.photo_id, state FROM json_each(:ids) JOIN entry ON entry.id = (
  SELECT id FROM entry WHERE photo_id = value ORDER BY visited DESC LIMIT 1)"""


def append_state(
    connection: sqlite3.Connection,
    photo_id: int,
    words: str,
    state: State,
    step_id: int | None = None,
) -> Entry:
    """Adds an entry to a photo's journal, after the current one; `step_id` is the entry of the
    pages with which it is made, where it is one of many."""
    text = _STATES.dump_json(state).decode()
    return _append(connection, of_photo(photo_id), words, text, step_id)


def of_step(connection: sqlite3.Connection, step_id: int) -> list[StepEntry]:
    """The entries of photos that were made with an entry of the pages."""
    return [as_a(StepEntry, row) for row in connection.execute(_OF_STEP, {"step_id": step_id})]


def append_layout(connection: sqlite3.Connection, words: str, layout: Layout) -> Entry:
    """Adds an entry to the journal of the pages, after the current one."""
    return _append(connection, PAGES, words, _LAYOUTS.dump_json(layout).decode())


def state_of(connection: sqlite3.Connection, photo_id: int) -> State:
    """The current state of a photo. Raises NotFoundError."""
    return read_state(current(connection, of_photo(photo_id)))


def states_of(connection: sqlite3.Connection, photo_ids: Iterable[int]) -> dict[int, State]:
    """The current states of photos, by their ids."""
    rows = connection.execute(_CURRENT_OF_ALL, {"ids": json.dumps(list(photo_ids))})
    return {row["photo_id"]: _state(row["state"]) for row in rows}


def layout_of(connection: sqlite3.Connection) -> Layout:
    """The current layout of the pages."""
    return read_layout(current(connection, PAGES))


def read_state(entry: Entry) -> State:
    """The state after an entry of a photo."""
    return _state(entry.state)


def read_layout(entry: Entry) -> Layout:
    """The layout after an entry of the pages."""
    return _layout(entry.state)


@lru_cache(maxsize=2_000)
def _state(text: str) -> State:
    """A state, which never changes: lists of hundreds of photos are read again and again."""
    return _STATES.validate_json(text)


@lru_cache(maxsize=20)
def _layout(text: str) -> Layout:
    return _LAYOUTS.validate_json(text)


def current(connection: sqlite3.Connection, journal: JournalKey) -> Entry:
    """The current entry of a journal. Raises NotFoundError."""
    row = connection.execute(_CURRENT, {"photo_id": journal.photo_id}).fetchone()
    if row is None:
        raise NotFoundError(f"There is no photo {journal.photo_id}.")
    return _entry(row)


def get(connection: sqlite3.Connection, journal: JournalKey, entry_id: int) -> Entry:
    """An entry of a journal. Raises NotFoundError."""
    row = connection.execute(_GET, {"id": entry_id, "photo_id": journal.photo_id}).fetchone()
    if row is None:
        raise NotFoundError(f"There is no entry {entry_id} in this journal.")
    return _entry(row)


def entries(connection: sqlite3.Connection, journal: JournalKey) -> list[Entry]:
    """A whole journal, oldest first."""
    return [_entry(row) for row in connection.execute(_ALL, {"photo_id": journal.photo_id})]


def following(connection: sqlite3.Connection, entry: Entry) -> Entry | None:
    """The entry that redo would visit."""
    row = connection.execute(_NEXT, {"id": entry.id}).fetchone()
    return _entry(row) if row else None


def undo(connection: sqlite3.Connection, journal: JournalKey) -> Entry:
    """Makes the parent of the current entry the current one, and returns it. Raises UsageError
    `nothing_to_undo`."""
    entry = current(connection, journal)
    if entry.parent_id is None:
        raise UsageError("There is nothing to undo.", "nothing_to_undo")
    return visit(connection, journal, entry.parent_id)


def redo(connection: sqlite3.Connection, journal: JournalKey) -> Entry:
    """Makes the entry that undo left the current one again. Raises UsageError `nothing_to_redo`."""
    after = following(connection, current(connection, journal))
    if after is None:
        raise UsageError("There is nothing to redo.", "nothing_to_redo")
    return visit(connection, journal, after.id)


def visit(connection: sqlite3.Connection, journal: JournalKey, entry_id: int) -> Entry:
    """Makes an entry of a journal the current one. Raises NotFoundError."""
    entry = get(connection, journal, entry_id)
    connection.execute(_VISIT, {"id": entry_id})
    return entry


def _append(
    connection: sqlite3.Connection,
    journal: JournalKey,
    words: str,
    state: str,
    step_id: int | None = None,
) -> Entry:
    parent = connection.execute(_CURRENT, {"photo_id": journal.photo_id}).fetchone()
    values = {
        "photo_id": journal.photo_id,
        "parent_id": parent["id"] if parent else None,
        "words": words,
        "state": state,
        "step_id": step_id,
    }
    return _entry(connection.execute(_APPEND, values).fetchone())


def _entry(row: sqlite3.Row) -> Entry:
    return as_a(Entry, row)


def own_threshold(connection: sqlite3.Connection) -> Outcome | None:
    """The threshold of noticing that was found last, on any photo."""
    row = connection.execute(_OWN_THRESHOLD).fetchone()
    return Outcome(**json.loads(row["outcome"])) if row else None
