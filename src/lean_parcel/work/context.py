"""What every part of a workspace uses: its file, its limits, the queue, and the announcements."""

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.original.source import Limits
from lean_parcel.store import room
from lean_parcel.store.file.connections import Connections
from lean_parcel.store.file.faults import in_words
from lean_parcel.work.changes import Changes
from lean_parcel.work.queue.work_queue import WorkQueue

#: To look whether there is room takes as long as an encode where there are hundreds of photos, so
#: it is done after this share of the room was filled.
_LOOKED_AFTER = 0.01


class RoomWatch:
    """Keeps all that can be made again to a size."""

    def __init__(self, room_bytes: int) -> None:
        self._room_bytes = room_bytes
        self._added_bytes = room_bytes  # what was there before

    def added(self, connection: sqlite3.Connection, size_bytes: int) -> None:
        """Makes room, within the transaction in which these bytes were stored, once there is too
        little."""
        self._added_bytes += size_bytes
        if self._added_bytes > _LOOKED_AFTER * self._room_bytes:
            self._added_bytes = 0
            room.make_room(connection, self._room_bytes)


@dataclass(frozen=True, slots=True, kw_only=True)
class Context:
    """See the module. `refused` has originals that cannot go out in some way, by their framed
    pixels, so that this is tried once; for the queue's thread. Where nothing `is_looked_at`, damage
    is looked for only in what is handed over."""

    is_read_only: bool
    connections: Connections
    limits: Limits
    room: RoomWatch
    queue: WorkQueue
    changes: Changes
    is_looked_at: bool = True
    refused: set[tuple[int, Trial]] = field(default_factory=set)

    @contextmanager
    def connection(self) -> Iterator[sqlite3.Connection]:
        """A connection for one operation. Raises StorageError."""
        with in_words(), self.connections.lent() as connection:
            yield connection
