"""What every part of a workspace uses: its file, its limits, the queue, and the announcements."""

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from lean_parcel.core.original.source import Limits
from lean_parcel.store import database
from lean_parcel.store.faults import in_words
from lean_parcel.work.changes import Changes
from lean_parcel.work.queue.work_queue import WorkQueue


@dataclass(frozen=True, slots=True, kw_only=True)
class Context:
    """See the module. All that can be made again may take `room_bytes` together."""

    path: Path
    is_read_only: bool
    limits: Limits
    room_bytes: int
    queue: WorkQueue
    changes: Changes

    @contextmanager
    def connection(self) -> Iterator[sqlite3.Connection]:
        """A connection for one operation, to be used by one thread. Raises StorageError."""
        with in_words():
            connection = database.connect(self.path, is_read_only=self.is_read_only)
            try:
                yield connection
            finally:
                connection.close()
