"""Changing the pages: every act is an entry of their journal, and can be undone."""

import sqlite3
from collections.abc import Callable
from dataclasses import dataclass

from lean_parcel.core.page.acts import PageAct, done, words
from lean_parcel.core.page.layout import Layout
from lean_parcel.store import database, journal, photos, searches
from lean_parcel.store.journal import PAGES, Entry
from lean_parcel.work.context import Context
from lean_parcel.work.searches.runs import SearchRuns
from lean_parcel.work.searches.starting import start_search


@dataclass(frozen=True, slots=True, kw_only=True)
class _SearchChanges:
    """Searches that were stopped, and started, by their photo."""

    stopped: dict[int, int]
    started: dict[int, int]


class PageEditing:
    """Does acts on the pages of a workspace."""

    def __init__(self, context: Context, runs: SearchRuns) -> None:
        self._context = context
        self._runs = runs

    def do(self, act: PageAct) -> Layout:
        """Does an act, and returns the layout after it. Raises NotFoundError or UsageError, and
        then nothing is stored."""
        with self._context.connection() as connection, database.transaction(connection):
            before = journal.layout_of(connection)
            after = done(act, before)
            if after != before:
                journal.append_layout(connection, words(act), after)
            changed = _change_searches(connection, before, after)
        self._follow(changed)
        return after

    def undo(self) -> None:
        """Takes the last act on the pages back. Raises UsageError `nothing_to_undo`."""
        self._move(lambda connection: journal.undo(connection, PAGES))

    def redo(self) -> None:
        """Does an act again that was undone. Raises UsageError `nothing_to_redo`."""
        self._move(lambda connection: journal.redo(connection, PAGES))

    def _move(self, move: Callable[[sqlite3.Connection], Entry]) -> None:
        with self._context.connection() as connection, database.transaction(connection):
            before = journal.layout_of(connection)
            after = journal.read_layout(move(connection))
            changed = _change_searches(connection, before, after)
        self._follow(changed)

    def _follow(self, changed: _SearchChanges) -> None:
        for photo_id, search_id in changed.stopped.items():
            self._runs.stop(photo_id, search_id)
        for photo_id, search_id in changed.started.items():
            self._runs.start(photo_id, search_id)
        self._context.changes.announce_pages()


def _change_searches(
    connection: sqlite3.Connection, before: Layout, after: Layout
) -> _SearchChanges:
    """Stops what runs for photos that were removed, and starts again what was stopped of photos
    that were restored."""
    removed = set(before.photo_ids()) - set(after.photo_ids())
    restored = set(after.photo_ids()) - set(before.photo_ids())
    stopped, started = {}, {}
    for photo_id in removed:
        stopped[photo_id] = searches.of_photo(connection, photo_id).id
        searches.end(connection, stopped[photo_id], "stopped")
    for photo_id in restored:
        if searches.of_photo(connection, photo_id).state == "stopped":
            photo, state = photos.get(connection, photo_id), journal.state_of(connection, photo_id)
            started[photo_id] = start_search(connection, photo, state)
    return _SearchChanges(stopped=stopped, started=started)
