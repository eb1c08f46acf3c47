"""The runs of all photos: the newest search of each, and of its variants."""

import threading

from lean_parcel.core.errors import StorageError
from lean_parcel.store import journal, photos, searches
from lean_parcel.store.file import database
from lean_parcel.store.searches import SearchRef
from lean_parcel.work.context import Context
from lean_parcel.work.searches.run import SearchRun
from lean_parcel.work.searches.starting import SearchChanges, start_missing_variants


class SearchRuns:
    """Starts, stops and resumes stored searches."""

    def __init__(self, context: Context, retry_s: float) -> None:
        self._context = context
        self._retry_s = retry_s
        #: Searches that go on once the workspace can be written again.
        self._blocked: set[SearchRef] = set()
        self._lock = threading.Lock()
        #: The newest run of each photo and density.
        self._runs: dict[tuple[int, float], SearchRun] = {}

    def follow(self, changes: SearchChanges) -> None:
        """Runs what was stored, and ends what was dropped."""
        for ref in changes.dropped:
            self.stop(ref)
        for new in changes.started:
            self.start(new.ref, is_of_same_pixels=new.is_of_same_pixels)

    def start(self, ref: SearchRef, *, is_of_same_pixels: bool = False) -> None:
        """Runs a stored search in the place of the photo's older one, whose tasks go on where their
        pixels are the same: what they come to is used. Of two acts at the same time the later
        one's search runs, whichever comes here first."""
        run = SearchRun(self._context, ref, on_end=self._forget, on_blocked=self.retry_later)
        with self._lock:
            older = self._runs.get(_key(ref))
            if older and older.ref.id > ref.id:
                return
            self._runs[_key(ref)] = run
        if older:
            self._context.queue.cancel(older, hurries=not is_of_same_pixels)
        self._context.queue.add(run)
        self._context.changes.announce_photo(ref.photo_id)

    def stop(self, ref: SearchRef) -> None:
        """Ends the run of a search that was stopped in the store; a newer one goes on."""
        with self._lock:
            run = self._runs.get(_key(ref))
            if run is None or run.ref.id != ref.id:
                return
            del self._runs[_key(ref)]
        self._context.queue.cancel(run)
        self._context.changes.announce_photo(ref.photo_id)

    def resume(self) -> None:
        """Starts again what was running when the workspace was last in use, and what an earlier
        version did not search: the variants of what is picked."""
        with self._context.connection() as connection, database.transaction(connection):
            for photo_id in journal.layout_of(connection).photo_ids():
                photo = photos.get(connection, photo_id)
                start_missing_variants(connection, photo, journal.state_of(connection, photo_id))
            running = searches.running(connection)
        for ref in running:
            self.start(ref)

    def retry_later(self, run: SearchRun) -> None:
        """Runs a search anew in a while, one that was blocked by a full disk for example; all that
        are blocked wait in one thread."""
        self._forget(run)
        self._wait_with({run.ref})

    def _wait_with(self, blocked: set[SearchRef]) -> None:
        with self._lock:
            is_waiting = bool(self._blocked)
            self._blocked |= blocked
        if not is_waiting:
            timer = threading.Timer(self._retry_s, self._retry)
            timer.daemon = True
            timer.start()

    def _retry(self) -> None:
        """Starts what was blocked, unless it was stopped or replaced since."""
        with self._lock:
            blocked, self._blocked = self._blocked, set()
        try:
            with self._context.connection() as connection:
                running = {ref.id: ref for ref in searches.running(connection)}
        except StorageError:
            self._wait_with(blocked)
            return
        for ref in blocked:
            if ref.id in running:
                self.start(running[ref.id])

    def _forget(self, run: SearchRun) -> None:
        with self._lock:
            if self._runs.get(_key(run.ref)) is run:
                del self._runs[_key(run.ref)]


def _key(ref: SearchRef) -> tuple[int, float]:
    return ref.photo_id, ref.density
