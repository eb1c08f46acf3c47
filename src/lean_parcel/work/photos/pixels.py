"""Framed pixels that were let go are made again where somebody looks."""

from collections.abc import Iterator
from sqlite3 import Connection

from lean_parcel.core.decisions.state import State
from lean_parcel.core.framing.plan import plan_framing
from lean_parcel.store import blobs, database, framed, journal, photos, searches
from lean_parcel.store.framed import FramedRow
from lean_parcel.store.photos import Photo
from lean_parcel.store.searches import OWN
from lean_parcel.work.context import Context
from lean_parcel.work.queue.work_queue import Priority
from lean_parcel.work.searches.starting import state_of_search
from lean_parcel.work.tasks.framing import FramedFiles, frame_task


def ensure_pixels(context: Context, photo_id: int, density: float = OWN) -> None:
    """Makes the pixels of a photo as it is framed now, for its place or variants at a density,
    again, if they were let go; waits for a worker then. Raises NotFoundError, a PhotoError or a
    TaskError."""
    with context.connection() as connection:
        photo = photos.get(connection, photo_id)
        state = state_of_search(connection, photo, density)
        if state is None:
            return
        plan = plan_framing(photo.source, state.framing, state.aim.place)
        row = framed.find(connection, photo.original_sha256, plan)
        if row is None or blobs.has(connection, row.pixels_sha256):
            return
    _frame_again(context, row, photo, state)


def ensure_framed_pixels(context: Context, framed_id: int) -> None:
    """The same for a row of framed pixels, as a photo is framed now or was at a step of its
    journal. Raises as `ensure_pixels` does."""
    with context.connection() as connection:
        row = framed.get(connection, framed_id)
        if blobs.has(connection, row.pixels_sha256):
            return
        found = next(_framed_as(connection, row), None)
    if found:
        _frame_again(context, row, *found)


def _framed_as(connection: Connection, row: FramedRow) -> Iterator[tuple[Photo, State]]:
    """The photos of an original, in the states in which they are framed as a row says."""
    for photo_id in photos.of_original(connection, row.original_sha256):
        photo = photos.get(connection, photo_id)
        for state in _states(connection, photo):
            plan = plan_framing(photo.source, state.framing, state.aim.place)
            other = framed.find(connection, row.original_sha256, plan)
            if other and other.id == row.id:
                yield photo, state


def _states(connection: Connection, photo: Photo) -> Iterator[State]:
    """The states in which a photo is searched, and then those of its journal, the newest first."""
    for ref in searches.all_of(connection, photo.id):
        state = state_of_search(connection, photo, ref.density)
        if state:
            yield state
    for entry in reversed(journal.entries(connection, journal.of_photo(photo.id))):
        yield journal.read_state(entry)


def _frame_again(context: Context, row: FramedRow, photo: Photo, state: State) -> None:
    with context.connection() as connection:
        original = blobs.get(connection, photo.original_sha256)
    args = (original, photo.name, state.framing, state.aim.place, context.limits)
    made: FramedFiles = context.queue.run(Priority.ANSWER, frame_task, *args)
    with context.connection() as connection, database.transaction(connection):
        plain_sha256 = blobs.put(connection, made.plain_png)
        pixels_sha256 = blobs.put(connection, made.pixels_png)
        framed.set_pixels(connection, row.id, plain_sha256, pixels_sha256)
        context.room.added(connection, made.size_bytes)
