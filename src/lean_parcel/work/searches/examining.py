"""The last stage of a run: looking for damage in what was found, the best first."""

import logging
from concurrent.futures import Future
from functools import partial
from typing import Any

from lean_parcel.store import damages, encodes, searches
from lean_parcel.store.file import database
from lean_parcel.work.context import Context
from lean_parcel.work.queue.work_queue import Task
from lean_parcel.work.results.damages import examine_args, store_examined
from lean_parcel.work.searches.subject import Stage, Subject
from lean_parcel.work.tasks.damage import examine_task

_log = logging.getLogger(__name__)


class ExaminingFound(Stage):
    """See the module. Where a candidate cannot be examined, it is just not told what is wrong."""

    def __init__(self, context: Context, search_id: int, subject: Subject) -> None:
        self._context = context
        self._subject = subject
        with context.connection() as connection:
            found = searches.found(connection, search_id) if context.is_looked_at else ()
            ids = [each.encode_id for each in found]
            known = damages.examined(connection, ids)
            waiting = [encodes.get(connection, i) for i in ids if i not in known]
        self._waiting = sorted(waiting, key=lambda encode: -encode.measured.likeness)
        self._under_way = 0
        self._made: list[tuple[int, Future[Any]]] = []

    def next_task(self) -> Task | None:
        """The examining of the next candidate."""
        if not self._waiting:
            return None
        encode = self._waiting.pop(0)
        with self._context.connection() as connection:
            args = examine_args(connection, self._context, encode, self._subject.state)
        self._under_way += 1
        return Task(examine_task, args, partial(self._examined, encode.id))

    def record(self) -> bool:
        """Stores what was found."""
        made, self._made = self._made, []
        for encode_id, future in made:
            self._under_way -= 1
            if error := future.exception():
                _log.warning("candidate %d not examined: %s", encode_id, error)
                continue
            with self._context.connection() as connection, database.transaction(connection):
                store_examined(connection, encode_id, future.result())
        return bool(made)

    @property
    def is_done(self) -> bool:
        """Whether all candidates were looked at."""
        return not self._waiting and not self._under_way

    def following(self) -> None:
        """Nothing comes after this."""

    def _examined(self, encode_id: int, future: Future[Any]) -> None:
        self._made.append((encode_id, future))
