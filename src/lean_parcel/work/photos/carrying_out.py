"""Carrying out acts on photos in the store, within a transaction: the entry of the journal, and the
search that follows."""

import sqlite3
from collections.abc import Collection
from dataclasses import dataclass, replace

from lean_parcel.core.decisions.acts import Act, done
from lean_parcel.core.decisions.journal import change_words
from lean_parcel.core.decisions.state import State, files_key, plan_of
from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.formats import FORMAT_NAMES
from lean_parcel.core.size import format_size
from lean_parcel.store import encodes, framed, inspections, journal, photos, searches
from lean_parcel.store.journal import of_photo
from lean_parcel.store.photos import Photo
from lean_parcel.work.photos.picks import MissingPick, right_pick
from lean_parcel.work.searches.starting import (
    NewSearch,
    SearchChanges,
    follow_with_variants,
    start_search,
    variant_states_of,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """What an act makes of what is decided about a photo, and the act in words."""

    photo: Photo
    before: State
    after: State
    words: str


def step_of(
    connection: sqlite3.Connection, photo_id: int, act: Act, without_pick: Collection[int]
) -> Step | MissingPick:
    """What an act would make of a photo, or the encode that has to be made first; photos
    `without_pick` have their pick put back instead. Raises NotFoundError for a pick of something
    else than the photo as it is framed, and what `done` raises."""
    photo = photos.get(connection, photo_id)
    before = journal.state_of(connection, photo_id)
    after = done(act, before, photo.source)
    _check_variants(connection, photo, before, after)
    if after.picked_encode_id not in (None, before.picked_encode_id):
        words = _pick_words(connection, photo, after)
    else:
        words = change_words(before, after)
        pick = None if photo_id in without_pick else right_pick(connection, photo, after)
        if isinstance(pick, MissingPick):
            return pick
        after = replace(after, picked_encode_id=pick)
    return Step(photo=photo, before=before, after=after, words=words)


def carry_out(
    connection: sqlite3.Connection, step: Step, of_pages: int | None = None
) -> SearchChanges:
    """Stores a step, as part of one of the pages where that is given; returns the searches that
    follow."""
    if step.after != step.before:
        journal.append_state(connection, step.photo.id, step.words, step.after, of_pages)
    return search_again(connection, step.photo, step.before, step.after)


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
    old, new = (plan_of(s, photo.source) for s in (before, after))
    own = NewSearch(start_search(connection, photo, after), is_of_same_pixels=old == new)
    return SearchChanges((own,)) + of_variants


def _check_variants(
    connection: sqlite3.Connection, photo: Photo, before: State, after: State
) -> None:
    """Raises NotFoundError where a variant is chosen newly that is an encode of something else than
    the photo at that density, or in another format."""
    for chosen in after.variant_picks:
        if chosen in before.variant_picks:
            continue
        at = variant_states_of(connection, photo, before).get(chosen.density)
        plan = plan_of(at, photo.source) if at else None
        row = framed.find(connection, photo.original_sha256, plan) if plan else None
        encode = encodes.get(connection, chosen.encode_id)
        is_of_density = row is not None and row.id == encode.framed_id
        if not is_of_density or encode.trial.settings.format != chosen.format:
            raise NotFoundError(f"There is no candidate {chosen.encode_id} for this variant.")


def _pick_words(connection: sqlite3.Connection, photo: Photo, state: State) -> str:
    """A pick in words. Raises NotFoundError for an encode of something else than the photo as it is
    framed."""
    encode_id = state.picked_encode_id
    assert encode_id is not None
    plan = plan_of(state, photo.source)
    row = framed.find(connection, photo.original_sha256, plan)
    sizes = inspections.segment_sizes(connection, photo.id, state.framing.metadata)
    encode = encodes.get(connection, encode_id, sizes)
    if row is None or row.id != encode.framed_id:
        raise NotFoundError(f"There is no candidate {encode_id} for this photo.")
    trial = encode.trial
    name = "the original" if trial.is_pass_through else FORMAT_NAMES[trial.settings.format]
    why = f", since {state.reason}" if state.reason else ""
    return f"Took {name}, {format_size(encode.measured.size_bytes)}{why}"
