"""Inspections of originals: made when a photo comes in, or later for one of an older workspace."""

from concurrent.futures import Future

from lean_parcel.core.metadata.values import Credit
from lean_parcel.store import blobs, inspections, photos
from lean_parcel.store.file import database
from lean_parcel.store.inspections import Inspection
from lean_parcel.work.context import Context
from lean_parcel.work.queue.work_queue import Priority
from lean_parcel.work.results.inspections import store_inspection
from lean_parcel.work.tasks.inspection import Inspected, inspect_task


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
