"""The runs of all photos: the newest search of each."""

import threading

from lean_parcel.core.errors import StorageError
from lean_parcel.store import searches
from lean_parcel.work.context import Context
from lean_parcel.work.searches.run import SearchRun


class SearchRuns:
    """Starts, stops and resumes stored searches."""

    def __init__(self, context: Context, retry_s: float) -> None:
        self._context = context
        self._retry_s = retry_s
        #: Searches that go on once the workspace can be written again, with their photos.
        self._blocked: set[tuple[int, int]] = set()
        self._lock = threading.Lock()
        self._runs: dict[int, SearchRun] = {}

    def start(self, photo_id: int, search_id: int, *, is_of_same_pixels: bool = False) -> None:
        """Runs a stored search in the place of the photo's older one, whose tasks go on where their
        pixels are the same: what they come to is used. Of two acts at the same time the later
        one's search runs, whichever comes here first."""
        run = SearchRun(
            self._context, photo_id, search_id, on_end=self._forget, on_blocked=self.retry_later
        )
        with self._lock:
            older = self._runs.get(photo_id)
            if older and older.search_id > search_id:
                return
            self._runs[photo_id] = run
        if older:
            self._context.queue.cancel(older, hurries=not is_of_same_pixels)
        self._context.queue.add(run)
        self._context.changes.announce_photo(photo_id)

    def stop(self, photo_id: int, search_id: int) -> None:
        """Ends the run of a search that was stopped in the store; a newer one goes on."""
        with self._lock:
            run = self._runs.get(photo_id)
            if run is None or run.search_id != search_id:
                return
            del self._runs[photo_id]
        self._context.queue.cancel(run)
        self._context.changes.announce_photo(photo_id)

    def resume(self) -> None:
        """Starts again what was running when the workspace was last in use."""
        with self._context.connection() as connection:
            running = searches.running(connection)
        for photo_id, search_id in running:
            self.start(photo_id, search_id)

    def retry_later(self, run: SearchRun) -> None:
        """Runs a search anew in a while, one that was blocked by a full disk for example; all that
        are blocked wait in one thread."""
        self._forget(run)
        self._wait_with({(run.photo_id, run.search_id)})

    def _wait_with(self, blocked: set[tuple[int, int]]) -> None:
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
                running = set(searches.running(connection))
        except StorageError:
            self._wait_with(blocked)
            return
        for photo_id, search_id in sorted(blocked & running):
            self.start(photo_id, search_id)

    def _forget(self, run: SearchRun) -> None:
        with self._lock:
            if self._runs.get(run.photo_id) is run:
                del self._runs[run.photo_id]
