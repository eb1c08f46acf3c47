"""One photo's search, carried out and stored step by step.

A run first sees to what its search needs, the inspection and the framed pixels, then carries out
the searches in all formats, and at the end measures the original where that may be passed through.
It reads from the store only when its turn comes, and pixels only for a task that begins.
"""

import logging
from collections import deque
from collections.abc import Callable
from concurrent.futures import Future
from dataclasses import dataclass
from functools import partial
from sqlite3 import Connection
from typing import Any, Literal

from lean_parcel.core.candidates.pass_through import pass_through_trial
from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.decisions.state import State
from lean_parcel.core.errors import LeanParcelError, StorageError, TaskCrashed
from lean_parcel.core.framing.plan import plan_framing
from lean_parcel.core.metadata.values import Credit, Segments
from lean_parcel.store import (
    blobs,
    database,
    encodes,
    framed,
    inspections,
    journal,
    photos,
    searches,
)
from lean_parcel.store.framed import FramedRow
from lean_parcel.store.photos import Photo
from lean_parcel.work.context import Context
from lean_parcel.work.photos.encodes import encoder_input_of, store_encode
from lean_parcel.work.photos.inspections import allowed_by, segments_of, store_inspection
from lean_parcel.work.queue.work_queue import Job, Priority, Task
from lean_parcel.work.searches.format_searches import (
    EncodeMade,
    Event,
    FormatEnded,
    FormatFailed,
    FormatSearches,
    LadderMeasured,
    WorkItem,
    task_of,
)
from lean_parcel.work.tasks.encoding import Encoded
from lean_parcel.work.tasks.framing import FramedFiles, frame_task
from lean_parcel.work.tasks.inspection import inspect_task
from lean_parcel.work.tasks.original import original_likeness_task

_log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True, kw_only=True)
class _Subject:
    """What is searched: a photo in a state, framed, and the metadata that its files carry."""

    photo: Photo
    state: State
    row: FramedRow
    segments: Segments


