"""One search of a photo, carried out and stored stage by stage.

    preparing ──> searching ──> passing through ──> examining ──> done
        └─────────────┴───────────────┴────────────────┴──> failed; or cancelled, by whoever stopped
                                                            or replaced it

A run waits in the queue. It reads from the store only when its turn comes, and pixels only for a
task that begins. What a search has come to is in the store, where it is `running` until one of
these ends; a run that was cut off begins anew, and finds what was made before.
"""

import logging
from collections.abc import Callable
from contextlib import suppress
from typing import Literal

from lean_parcel.core.errors import LeanParcelError, StorageError, TaskCrashed
from lean_parcel.store import searches
from lean_parcel.store.file import database
from lean_parcel.store.searches import SearchRef
from lean_parcel.work.context import Context
from lean_parcel.work.queue.work_queue import Job, Priority, Task
from lean_parcel.work.searches.preparing import Preparing
from lean_parcel.work.searches.subject import Stage

_log = logging.getLogger(__name__)


class SearchRun(Job):
    """See the module. Every method is called from the queue's thread."""

    priority = Priority.SEARCH

    def __init__(
        self,
        context: Context,
        ref: SearchRef,
        on_end: Callable[["SearchRun"], None],
        on_blocked: Callable[["SearchRun"], None],
    ) -> None:
        self.photo_id: int = ref.photo_id
        self.ref = ref
        self._context = context
        self._on_end = on_end
        self._on_blocked = on_blocked
        self._stage: Stage = Preparing(context, ref)

    def next_task(self) -> Task | None:
        """The next task of the stage, or of the next one where it has none left."""
        while not self.is_ended:
            task = self._stage.next_task()
            if task or not self._stage.is_done:
                return task
            self._go_on()
        return None

    def record(self) -> None:
        """Stores what the stage has come to, also of a run that was cancelled in the meantime."""
        if self._stage.record():
            self._context.changes.announce_photo(self.photo_id)
        if self._stage.is_done and not self.is_ended:
            self._go_on()

    def fail(self, error: Exception) -> None:
        """Ends the search as failed; where the workspace cannot be written, only this run."""
        if not isinstance(error, LeanParcelError):
            _log.error("search %d failed", self.ref.id, exc_info=error)
            error = TaskCrashed("The search failed. Try it again.")
        with suppress(StorageError):
            if not isinstance(error, StorageError):
                self._end(error.message)
                return
        self._on_blocked(self)

    def _go_on(self) -> None:
        following = self._stage.following()
        if following is None:
            self._end()
            return
        self._stage = following
        self._stage.record()  # what was known before may end searches at once

    def _end(self, failure: str | None = None) -> None:
        """Ends the search in the store, unless it has ended there or was replaced: as done, or as
        failed, also where every format failed."""
        self.is_ended = True
        with self._context.connection() as connection, database.transaction(connection):
            message = failure or searches.failure_of(connection, self.ref.id)
            state: Literal["done", "failed"] = "failed" if message else "done"
            searches.end(connection, self.ref.id, state, error_message=message)
        self._context.changes.announce_photo(self.photo_id)
        self._on_end(self)
