"""Making the encodes that a balance misses, those first that could change most."""

import logging
from collections import Counter
from collections.abc import Callable
from concurrent.futures import Future
from dataclasses import replace
from functools import partial
from sqlite3 import Connection
from typing import Any

from lean_parcel.core.balance.allocation import Objective
from lean_parcel.core.candidates.trial import Trial
from lean_parcel.store import blobs
from lean_parcel.store.file import database
from lean_parcel.work.context import Context
from lean_parcel.work.pages.sharing import Sharer, outlook_of, shares_of
from lean_parcel.work.queue.work_queue import Job, Priority, Task
from lean_parcel.work.results.encodes import store_encode
from lean_parcel.work.results.framed import store_framed
from lean_parcel.work.tasks.encoding import encode_task
from lean_parcel.work.tasks.framing import frame_task

_log = logging.getLogger(__name__)
#: Encodes of one photo at most.
MOST_OF_A_PHOTO = 5


class BalanceRun(Job):
    """See the module. Every method is called from the queue's thread."""

    priority = Priority.BALANCE

    def __init__(
        self,
        context: Context,
        sharers: list[Sharer],
        budget_bytes: int,
        objective: Objective,
        least_likeness: float,
        on_end: Callable[["BalanceRun"], None],
    ) -> None:
        self._context = context
        self._sharers = sharers
        self._budget_bytes = budget_bytes
        self._objective: Objective = objective
        self._least_likeness = least_likeness
        self._on_end = on_end
        self._asked: Counter[int] = Counter()
        self._under_way: set[int] = set()
        self._done: list[tuple[int, Trial, Future[Any]]] = []
        self._pixels: list[tuple[int, Future[Any]]] = []
        self.made = 0

    def next_task(self) -> Task | None:
        """The encode of the widest gap of a photo of which none is being made."""
        wanted = self._wanted()
        if wanted is None:
            if not self._under_way:
                self._end()
            return None
        photo, trial = wanted
        self._under_way.add(photo)
        subject = self._sharers[photo].subject
        with self._context.connection() as connection:
            if not blobs.has(connection, subject.row.pixels_sha256):
                return self._framing(connection, photo)
            encoder_input = subject.encoder_input(connection)
        self._asked[photo] += 1
        return Task(encode_task, (encoder_input, trial), partial(self._carried_out, photo, trial))

    def _framing(self, connection: Connection, photo: int) -> Task:
        """Frames a photo again whose pixels were let go."""
        subject, state = self._sharers[photo].subject, self._sharers[photo].subject.state
        original = blobs.get(connection, subject.photo.original_sha256)
        args = (original, subject.photo.name, state.framing, state.aim.place, self._context.limits)
        return Task(frame_task, args, partial(self._framed, photo))

    def record(self) -> None:
        """Stores what was made, and takes it in."""
        self._store_pixels()
        done, self._done = self._done, []
        for photo, trial, future in done:
            sharer = self._sharers[photo]
            sharer.made.add(trial)
            self._under_way.discard(photo)
            if error := future.exception():
                _log.warning("an encode for a balance failed: %s", error)
                continue
            subject = sharer.subject
            with self._context.connection() as connection, database.transaction(connection):
                encode = store_encode(
                    connection, self._context, subject.row.id, trial, future.result(), subject.sizes
                )
            sharer.add(encode)
            self.made += 1
            self._context.changes.announce_pages()
        if not self._under_way and self._wanted() is None:
            self._end()

    def fail(self, error: Exception) -> None:
        """Ends; what was made stays."""
        self._end()

    def _wanted(self) -> tuple[int, Trial] | None:
        shares = shares_of(self._sharers, self._least_likeness)
        outlook = outlook_of(self._sharers, shares, self._budget_bytes, self._objective)
        for photo, trial in outlook.missing():
            if photo not in self._under_way and self._asked[photo] < MOST_OF_A_PHOTO:
                return photo, trial
        return None

    def _framed(self, photo: int, future: Future[Any]) -> None:
        self._pixels.append((photo, future))

    def _store_pixels(self) -> None:
        pixels, self._pixels = self._pixels, []
        for photo, future in pixels:
            self._under_way.discard(photo)
            subject = self._sharers[photo].subject
            with self._context.connection() as connection, database.transaction(connection):
                row = store_framed(connection, subject.photo.original_sha256, future.result())
            self._sharers[photo].subject = replace(subject, row=row)

    def _carried_out(self, photo: int, trial: Trial, future: Future[Any]) -> None:
        self._done.append((photo, trial, future))

    def _end(self) -> None:
        self.is_ended = True
        self._on_end(self)
        self._context.changes.announce_pages()