class SearchRun(Job):
    """See the module. Every method but `cancel` is called from the queue's thread."""

    priority = Priority.SEARCH

    def __init__(
        self,
        context: Context,
        photo_id: int,
        search_id: int,
        on_end: Callable[["SearchRun"], None],
        on_blocked: Callable[["SearchRun"], None],
    ) -> None:
        self.photo_id: int = photo_id
        self.search_id = search_id
        self._context = context
        self._on_end = on_end
        self._on_blocked = on_blocked
        self._has_begun = False
        #: What the search needs before it can begin, and how much of it is under way.
        self._preparations: deque[Task] = deque()
        self._preparing = 0
        self._subject: _Subject | None = None
        self._searches: FormatSearches | None = None
        self._events: list[Event] = []
        self._original_task: Task | None = None
        self._encode_ids: dict[Trial, int] = {}

    def cancel(self) -> None:
        """Ends the run, from any thread, without a word in the store: whoever cancels has said
        there why. What its tasks that run still come to is stored."""
        self.is_ended = True

    def next_task(self) -> Task | None:
        """The next preparation, encode, or at the end the measuring of the original."""
        if not self._has_begun:
            self._has_begun = True
            self._prepare()
        if self._preparations:
            self._preparing += 1
            return self._preparations.popleft()
        if self._original_task:
            task, self._original_task = self._original_task, None
            return task
        item = self._searches.next_item() if self._searches else None
        return None if item is None else self._task_of(item)

    def record(self) -> None:
        """Stores the events since the last time, and ends the search after the last of them."""
        if not self._events or self._subject is None:
            return
        events, self._events = self._events, []
        with self._context.connection() as connection:
            with database.transaction(connection):
                for event in events:
                    self._store(connection, self._subject, event)
            self._announce()
            if self._searches and self._searches.is_done:
                self._original_task = self._original_task_of(connection, self._subject)
                if self._original_task is None:
                    self._end(connection, "done")

    def fail(self, error: Exception) -> None:
        """Ends the search as failed; where the workspace cannot be written, only this run."""
        if isinstance(error, StorageError):
            self.is_ended = True
            self._on_blocked(self)
        else:
            self._give_up(error)

    def _prepare(self) -> None:
        """Finds out what is missing, the inspection or the framed pixels, or begins at once."""
        with self._context.connection() as connection:
            photo = photos.get(connection, self.photo_id)
            state = journal.state_of(connection, self.photo_id)
            plan = plan_framing(photo.source, state.framing, state.aim.place)
            is_inspected = inspections.find(connection, photo.id) is not None
            is_framed = framed.find(connection, photo.original_sha256, plan) is not None
            if is_inspected and is_framed:
                self._begin(connection, photo, state)
                return
            original = blobs.get(connection, photo.original_sha256)
        limits = self._context.limits
        if not is_inspected:
            self._preparations.append(
                Task(inspect_task, (original, photo.name, Credit(), limits), self._inspected)
            )
        if not is_framed:
            args = (original, photo.name, state.framing, state.aim.place, limits)
            self._preparations.append(
                Task(frame_task, args, partial(self._framed, photo.original_sha256))
            )

    def _inspected(self, future: Future[Any]) -> None:
        self._prepared(future, lambda c: store_inspection(c, self.photo_id, future.result()))

    def _framed(self, original_sha256: str, future: Future[Any]) -> None:
        self._prepared(future, lambda c: store_framed(c, original_sha256, future.result()))

    def _prepared(self, future: Future[Any], store: Callable[[Connection], object]) -> None:
        """Stores a preparation, and begins the search after the last of them."""
        self._preparing -= 1
        if error := future.exception():
            self._give_up(error)
            return
        with self._context.connection() as connection:
            with database.transaction(connection):
                store(connection)
            if not self._preparing and not self._preparations and not self.is_ended:
                photo = photos.get(connection, self.photo_id)
                self._begin(connection, photo, journal.state_of(connection, self.photo_id))

    def _begin(self, connection: Connection, photo: Photo, state: State) -> None:
        """Begins the searches of all formats, on framed pixels that are there."""
        plan = plan_framing(photo.source, state.framing, state.aim.place)
        row = framed.find(connection, photo.original_sha256, plan)
        inspection = inspections.find(connection, photo.id)
        assert row is not None
        assert inspection is not None
        segments = segments_of(inspection, state.framing)
        self._subject = _Subject(photo=photo, state=state, row=row, segments=segments)
        with database.transaction(connection):
            searches.set_framed(connection, self.search_id, row.id)
            if row.thumbnail_sha256 and searches.is_running(connection, self.search_id):
                photos.set_thumbnail(connection, photo.id, row.thumbnail_sha256)
        self._announce()
        made = encodes.of_framed(connection, row.id, segments)
        self._encode_ids = {encode.trial: encode.id for encode in made}
        known = {encode.trial: encode.measured for encode in made}
        self._searches = FormatSearches(
            row.search_input, state.aim, state.framing.background, known
        )
        self._events += self._searches.begin()
        if self._searches.is_done:
            self.record()

    def _task_of(self, item: WorkItem) -> Task:
        assert self._subject is not None
        subject = self._subject
        with self._context.connection() as connection:
            encoder_input = encoder_input_of(
                connection, subject.row, subject.state.framing, subject.segments
            )
        return Task(task_of(item), (encoder_input, item), partial(self._carried_out, item))

    def _carried_out(self, item: WorkItem, future: Future[Any]) -> None:
        assert self._searches is not None
        try:
            self._events += self._searches.settle(item, future)
        except Exception as error:
            self._give_up(error)

    def _store(self, connection: Connection, subject: _Subject, event: Event) -> None:
        if isinstance(event, LadderMeasured):
            framed.set_search_input(connection, subject.row.id, event.search_input)
        if isinstance(event, EncodeMade):
            made = store_encode(
                connection,
                subject.row.id,
                subject.segments,
                event.trial,
                event.encoded,
                cache_bytes=self._context.cache_bytes,
            )
            self._encode_ids[event.trial] = made.id
        if searches.is_running(connection, self.search_id):
            self._store_progress(connection, event)

    def _store_progress(self, connection: Connection, event: Event) -> None:
        match event:
            case EncodeMade():
                searches.set_encodes(connection, self.search_id, event.format, event.encodes)
            case FormatEnded():
                searches.add_candidate(
                    connection,
                    self.search_id,
                    self._encode_ids[event.candidate.trial],
                    meets_aim=event.candidate.meets_aim,
                )
                searches.set_encodes(connection, self.search_id, event.format, event.encodes)
                searches.end_format(connection, self.search_id, event.format)
            case FormatFailed():
                _log.warning("%s failed: %s", event.format, event.error.detail)
                searches.end_format(connection, self.search_id, event.format, event.error.message)

    def _original_task_of(self, connection: Connection, subject: _Subject) -> Task | None:
        """The measuring of the original, where it can be passed through and meets the aim with no
        more bytes than what was found under a likeness."""
        photo, state = subject.photo, subject.state
        inspection = inspections.find(connection, photo.id)
        assert inspection is not None
        plan = plan_framing(photo.source, state.framing, state.aim.place)
        trial = pass_through_trial(photo.source, plan, state, allowed_by(inspection, "everything"))
        if trial is None or photo.source.size_bytes > self._most_bytes(connection, state):
            return None
        original = blobs.get(connection, photo.original_sha256)
        encoder_input = encoder_input_of(connection, subject.row, state.framing, subject.segments)
        args = (encoder_input, original, photo.name, self._context.limits)
        return Task(original_likeness_task, args, partial(self._original_measured, trial, original))

    def _most_bytes(self, connection: Connection, state: State) -> int:
        """The bytes up to which an original is worth offering."""
        if state.aim.likeness is None:
            return state.aim.limit_bytes
        found = searches.of_photo(connection, self.photo_id).found
        sizes = [encodes.get(connection, each.encode_id).measured.size_bytes for each in found]
        return min(sizes, default=0)

    def _original_measured(self, trial: Trial, original: bytes, future: Future[Any]) -> None:
        """Offers the original, unless it could not be measured or is more than one picture."""
        assert self._subject is not None
        subject = self._subject
        with self._context.connection() as connection:
            if error := future.exception():
                _log.warning("original not offered: %s", error)
            elif (likeness := future.result()) is not None:
                measured = Measured(size_bytes=len(original), likeness=likeness)
                encoded = Encoded(data=original, measured=measured, encode_ms=0)
                with database.transaction(connection):
                    stored = store_encode(
                        connection,
                        subject.row.id,
                        subject.segments,
                        trial,
                        encoded,
                        cache_bytes=self._context.cache_bytes,
                    )
                    if searches.is_running(connection, self.search_id):
                        searches.add_candidate(
                            connection, self.search_id, stored.id, meets_aim=True
                        )
            self._end(connection, "done")

    def _give_up(self, error: BaseException) -> None:
        """Ends the search where what it needs could not be made."""
        if not isinstance(error, LeanParcelError):
            _log.error("search %d failed", self.search_id, exc_info=error)
            error = TaskCrashed("The search failed. Try it again.")
        with self._context.connection() as connection:
            self._end(connection, "failed", error)

    def _end(
        self,
        connection: Connection,
        state: Literal["done", "failed"],
        error: LeanParcelError | None = None,
    ) -> None:
        """Ends the search in the store, unless it has ended there or was replaced."""
        self.is_ended = True
        with database.transaction(connection):
            searches.end(
                connection, self.search_id, state, error_message=error.message if error else None
            )
        self._announce()
        self._on_end(self)

    def _announce(self) -> None:
        self._context.changes.announce_photo(self.photo_id)


def store_framed(connection: Connection, original_sha256: str, made: FramedFiles) -> FramedRow:
    """Stores what a worker framed, within a transaction."""
    return framed.add(
        connection,
        original_sha256=original_sha256,
        plan=made.plan,
        plain_sha256=blobs.put(connection, made.plain_png),
        pixels_sha256=blobs.put(connection, made.pixels_png),
        thumbnail_sha256=blobs.put(connection, made.thumbnail_webp),
        search_input=made.search_input,
    )
