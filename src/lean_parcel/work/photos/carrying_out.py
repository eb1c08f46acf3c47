"""Carrying out acts on photos in the store, within a transaction: the entry of the journal, and the
search that follows."""

import sqlite3
from dataclasses import replace

from lean_parcel.core.decisions.acts import Act, GiveReason, Pick, PickVariant, done
from lean_parcel.core.decisions.journal import change_words
from lean_parcel.core.decisions.state import State, files_key
from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.formats import FORMAT_NAMES
from lean_parcel.core.framing.plan import plan_framing
from lean_parcel.core.size import format_size
from lean_parcel.store import encodes, framed, inspections, journal, photos, searches
from lean_parcel.store.journal import of_photo
from lean_parcel.store.photos import Photo
from lean_parcel.work.photos.picks import right_pick_id
from lean_parcel.work.searches.starting import (
    NewSearch,
    SearchChanges,
    follow_with_variants,
    start_search,
    variant_states_of,
)


def carry_out(
    connection: sqlite3.Connection,
    photo_id: int,
    act: Act,
    *,
    keeps_pick: bool = True,
    step_id: int | None = None,
) -> SearchChanges:
    """Does an act, as part of a step on many photos where that is given; returns the searches that
    follow. Raises MissingPick where an encode has to be made first, and what `done` raises."""
    photo = photos.get(connection, photo_id)
    before = journal.state_of(connection, photo_id)
    after = done(act, before, photo.source)
    if isinstance(act, PickVariant):
        _check_variant(connection, photo, before, act)
    if isinstance(act, Pick):
        words = _pick_words(connection, photo, after)
    else:
        words = change_words(before, after)
        if not isinstance(act, GiveReason):
            picked_id = right_pick_id(connection, photo, after) if keeps_pick else None
            after = replace(after, picked_encode_id=picked_id)
    if after != before:
        journal.append_state(connection, photo_id, words, after, step_id)
    return search_again(connection, photo, before, after)


def visit(connection: sqlite3.Connection, photo_id: int, entry_id: int) -> SearchChanges:
    """Makes an entry of a photo's journal the current one; returns the searches that follow. Raises
    NotFoundError."""
    photo = photos.get(connection, photo_id)
    before = journal.state_of(connection, photo_id)
    entry = journal.visit(connection, of_photo(photo_id), entry_id)
    return search_again(connection, photo, before, journal.read_state(entry))


def search_again(
    connection: sqlite3.Connection, photo: Photo, before: State, after: State
) -> SearchChanges:
    """A new search where the photo's files change, or where nothing changed and the last search did
    not come to its end; and those of its variants."""
    of_variants = follow_with_variants(connection, photo, before, after)
    is_needed = files_key(before, photo.source) != files_key(after, photo.source)
    if before == after:
        is_needed = searches.of_photo(connection, photo.id).state in ("stopped", "failed")
    if not is_needed:
        return of_variants
    old, new = (plan_framing(photo.source, s.framing, s.aim.place) for s in (before, after))
    own = NewSearch(start_search(connection, photo, after), is_of_same_pixels=old == new)
    return SearchChanges((own,)) + of_variants


def _check_variant(
    connection: sqlite3.Connection, photo: Photo, state: State, act: PickVariant
) -> None:
    """Raises NotFoundError for an encode of something else than the photo at that density, or in
    another format."""
    if act.encode_id is None:
        return
    at = variant_states_of(connection, photo, state).get(act.density)
    encode = encodes.get(connection, act.encode_id)
    plan = at and plan_framing(photo.source, at.framing, at.aim.place)
    row = framed.find(connection, photo.original_sha256, plan) if plan else None
    is_of_density = row is not None and row.id == encode.framed_id
    if not is_of_density or encode.trial.settings.format != act.format:
        raise NotFoundError(f"There is no candidate {act.encode_id} for this variant.")


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
    why = f", since {state.reason}" if state.reason else ""
    return f"Took {name}, {format_size(encode.measured.size_bytes)}{why}"
