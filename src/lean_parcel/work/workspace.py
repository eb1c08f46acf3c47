"""A workspace: one file, and everything that can be done with it."""

from concurrent.futures import Executor
from pathlib import Path
from typing import IO

import numpy as np

from lean_parcel.core.errors import LeanParcelError
from lean_parcel.core.original.source import Limits
from lean_parcel.store.file import database
from lean_parcel.store.file.connections import Connections
from lean_parcel.store.file.lock import hold
from lean_parcel.work.ahead.looking import Looking
from lean_parcel.work.changes import Changes
from lean_parcel.work.context import Context, RoomWatch
from lean_parcel.work.delivery.planning import Planning
from lean_parcel.work.delivery.repointing import References
from lean_parcel.work.delivery.sending import Sending
from lean_parcel.work.delivery.visits import Visits
from lean_parcel.work.pages.balancing import Balancing
from lean_parcel.work.pages.batches import Batches
from lean_parcel.work.pages.editing import PageEditing
from lean_parcel.work.pages.selections import Selections
from lean_parcel.work.pages.viewing import PageViewing
from lean_parcel.work.photos.adding import Adding
from lean_parcel.work.photos.comparing import Comparing
from lean_parcel.work.photos.deciding import Deciding
from lean_parcel.work.photos.examining import Examining
from lean_parcel.work.photos.eye import Eye
from lean_parcel.work.photos.files import Files
from lean_parcel.work.photos.missing import Inspections
from lean_parcel.work.photos.tuning import Tuning
from lean_parcel.work.photos.viewing import Viewing
from lean_parcel.work.queue.work_queue import WorkQueue
from lean_parcel.work.room import RoomKeeping
from lean_parcel.work.searches.runs import SearchRuns


class Workspace:
    """Opens a workspace file and joins its parts, which do the work.

    At most `slots` tasks run on the executor at a time; all that can be made again may take
    `room_bytes`. What a full disk stopped is tried again after `retry_s`. Deliveries may be written
    below `out`, and nowhere else. A `seed` repeats the tosses of blind rounds, for tests. Where it
    `works_ahead`, idle workers do for a photo that is looked at what nobody has asked for; where
    nothing `is_looked_at`, damage is looked for only in what is handed over. Where it is to be read
    only, or the file may not be written, it opens for looking: every act raises
    StorageError `workspace_read_only`. Raises UsageError for a file that is no workspace, of a
    newer version, or open elsewhere, and StorageError for one that cannot be read or written.
    """

    def __init__(
        self,
        path: Path,
        executor: Executor,
        limits: Limits,
        *,
        slots: int = 2,
        room_bytes: int = 2_000_000_000,
        retry_s: float = 10.0,
        is_read_only: bool = False,
        out: Path | None = None,
        seed: int | None = None,
        works_ahead: bool = False,
        is_looked_at: bool = True,
    ) -> None:
        path = path.resolve()  # a link may come to name another file
        is_read_only = is_read_only or (path.exists() and not database.is_writable(path))
        self._lock: IO[bytes] | None = None
        try:
            if is_read_only:
                database.check_newest(path)
            else:
                database.begin(path)
                self._lock = hold(path)
                database.migrate(path)
            connections = Connections(path, is_read_only=is_read_only)
        except LeanParcelError:
            self._unlock()
            raise
        self.changes = Changes()
        self.context = Context(
            is_read_only=is_read_only,
            connections=connections,
            limits=limits,
            room=RoomWatch(room_bytes),
            queue=WorkQueue(executor, slots),
            changes=self.changes,
            is_looked_at=is_looked_at,
        )
        inspections = Inspections(self.context)
        self.runs = SearchRuns(self.context, retry_s)
        self.adding = Adding(self.context, inspections, self.runs)
        self.deciding = Deciding(self.context, self.runs)
        self.viewing = Viewing(self.context, inspections)
        self.comparing = Comparing(self.context)
        self.looking = Looking(self.context, is_allowed=works_ahead)
        self.files = Files(self.context, inspections)
        self.tuning = Tuning(self.context, inspections)
        self.examining = Examining(self.context)
        chance = np.random.default_rng(seed)
        self.eye = Eye(self.context, self.deciding, chance)
        self.page_editing = PageEditing(self.context, self.runs)
        self.page_viewing = PageViewing(self.context)
        self.batches = Batches(self.context, self.runs)
        self.selections = Selections(
            self.context, self.page_editing, self.page_viewing, self.batches
        )
        self.balancing = Balancing(self.context, self.page_editing)
        self.room_keeping = RoomKeeping(self.context, path)
        self.planning = Planning(self.context)
        self.sending = Sending(self.planning, self.files, out)
        self.references = References(self.context.queue)
        self.visits = Visits(self.planning, self.files)

    def close(self) -> None:
        """Ends all work; searches that run go on when the workspace is opened again."""
        self.changes.close()
        self.context.queue.close()
        self.context.connections.close()
        self._unlock()

    def resume(self) -> None:
        """Goes on with the searches that ran when the workspace was last in use, for as long as it
        is served."""
        if not self.context.is_read_only:
            self.room_keeping.keep_reserve()
            self.runs.resume()

    def _unlock(self) -> None:
        if self._lock:
            self._lock.close()
