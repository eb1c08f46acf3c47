"""Changing what is decided about a photo; every change is an entry of its journal."""

import sqlite3
from collections.abc import Callable
from dataclasses import dataclass, replace

from lean_parcel.core.decisions.acts import Act, Pick, done
from lean_parcel.core.decisions.journal import change_words
from lean_parcel.core.decisions.state import State, files_key
from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.formats import FORMAT_NAMES
from lean_parcel.core.framing.plan import plan_framing
from lean_parcel.core.size import format_size
from lean_parcel.store import database, encodes, framed, inspections, journal, photos, searches
from lean_parcel.store.journal import Entry, of_photo
from lean_parcel.store.photos import Photo
from lean_parcel.work.context import Context
from lean_parcel.work.photos.picks import MissingPick, make_missing, right_pick_id
from lean_parcel.work.searches.runs import SearchRuns
from lean_parcel.work.searches.starting import start_search


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
        keeps_pick = True
        while True:
            try:
                search = self._done(photo_id, act, keeps_pick=keeps_pick)
                break
            except MissingPick as missing:
                keeps_pick = make_missing(self._context, missing)
        self._continue(photo_id, search)

    def _done(self, photo_id: int, act: Act, *, keeps_pick: bool) -> "_NewSearch | None":
        """Does an act in one transaction, and returns its search if it needs one. Raises
        MissingPick."""
        with self._context.connection() as connection, database.transaction(connection):
            photo = photos.get(connection, photo_id)
            before = journal.state_of(connection, photo_id)
            after = done(act, before, photo.source)
            if isinstance(act, Pick):
                words = _pick_words(connection, photo, after)
            else:
                words = change_words(before, after)
                picked_id = right_pick_id(connection, photo, after) if keeps_pick else None
                after = replace(after, picked_encode_id=picked_id)
            if after != before:
                journal.append_state(connection, photo_id, words, after)
            return _search_again(connection, photo, before, after)

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

    def stop_search(self, photo_id: int) -> None:
        """Ends a photo's search where it is; what it found stays. Raises NotFoundError."""
        with self._context.connection() as connection, database.transaction(connection):
            photos.get(connection, photo_id)
            search_id = searches.of_photo(connection, photo_id).id
            searches.end(connection, search_id, "stopped")
        self._runs.stop(photo_id, search_id)

    def _move(self, photo_id: int, move: Callable[[sqlite3.Connection], Entry]) -> None:
        with self._context.connection() as connection, database.transaction(connection):
            photo = photos.get(connection, photo_id)
            before = journal.state_of(connection, photo_id)
            after = journal.read_state(move(connection))
            search = _search_again(connection, photo, before, after)
        self._continue(photo_id, search)

    def _continue(self, photo_id: int, search: "_NewSearch | None") -> None:
        if search is None:
            self._context.changes.announce_photo(photo_id)
        else:
            self._runs.start(photo_id, search.id, is_of_same_pixels=search.is_of_same_pixels)


@dataclass(frozen=True, slots=True)
class _NewSearch:
    """A search that was stored, and whether it is of the same framed pixels as the one before."""

    id: int
    is_of_same_pixels: bool


def _search_again(
    connection: sqlite3.Connection, photo: Photo, before: State, after: State
) -> _NewSearch | None:
    """A new search where the photo's files change, or where nothing changed and the last search did
    not come to its end."""
    is_needed = files_key(before, photo.source) != files_key(after, photo.source)
    if before == after:
        is_needed = searches.of_photo(connection, photo.id).state in ("stopped", "failed")
    if not is_needed:
        return None
    old, new = (plan_framing(photo.source, s.framing, s.aim.place) for s in (before, after))
    return _NewSearch(start_search(connection, photo, after), is_of_same_pixels=old == new)


def _pick_words(connection: sqlite3.Connection, photo: Photo, state: State) -> str:
    """A pick in words. Raises NotFoundError for an encode of something else than the photo as it is
    framed."""
    encode_id = state.picked_encode_id
    if encode_id is None:
        return "Put the pick back"
    plan = plan_framing(photo.source, state.framing, state.aim.place)
    row = framed.find(connection, photo.original_sha256, plan)
    sizes = inspections.segment_sizes(connection, photo.id, state.framing.metadata)
    encode = encodes.get(connection, encode_id, sizes)
    if row is None or row.id != encode.framed_id:
        raise NotFoundError(f"There is no candidate {encode_id} for this photo.")
    trial = encode.trial
    name = "the original" if trial.is_pass_through else FORMAT_NAMES[trial.settings.format]
    return f"Took {name}, {format_size(encode.measured.size_bytes)}"
