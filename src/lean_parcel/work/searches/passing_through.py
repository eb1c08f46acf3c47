"""The third stage of a run: the original itself, repacked and as it came, where it can be passed
through and does no worse than what was found."""

import logging
from collections.abc import Sequence
from concurrent.futures import Future
from sqlite3 import Connection
from typing import Any

from lean_parcel.core.candidates.pass_through import pass_through_trials
from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.decisions.state import plan_of
from lean_parcel.core.encoding.repacking import SMALLEST_SHARE
from lean_parcel.core.size import MAX_BYTES
from lean_parcel.store import blobs, encodes, searches
from lean_parcel.store.encodes import Encode
from lean_parcel.store.file import database
from lean_parcel.work.context import Context
from lean_parcel.work.queue.work_queue import Task
from lean_parcel.work.results.encodes import store_encode
from lean_parcel.work.searches.examining import ExaminingFound
from lean_parcel.work.searches.subject import Stage, Subject
from lean_parcel.work.tasks.encoding import Encoded
from lean_parcel.work.tasks.original import pass_through_task

_log = logging.getLogger(__name__)
#: An original that has more bytes than this beyond the limit is not measured: that much metadata
#: is rare.
_MOST_METADATA_BYTES = 500_000


class PassingThrough(Stage):
    """See the module: one trial after the other. Where the original cannot be measured it is not
    offered."""

    def __init__(
        self, context: Context, search_id: int, subject: Subject, trials: Sequence[Trial]
    ) -> None:
        self._context = context
        self._search_id = search_id
        self._subject = subject
        self._trial, *self._others = trials
        with context.connection() as connection:
            #: What was measured of the original before.
            self._known = encodes.find(connection, subject.row.id, self._trial)
        is_refused = (subject.row.id, self._trial) in context.refused
        self._has_begun = is_refused or self._known is not None
        self._future: Future[Any] | None = None
        self._is_recorded = is_refused

    @classmethod
    def of(cls, context: Context, search_id: int, subject: Subject) -> "PassingThrough | None":
        """The stage; None where the original cannot go out, or has too many bytes."""
        source, state = subject.photo.source, subject.state
        plan = plan_of(state, source)
        trials = pass_through_trials(source, plan, state.framing, state.aim)
        with context.connection() as connection:
            most_bytes = _most_bytes(connection, subject, search_id)
        if source.size_bytes * SMALLEST_SHARE > most_bytes + _MOST_METADATA_BYTES:
            return None
        return cls(context, search_id, subject, trials) if trials else None

    def next_task(self) -> Task | None:
        """The measuring of the original."""
        if self._has_begun:
            return None
        self._has_begun = True
        photo = self._subject.photo
        with self._context.connection() as connection:
            original = blobs.get(connection, photo.original_sha256)
            encoder_input = self._subject.encoder_input(connection)
        args = (encoder_input, original, photo.name, self._trial, self._context.limits)
        return Task(pass_through_task, args, self._measured)

    def record(self) -> bool:
        """Stores the original as a candidate."""
        if self._is_recorded or (self._known is None and self._future is None):
            return False
        with self._context.connection() as connection, database.transaction(connection):
            known = self._known or self._stored(connection)
            if known:
                self._offer(connection, known)
            else:
                self._context.refused.add((self._subject.row.id, self._trial))
        self._is_recorded = True
        return True

    @property
    def is_done(self) -> bool:
        """Whether the original is stored, or cannot be offered."""
        return self._is_recorded

    def following(self) -> Stage:
        """The next trial, or a look at what was found."""
        if self._others:
            return PassingThrough(self._context, self._search_id, self._subject, self._others)
        return ExaminingFound(self._context, self._search_id, self._subject)

    def _measured(self, future: Future[Any]) -> None:
        self._future = future

    def _stored(self, connection: Connection) -> Encode | None:
        assert self._future
        if error := self._future.exception():
            _log.warning("original not offered: %s", error)
            return None
        encoded: Encoded | None = self._future.result()
        if encoded is None:
            return None
        return store_encode(connection, self._context, self._subject.row.id, self._trial, encoded)

    def _offer(self, connection: Connection, original: Encode) -> None:
        encode = encodes.get(connection, original.id, self._subject.sizes)
        most_bytes = _most_bytes(connection, self._subject, self._search_id)
        is_wanted = encode.measured.size_bytes <= most_bytes
        if is_wanted and searches.is_running(connection, self._search_id):
            searches.add_candidate(connection, self._search_id, encode.id, meets_aim=True)


def _most_bytes(connection: Connection, subject: Subject, search_id: int) -> int:
    """The bytes up to which an original is worth offering: those of the lightest encode that looks
    as it should, or else the limit."""
    aim = subject.state.aim
    found = searches.found(connection, search_id)
    made = (encodes.get(connection, each.encode_id, subject.sizes) for each in found)
    enough = (
        each.measured.size_bytes
        for each in made
        if not each.trial.is_pass_through and aim.is_enough(each.measured.likeness)
    )
    limit_bytes = MAX_BYTES if aim.limit_bytes is None else aim.limit_bytes
    return min((limit_bytes, *enough))
