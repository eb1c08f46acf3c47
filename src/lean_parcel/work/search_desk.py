"""Searches that run in the background: one a photo, stored as they go, each change announced."""

import logging
import threading
from contextlib import closing
from pathlib import Path
from sqlite3 import Connection

from lean_parcel.core.errors import LeanParcelError, TaskCrashed
from lean_parcel.core.fit import Trial
from lean_parcel.core.photo import Limits
from lean_parcel.store import blobs, database, encodes, framings, photos, searches
from lean_parcel.store.framings import Framing
from lean_parcel.store.photos import Photo
from lean_parcel.work.changes import Changes
from lean_parcel.work.fitting import EncodeMade, Event, Fitting, FormatEnded, FormatFailed
from lean_parcel.work.lanes import Lanes
from lean_parcel.work.tasks import Framed, frame_task

_log = logging.getLogger(__name__)


class SearchDesk:
    """Runs searches on a workspace, the newest for each photo only."""

    def __init__(self, path: Path, lanes: Lanes, limits: Limits, changes: Changes) -> None:
        self.path = path
        self.lanes = lanes
        self.limits = limits
        self.changes = changes
        self._lock = threading.Lock()
        self._runs: dict[int, _Run] = {}
        self._is_closed = False

    def start(self, photo_id: int, search_id: int) -> None:
        """Runs a stored search in the place of the photo's older one."""
        self.lanes.prefer(photo_id)
        with self._lock:
            if self._is_closed:
                return
            older = self._runs.get(photo_id)
            run = _Run(self, photo_id, search_id)
            self._runs[photo_id] = run
            run.thread.start()
        if older:
            older.cancel()
        self.changes.announce(photo_id)

    def resume(self) -> None:
        """Starts again what was running when the workspace was last in use."""
        with closing(database.connect(self.path)) as connection:
            running = searches.running(connection)
        for photo_id, search_id in running:
            self.start(photo_id, search_id)

    def stop(self, photo_id: int) -> None:
        """Ends a photo's search, if one runs."""
        with self._lock:
            run = self._runs.pop(photo_id, None)
        if run:
            run.cancel()
        self.changes.announce(photo_id)

    def finished(self, photo_id: int, run: "_Run") -> None:
        """Forgets a run that came to its end."""
        with self._lock:
            if self._runs.get(photo_id) is run:
                del self._runs[photo_id]

    def close(self) -> None:
        """Ends all searches and waits for their threads; their rows stay `running`."""
        with self._lock:
            self._is_closed = True
            runs = list(self._runs.values())
        for run in runs:
            run.cancel()
        for run in runs:
            run.thread.join()


class _Run:
    """One search in a thread of its own."""

    def __init__(self, desk: "SearchDesk", photo_id: int, search_id: int) -> None:
        self._desk = desk
        self._photo_id = photo_id
        self._search_id = search_id
        self._lock = threading.Lock()
        self._fitting: Fitting | None = None
        self._is_cancelled = False
        self._encode_ids: dict[Trial, int] = {}
        self.thread = threading.Thread(target=self._run, name=f"search-{search_id}", daemon=True)

    def cancel(self) -> None:
        """Ends the run soon, from any thread."""
        with self._lock:
            self._is_cancelled = True
            if self._fitting:
                self._fitting.cancel()

    def _run(self) -> None:
        with closing(database.connect(self._desk.path)) as connection:
            try:
                self._search(connection)
            except LeanParcelError as error:
                self._end(connection, "failed", error)
            except Exception:
                _log.exception("search %d failed", self._search_id)
                self._end(connection, "failed", TaskCrashed("The search failed. Try it again."))
        self._desk.finished(self._photo_id, self)

    def _search(self, connection: Connection) -> None:
        photo = photos.get(connection, self._photo_id)
        framing = self._framing(connection, photo)
        fitting = self._begin(connection, photo, framing)
        if fitting is None:
            return
        for event in fitting.events():
            self._store(connection, framing.id, event)
        self._end(connection, "done")

    def _framing(self, connection: Connection, photo: Photo) -> Framing:
        """The framing that was made for the aim's place, or a new one."""
        place = photo.aim.place
        framing = framings.find(connection, photo.original_sha256, place.device_width_px)
        made: Framed | None = None
        if framing is None:
            original = blobs.get(connection, photo.original_sha256)
            made = self._desk.lanes.submit(
                self._photo_id, frame_task, original, photo.name, place, self._desk.limits
            ).result()
        with database.transaction(connection):
            if made:
                framing = framings.add(
                    connection,
                    original_sha256=photo.original_sha256,
                    device_width_px=place.device_width_px,
                    pixels_sha256=blobs.put(connection, made.pixels_png),
                    subject=made.subject,
                )
            assert framing is not None
            searches.set_framing(connection, self._search_id, framing.id)
        self._desk.changes.announce(self._photo_id)
        return framing

    def _begin(self, connection: Connection, photo: Photo, framing: Framing) -> Fitting | None:
        """The fitting, unless the run was cancelled in the meantime."""
        made = encodes.of_framing(connection, framing.id)
        self._encode_ids = {encode.trial: encode.id for encode in made}
        known = {encode.trial: encode.measured for encode in made}
        pixels_png = blobs.get(connection, framing.pixels_sha256)
        with self._lock:
            if self._is_cancelled:
                return None
            self._fitting = Fitting(
                self._desk.lanes.lane(self._photo_id), pixels_png, framing.subject, photo.aim, known
            )
            return self._fitting

    def _store(self, connection: Connection, framing_id: int, event: Event) -> None:
        with database.transaction(connection):
            if isinstance(event, EncodeMade):
                self._encode_ids[event.trial] = encodes.add(
                    connection,
                    framing_id=framing_id,
                    trial=event.trial,
                    measured=event.encoded.measured,
                    encode_ms=event.encoded.encode_ms,
                    file_sha256=blobs.put(connection, event.encoded.data),
                ).id
            if searches.is_current(connection, self._search_id):
                self._store_progress(connection, event)
        self._desk.changes.announce(self._photo_id)

    def _store_progress(self, connection: Connection, event: Event) -> None:
        match event:
            case EncodeMade():
                searches.set_encodes(connection, self._search_id, event.format, event.encodes)
            case FormatEnded():
                for candidate in event.candidates:
                    searches.add_candidate(
                        connection,
                        self._search_id,
                        self._encode_ids[candidate.trial],
                        within_limit=candidate.within_limit,
                    )
                searches.set_encodes(connection, self._search_id, event.format, event.encodes)
                searches.end_format(connection, self._search_id, event.format)
            case FormatFailed():
                _log.warning("%s failed: %s", event.format, event.error.detail)
                searches.end_format(connection, self._search_id, event.format, event.error.message)

    def _end(
        self, connection: Connection, state: str, error: LeanParcelError | None = None
    ) -> None:
        """Says how the search ended, unless it was cancelled: then somebody else has."""
        with self._lock:
            if self._is_cancelled:
                return
        with database.transaction(connection):
            searches.end(
                connection,
                self._search_id,
                state,
                error_message=error.message if error else None,
            )
        self._desk.changes.announce(self._photo_id)
