"""A pick is always what the present state would make: where the metadata policy or the colour
behind transparency changes, the encode that was picked gives its place to the new state's."""

import sqlite3

from lean_parcel.core.candidates.delivery import trial_under
from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.decisions.state import State
from lean_parcel.core.framing.plan import plan_framing
from lean_parcel.store import blobs, database, encodes, framed
from lean_parcel.store.framed import FramedRow
from lean_parcel.store.photos import Photo
from lean_parcel.work.context import Context
from lean_parcel.work.photos.encodes import store_encode
from lean_parcel.work.photos.pixels import ensure_framed_pixels
from lean_parcel.work.queue.work_queue import Priority
from lean_parcel.work.tasks.encoder_input import EncoderInput
from lean_parcel.work.tasks.encoding import Encoded, encode_task
from lean_parcel.work.tasks.original import pass_through_task


class MissingPick(Exception):
    """The encode that has to take the pick's place is not made yet."""

    def __init__(self, photo: Photo, state: State, row: FramedRow, new: Trial) -> None:
        super().__init__()
        self.photo, self.state, self.row, self.new = photo, state, row, new


def right_pick_id(connection: sqlite3.Connection, photo: Photo, state: State) -> int | None:
    """The encode that is picked under a state; None where none is, or it is of other pixels. Raises
    MissingPick where it has to be made first."""
    if state.picked_encode_id is None:
        return None
    picked = encodes.get(connection, state.picked_encode_id)
    row = framed.get(connection, picked.framed_id)
    plan = plan_framing(photo.source, state.framing, state.aim.place)
    if framed.find(connection, photo.original_sha256, plan) != row:
        return None
    is_transparent = row.search_input.is_transparent
    trial = trial_under(picked.trial, state.framing, is_transparent=is_transparent)
    if trial == picked.trial:
        return picked.id
    made = encodes.find(connection, row.id, trial)
    if made is None:
        raise MissingPick(photo, state, row, trial)
    return made.id


def make_missing(context: Context, missing: MissingPick) -> bool:
    """Makes and stores the encode that is missing, before all searches; False where it cannot be
    made. Raises a TaskError."""
    encoded = _made(context, missing)
    if encoded is None:
        return False
    with context.connection() as connection, database.transaction(connection):
        store_encode(connection, context, missing.row.id, missing.new, encoded)
    return True


def _made(context: Context, missing: MissingPick) -> Encoded | None:
    """The encode; None for an original that cannot go out so."""
    ensure_framed_pixels(context, missing.row.id)
    photo, trial = missing.photo, missing.new
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
