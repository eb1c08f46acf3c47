"""Looking into originals: once, when they come in, or later for those of an older workspace."""

from concurrent.futures import Executor, Future
from dataclasses import replace
from sqlite3 import Connection

from lean_parcel.core.framing import Framing, MetadataPolicy
from lean_parcel.core.metadata import Blocks, Credit
from lean_parcel.core.photo import Limits, profile_of
from lean_parcel.store import blobs, database, inspections
from lean_parcel.store.inspections import Inspection, MetadataChoice
from lean_parcel.store.photos import Photo
from lean_parcel.work.tasks import Inspected, inspect_task


class Inspector:
    """Finds out what an original carries, over an executor."""

    def __init__(self, executor: Executor, limits: Limits) -> None:
        self._executor = executor
        self._limits = limits

    def begin(self, data: bytes, name: str, credit: Credit) -> Future[Inspected]:
        """Starts to look into an original that is not stored yet."""
        return self._executor.submit(inspect_task, data, name, credit, self._limits)

    def of_photo(self, connection: Connection, photo: Photo) -> Inspection:
        """What was found in a stored photo; looked for now if nobody has before."""
        found = inspections.find(connection, photo.id)
        if found:
            return found
        data = blobs.get(connection, photo.original_sha256)
        made = self.begin(data, photo.name, Credit()).result()
        with database.transaction(connection):
            return keep(connection, photo.id, made)

    def blocks(self, connection: Connection, photo: Photo, framing: Framing) -> Blocks:
        """What travels in a photo's files: the metadata that its policy lets through, and the
        profile of its gamut."""
        allowed = self._let_through(connection, photo, framing.metadata)
        return replace(allowed, icc=profile_of(framing.gamut))

    def carried(self, connection: Connection, photo: Photo) -> Blocks:
        """What the widest policy lets through of a photo's metadata."""
        return self._let_through(connection, photo, "everything")

    def _let_through(self, connection: Connection, photo: Photo, policy: MetadataPolicy) -> Blocks:
        choices = self.of_photo(connection, photo).choices
        return next(choice.blocks for choice in choices if choice.policy == policy)


def keep(connection: Connection, photo_id: int, made: Inspected) -> Inspection:
    """Stores what a worker found, within a transaction."""
    inspection = Inspection(
        findings=made.findings,
        credit=made.credit,
        preview_sha256=blobs.put(connection, made.preview_webp),
        choices=tuple(
            MetadataChoice(policy=policy, blocks=blocks, costs=made.costs[policy])
            for policy, blocks in made.blocks.items()
        ),
    )
    inspections.add(connection, photo_id, inspection)
    return inspection
