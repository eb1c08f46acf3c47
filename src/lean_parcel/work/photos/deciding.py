"""Changing what is decided about a photo; every change is an entry of its journal."""

import sqlite3
from collections.abc import Callable, Collection

from lean_parcel.core.decisions.acts import Act
from lean_parcel.core.errors import NotFoundError
from lean_parcel.store import journal, photos, searches
from lean_parcel.store.file import database
from lean_parcel.store.journal import Entry, of_photo
from lean_parcel.store.searches import OWN
from lean_parcel.work.context import Context
from lean_parcel.work.photos.carrying_out import carry_out, search_again, step_of
from lean_parcel.work.photos.picks import MissingPick, with_picks
from lean_parcel.work.searches.runs import SearchRuns
from lean_parcel.work.searches.starting import SearchChanges


class Deciding:
    """Does acts on photos, and steps along their journals."""

    def __init__(self, context: Context, runs: SearchRuns) -> None:
        self._context = context
        self._runs = runs

    def do(self, photo_id: int, act: Act) -> None:
        """Does an act: an entry in the photo's journal, and a new search where its files change.

        Where nothing changes nothing is stored, but a search that was stopped or failed begins
        again. A pick that the act makes another file of is exchanged for that one, which may have
        to be encoded first, or put back where that cannot be made. Raises NotFoundError, a
        UsageError of the act or of a framing that cannot be, or a TaskError, and then nothing is
        stored.
        """

        def attempt(without_pick: Collection[int]) -> SearchChanges | MissingPick:
            with self._context.connection() as connection, database.transaction(connection):
                step = step_of(connection, photo_id, act, without_pick)
                return step if isinstance(step, MissingPick) else carry_out(connection, step)

        self._continue(photo_id, with_picks(self._context, attempt))

    def undo(self, photo_id: int) -> None:
        """Takes the last step on a photo back. Raises UsageError `nothing_to_undo`."""
        self._move(photo_id, lambda connection: journal.undo(connection, of_photo(photo_id)))

    def redo(self, photo_id: int) -> None:
        """Does a step again that was undone. Raises UsageError `nothing_to_redo`."""
        self._move(photo_id, lambda connection: journal.redo(connection, of_photo(photo_id)))

    def go_back_to(self, photo_id: int, entry_id: int) -> None:
        """Makes any entry of a photo's journal the current one. Raises NotFoundError."""
        self._move(
            photo_id, lambda connection: journal.visit(connection, of_photo(photo_id), entry_id)
        )

    def stop_search(self, photo_id: int, density: float = OWN) -> None:
        """Ends a photo's search where it is; what it found stays. Raises NotFoundError."""
        with self._context.connection() as connection, database.transaction(connection):
            photos.get(connection, photo_id)
            refs = searches.all_of(connection, photo_id)
            ref = next((ref for ref in refs if ref.density == density), None)
            if ref is None:
                raise NotFoundError(f"Nothing is searched at the density {density:g}.")
            searches.end(connection, ref.id, "stopped")
        self._runs.stop(ref)

    def _move(self, photo_id: int, move: Callable[[sqlite3.Connection], Entry]) -> None:
        with self._context.connection() as connection, database.transaction(connection):
            photo = photos.get(connection, photo_id)
            before = journal.state_of(connection, photo_id)
            after = journal.read_state(move(connection))
            changes = search_again(connection, photo, before, after)
        self._continue(photo_id, changes)

    def _continue(self, photo_id: int, changes: SearchChanges) -> None:
        self._runs.follow(changes)
        self._context.changes.announce_photo(photo_id)
