"""A pick is always what the present state would make: where the metadata policy or the colour
behind transparency changes, the encode that was picked gives its place to the new state's."""

from collections.abc import Callable, Collection
from dataclasses import dataclass
from sqlite3 import Connection
from typing import TypeVar

from lean_parcel.core.candidates.delivered import trial_under
from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.decisions.state import State, plan_of
from lean_parcel.store import blobs, encodes, framed
from lean_parcel.store.file import database
from lean_parcel.store.framed import FramedRow
from lean_parcel.store.photos import Photo
from lean_parcel.work.context import Context
from lean_parcel.work.photos.missing import ensure_framed_pixels
from lean_parcel.work.queue.work_queue import Priority
from lean_parcel.work.results.encodes import store_encode
from lean_parcel.work.tasks.encoder_input import EncoderInput
from lean_parcel.work.tasks.encoding import Encoded, encode_task
from lean_parcel.work.tasks.original import pass_through_task

_T = TypeVar("_T")


@dataclass(frozen=True, slots=True, kw_only=True)
class MissingPick:
    """The encode that has to take a pick's place, and is not made yet."""

    photo: Photo
    state: State
    row: FramedRow
    trial: Trial


def right_pick(connection: Connection, photo: Photo, state: State) -> int | MissingPick | None:
    """The encode that is picked under a state, by its id; None where none is, or it is of other
    pixels."""
    if state.picked_encode_id is None:
        return None
    picked = encodes.get(connection, state.picked_encode_id)
    row = framed.get(connection, picked.framed_id)
    if framed.find(connection, photo.original_sha256, plan_of(state, photo.source)) != row:
        return None
    is_transparent = row.search_input.is_transparent
    trial = trial_under(picked.trial, state.framing, is_transparent=is_transparent)
    if trial == picked.trial:
        return picked.id
    made = encodes.find(connection, row.id, trial)
    return made.id if made else MissingPick(photo=photo, state=state, row=row, trial=trial)


def with_picks(context: Context, attempt: Callable[[Collection[int]], _T | MissingPick]) -> _T:
    """Attempts something until no pick is missing for it, and returns what came of it. Each one
    that is missing is made in between; an attempt is given the photos of which it cannot be made.
    Raises a TaskError."""
    without: set[int] = set()
    while isinstance(came := attempt(without), MissingPick):
        if not _is_made(context, came):
            without.add(came.photo.id)
    return came


def _is_made(context: Context, missing: MissingPick) -> bool:
    """Whether the encode that is missing could be made, before all searches, and stored."""
    encoded = _made(context, missing)
    if encoded is None:
        return False
    with context.connection() as connection, database.transaction(connection):
        store_encode(connection, context, missing.row.id, missing.trial, encoded)
    return True


def _made(context: Context, missing: MissingPick) -> Encoded | None:
    """The encode; None for an original that cannot go out so."""
    ensure_framed_pixels(context, missing.row.id)
    photo, trial = missing.photo, missing.trial
    with context.connection() as connection:
        row = framed.get(connection, missing.row.id)
        pixels_png = blobs.get(connection, row.pixels_sha256)
        original = blobs.get(connection, photo.original_sha256) if trial.is_pass_through else b""
    encoder_input = EncoderInput(
        pixels_png=pixels_png, gamut=missing.state.framing.gamut, density=row.density
    )
    run = context.queue.run
    if trial.is_pass_through:
        args = (encoder_input, original, photo.name, trial, context.limits)
        return run(Priority.ANSWER, pass_through_task, *args)
    return run(Priority.ANSWER, encode_task, encoder_input, trial)
