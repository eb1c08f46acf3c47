"""What is missing is made where somebody looks: framed pixels that were let go, and inspections of
originals of an older workspace."""

from concurrent.futures import Future

from lean_parcel.core.decisions.state import plan_of
from lean_parcel.core.metadata.values import Credit
from lean_parcel.store import blobs, framed, inspections, photos, searches
from lean_parcel.store.file import database
from lean_parcel.store.inspections import Inspection
from lean_parcel.store.searches import OWN
from lean_parcel.work.context import Context
from lean_parcel.work.queue.work_queue import Priority
from lean_parcel.work.results.inspections import store_inspection
from lean_parcel.work.searches.starting import state_of_search
from lean_parcel.work.tasks.framing import FramedFiles, frame_task
from lean_parcel.work.tasks.inspection import Inspected, inspect_task


def ensure_pixels(context: Context, photo_id: int, density: float = OWN) -> None:
    """Makes the pixels of a photo as it is framed now, for its place or variants at a density,
    again, if they were let go; waits for a worker then. Raises NotFoundError, a PhotoError or a
    TaskError."""
    with context.connection() as connection:
        photo = photos.get(connection, photo_id)
        state = state_of_search(connection, photo, density)
        if state is None:
            return
        plan = plan_of(state, photo.source)
        row = framed.find(connection, photo.original_sha256, plan)
        if row is None or blobs.has(connection, row.pixels_sha256):
            return
        original = blobs.get(connection, photo.original_sha256)
    args = (original, photo.name, state.framing, state.aim.place, context.limits)
    made: FramedFiles = context.queue.run(Priority.ANSWER, frame_task, *args)
    with context.connection() as connection, database.transaction(connection):
        plain_sha256 = blobs.put(connection, made.plain_png)
        pixels_sha256 = blobs.put(connection, made.pixels_png)
        framed.set_pixels(connection, row.id, plain_sha256, pixels_sha256)
        context.room.added(connection, made.size_bytes)


def ensure_framed_pixels(context: Context, framed_id: int) -> None:
    """The same for a row of framed pixels, as far as a photo is framed so now. Raises as
    `ensure_pixels` does."""
    with context.connection() as connection:
        row = framed.get(connection, framed_id)
        if blobs.has(connection, row.pixels_sha256):
            return
        photo_ids = photos.of_original(connection, row.original_sha256)
        refs = [ref for photo_id in photo_ids for ref in searches.all_of(connection, photo_id)]
    for ref in refs:
        with context.connection() as connection:
            if blobs.has(connection, row.pixels_sha256):
                return
        ensure_pixels(context, ref.photo_id, ref.density)


class Inspections:
    """What was found in each original."""

    def __init__(self, context: Context) -> None:
        self._context = context

    def begin(self, data: bytes, name: str, credit: Credit) -> Future[Inspected]:
        """Begins to inspect an original that is not stored yet."""
        return self._context.queue.submit(
            Priority.ADDING, inspect_task, data, name, credit, self._context.limits
        )

    def of_photo(self, photo_id: int) -> Inspection:
        """What was found in a stored photo; inspects it now if nobody has before, so this may wait
        for a worker. Raises NotFoundError."""
        with self._context.connection() as connection:
            photo = photos.get(connection, photo_id)
            found = inspections.find(connection, photo_id)
            if found:
                return found
            original = blobs.get(connection, photo.original_sha256)
        inspected = self._context.queue.awaited(self.begin(original, photo.name, Credit()))
        with self._context.connection() as connection, database.transaction(connection):
            return store_inspection(connection, photo_id, inspected)
