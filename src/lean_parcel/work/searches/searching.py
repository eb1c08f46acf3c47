"""The second stage of a run: the searches in all formats, each encode stored as it comes."""

import logging
from concurrent.futures import Future
from functools import partial
from sqlite3 import Connection
from typing import Any

from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.search.ladder import part_trial_at, rung_between
from lean_parcel.store import encodes, framed, photos, searches
from lean_parcel.store.file import database
from lean_parcel.store.searches import OWN, SearchRef
from lean_parcel.work.context import Context
from lean_parcel.work.queue.work_queue import Task
from lean_parcel.work.results.encodes import store_encode
from lean_parcel.work.searches.examining import ExaminingFound
from lean_parcel.work.searches.format_searches import (
    EncodeMade,
    Event,
    FormatEnded,
    FormatFailed,
    FormatSearches,
    LadderMeasured,
    PartWeighed,
    WorkItem,
    task_of,
)
from lean_parcel.work.searches.passing_through import PassingThrough
from lean_parcel.work.searches.subject import Stage, Subject

_log = logging.getLogger(__name__)


class Searching(Stage):
    """See the module."""

    def __init__(self, context: Context, ref: SearchRef, subject: Subject) -> None:
        self._context = context
        self._ref = ref
        self._subject = subject
        with context.connection() as connection:
            self._show_framed(connection)
            made = encodes.of_framed(connection, subject.row.id, subject.sizes)
            estimates = encodes.estimates(connection, subject.row.id, subject.sizes)
        context.changes.announce_photo(subject.photo.id)
        self._encode_ids = {encode.trial: encode.id for encode in made}
        rungs = subject.row.search_input.rungs
        known: dict[Trial, Measured] = {encode.trial: encode.measured for encode in made}
        for trial, estimate in estimates.items():
            rung = rung_between(rungs, trial.width_px)
            known[part_trial_at(trial.settings, rung)] = estimate
        self._searches = FormatSearches(
            subject.row.search_input,
            subject.state.aim,
            subject.background,
            known,
            subject.sizes,
        )
        self._events: list[Event] = self._searches.begin()

    def next_task(self) -> Task | None:
        """The next encode, or the measuring of the ladder."""
        item = self._searches.next_item()
        if item is None:
            return None
        with self._context.connection() as connection:
            encoder_input = self._subject.encoder_input(connection)
        return Task(task_of(item), (encoder_input, item), partial(self._carried_out, item))

    def record(self) -> bool:
        """Stores the events since the last time."""
        events, self._events = self._events, []
        if events:
            with self._context.connection() as connection, database.transaction(connection):
                for event in events:
                    self._store(connection, event)
        return bool(events)

    @property
    def is_done(self) -> bool:
        """Whether all formats have ended, and that is stored."""
        return self._searches.is_done and not self._events

    def following(self) -> Stage:
        """The original, where it can be passed through; else a look at what was found."""
        return PassingThrough.of(self._context, self._ref.id, self._subject) or ExaminingFound(
            self._context, self._ref.id, self._subject
        )

    def _show_framed(self, connection: Connection) -> None:
        row = self._subject.row
        with database.transaction(connection):
            searches.set_framed(connection, self._ref.id, row.id)
            is_own = self._ref.density == OWN
            if is_own and row.thumbnail_sha256 and searches.is_running(connection, self._ref.id):
                photos.set_thumbnail(connection, self._subject.photo.id, row.thumbnail_sha256)

    def _carried_out(self, item: WorkItem, future: Future[Any]) -> None:
        self._events += self._searches.settle(item, future)

    def _store(self, connection: Connection, event: Event) -> None:
        if isinstance(event, LadderMeasured):
            framed.set_search_input(connection, self._subject.row.id, event.search_input)
        if isinstance(event, PartWeighed):
            encodes.add_estimate(connection, self._subject.row.id, event.trial, event.estimate)
        if isinstance(event, EncodeMade):
            made = store_encode(
                connection, self._context, self._subject.row.id, event.trial, event.encoded
            )
            self._encode_ids[event.trial] = made.id
        if searches.is_running(connection, self._ref.id):
            self._store_progress(connection, event)

    def _store_progress(self, connection: Connection, event: Event) -> None:
        search_id = self._ref.id
        match event:
            case EncodeMade() | PartWeighed():
                searches.set_encodes(connection, search_id, event.format, event.encodes)
            case FormatEnded():
                encode_id = self._encode_ids[event.candidate.trial]
                meets_aim = event.candidate.meets_aim
                searches.add_candidate(connection, search_id, encode_id, meets_aim=meets_aim)
                searches.set_encodes(connection, search_id, event.format, event.encodes)
                searches.end_format(connection, search_id, event.format)
            case FormatFailed():
                _log.warning("%s failed: %s", event.format, event.error.detail)
                searches.end_format(connection, search_id, event.format, event.error.message)
