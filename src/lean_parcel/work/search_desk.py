"""Searches that run in the background: one a photo, stored as they go, each change announced."""

import logging
import threading
from contextlib import closing
from pathlib import Path
from sqlite3 import Connection

from lean_parcel.core.errors import LeanParcelError, TaskCrashed
from lean_parcel.core.journal import State
from lean_parcel.core.keep import kept_original
from lean_parcel.core.metadata import Blocks
from lean_parcel.core.photo import Limits
from lean_parcel.core.plan import plan_framing
from lean_parcel.core.trial import Measured, Trial
from lean_parcel.store import blobs, database, encodes, framed, journal, photos, searches
from lean_parcel.store.framed import FramedRow
from lean_parcel.store.photos import Photo
from lean_parcel.work.changes import Changes
from lean_parcel.work.encoded import keep, load_of
from lean_parcel.work.fitting import (
    EncodeMade,
    Event,
    Fitting,
    FormatEnded,
    FormatFailed,
    SizedUp,
)
from lean_parcel.work.inspecting import Inspector
from lean_parcel.work.lanes import Lanes
from lean_parcel.work.tasks import FramedFiles, frame_task, keep_task

_log = logging.getLogger(__name__)


class SearchDesk:
    """Runs searches on a workspace, the newest for each photo only."""

    def __init__(
        self,
        path: Path,
        lanes: Lanes,
        inspector: Inspector,
        limits: Limits,
        changes: Changes,
        room_bytes: int,
    ) -> None:
        self.path = path
        self.inspector = inspector
        self.lanes = lanes
        self.limits = limits
        self.changes = changes
        self.room_bytes = room_bytes
        self._lock = threading.Lock()
        self._runs: dict[int, _Run] = {}
        self._is_closed = False

    def start(self, photo_id: int, search_id: int) -> None:
        """Runs a stored search in the place of the photo's older one; of two acts at the same time
        the later one's search runs, in whichever order they come here."""
        with self._lock:
            if self._is_closed:
                return
            older = self._runs.get(photo_id)
            if older and older.search_id > search_id:
                return
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
        self.search_id = search_id
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
                _log.exception("search %d failed", self.search_id)
                self._end(connection, "failed", TaskCrashed("The search failed. Try it again."))
        self._desk.finished(self._photo_id, self)

    def _search(self, connection: Connection) -> None:
        photo = photos.get(connection, self._photo_id)
        state = journal.state_of(connection, self._photo_id)
        row = self._framed(connection, photo, state)
        blocks = self._desk.inspector.blocks(connection, photo, state.framing)
        fitting = self._begin(connection, state, row, blocks)
        if fitting is None:
            return
        for event in fitting.events():
            self._store(connection, row.id, blocks, event)
        with self._lock:
            if self._is_cancelled:
                return
        self._keep_original(connection, photo, state, row, blocks)
        self._end(connection, "done")

    def _keep_original(
        self, connection: Connection, photo: Photo, state: State, row: FramedRow, blocks: Blocks
    ) -> None:
        """Offers the original itself, where it does what is aimed for and nothing that was found
        reaches the likeness with fewer bytes."""
        plan = plan_framing(
            photo.source.width_px, photo.source.height_px, state.framing, state.aim.place
        )
        carried = self._desk.inspector.carried(connection, photo)
        trial = kept_original(photo.source, plan, state.framing, state.aim, carried)
        size_bytes = photo.source.size_bytes
        if trial is None or size_bytes > self._most_bytes(connection, state):
            return
        load = load_of(connection, row, state.framing, blocks)
        original = blobs.get(connection, photo.original_sha256)
        try:
            likeness = self._desk.lanes.submit(
                photo.id, keep_task, load, original, photo.name, self._desk.limits
            ).result()
        except LeanParcelError as error:
            _log.warning("original not offered: %s", error.message)
            return
        if likeness is None:
            return
        with database.transaction(connection):
            kept = keep(
                connection,
                row.id,
                blocks,
                trial,
                data=original,
                measured=Measured(size_bytes=size_bytes, likeness=likeness),
                encode_ms=0,
                room_bytes=self._desk.room_bytes,
            )
            if searches.is_current(connection, self.search_id):
                searches.add_candidate(connection, self.search_id, kept.id, within_limit=True)

    def _most_bytes(self, connection: Connection, state: State) -> int:
        """What an original may weigh to be worth an offer."""
        if state.aim.likeness is None:
            return state.aim.limit_bytes
        found = searches.of_photo(connection, self._photo_id).found
        sizes = [encodes.get(connection, each.encode_id).measured.size_bytes for each in found]
        return min(sizes, default=0)

    def _framed(self, connection: Connection, photo: Photo, state: State) -> FramedRow:
        """The framed pixels that were made for this plan, or new ones."""
        source, place = photo.source, state.aim.place
        plan = plan_framing(source.width_px, source.height_px, state.framing, place)
        row = framed.find(connection, photo.original_sha256, plan)
        made: FramedFiles | None = None
        if row is None:
            original = blobs.get(connection, photo.original_sha256)
            made = self._desk.lanes.submit(
                photo.id, frame_task, original, photo.name, state.framing, place, self._desk.limits
            ).result()
        with database.transaction(connection):
            if made:
                row = add_framed(connection, photo.original_sha256, made)
            assert row is not None
            searches.set_framed(connection, self.search_id, row.id)
            if row.thumbnail_sha256 and searches.is_current(connection, self.search_id):
                photos.set_thumbnail(connection, photo.id, row.thumbnail_sha256)
        self._desk.changes.announce(self._photo_id)
        return row

    def _begin(
        self, connection: Connection, state: State, row: FramedRow, blocks: Blocks
    ) -> Fitting | None:
        """The fitting, unless the run was cancelled in the meantime."""
        made = encodes.of_framed(connection, row.id, blocks)
        self._encode_ids = {encode.trial: encode.id for encode in made}
        known = {encode.trial: encode.measured for encode in made}
        load = load_of(connection, row, state.framing, blocks)
        with self._lock:
            if self._is_cancelled:
                return None
            self._fitting = Fitting(
                self._desk.lanes.lane(self._photo_id),
                load,
                row.subject,
                state.aim,
                state.framing.background,
                known,
                at_once=self._desk.lanes.slots,
            )
            return self._fitting

    def _store(self, connection: Connection, framed_id: int, blocks: Blocks, event: Event) -> None:
        with database.transaction(connection):
            if isinstance(event, SizedUp):
                framed.set_subject(connection, framed_id, event.subject)
            if isinstance(event, EncodeMade):
                made = keep(
                    connection,
                    framed_id,
                    blocks,
                    event.trial,
                    data=event.encoded.data,
                    measured=event.encoded.measured,
                    encode_ms=event.encoded.encode_ms,
                    room_bytes=self._desk.room_bytes,
                )
                self._encode_ids[event.trial] = made.id
            if searches.is_current(connection, self.search_id):
                self._store_progress(connection, event)
        self._desk.changes.announce(self._photo_id)

    def _store_progress(self, connection: Connection, event: Event) -> None:
        match event:
            case EncodeMade():
                searches.set_encodes(connection, self.search_id, event.format, event.encodes)
            case FormatEnded():
                searches.add_candidate(
                    connection,
                    self.search_id,
                    self._encode_ids[event.candidate.trial],
                    within_limit=event.candidate.within_limit,
                )
                searches.set_encodes(connection, self.search_id, event.format, event.encodes)
                searches.end_format(connection, self.search_id, event.format)
            case FormatFailed():
                _log.warning("%s failed: %s", event.format, event.error.detail)
                searches.end_format(connection, self.search_id, event.format, event.error.message)

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
                self.search_id,
                state,
                error_message=error.message if error else None,
            )
        self._desk.changes.announce(self._photo_id)


def add_framed(connection: Connection, original_sha256: str, made: FramedFiles) -> FramedRow:
    """Keeps what a worker framed, within a transaction."""
    return framed.add(
        connection,
        original_sha256=original_sha256,
        plan=made.plan,
        plain_sha256=blobs.put(connection, made.plain_png),
        pixels_sha256=blobs.put(connection, made.pixels_png),
        thumbnail_sha256=blobs.put(connection, made.thumbnail_webp),
        subject=made.subject,
    )
