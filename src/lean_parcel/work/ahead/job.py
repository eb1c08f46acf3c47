"""What is done for a photo whose search has ended: the curves of its formats are filled, and then
its candidates are tried once more with the slowest settings.

One task at a time, so that a worker is free for whoever asks for something. Every encode is stored:
a job that is given up costs what runs, and the next one goes on from there.
"""

import logging
from collections import deque
from concurrent.futures import Future
from functools import partial
from typing import Any

from lean_parcel.core.ahead.filling import filled
from lean_parcel.core.ahead.once_more import once_more
from lean_parcel.core.candidates.delivered import delivered_measure
from lean_parcel.core.candidates.ranking import judged
from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.search.ladder import trial_at
from lean_parcel.core.search.protocol import TrialSearch, asked_once
from lean_parcel.store import damages, encodes, searches
from lean_parcel.store.file import database
from lean_parcel.work.context import Context
from lean_parcel.work.queue.work_queue import Job, Priority, Task
from lean_parcel.work.results.damages import examine_args, store_examined
from lean_parcel.work.results.encodes import store_encode
from lean_parcel.work.searches.format_searches import FORMATS_BY_TIME
from lean_parcel.work.searches.subject import Subject
from lean_parcel.work.tasks.damage import Examined, examine_task
from lean_parcel.work.tasks.encoding import Encoded, encode_task

_log = logging.getLogger(__name__)
#: How many times the bytes of the heaviest candidate a curve is followed.
_REACH = 3
_Search = TrialSearch[Candidate | None]


class AheadJob(Job):
    """See the module. Every method is called from the queue's thread."""

    priority = Priority.AHEAD

    def __init__(self, context: Context, search_id: int, subject: Subject) -> None:
        self.photo_id: int = subject.photo.id
        self.search_id = search_id
        self._context = context
        self._subject = subject
        #: Searches to carry out, and the encode that each is to improve on.
        self._searches: deque[tuple[_Search, int | None]] | None = None
        self._ids: dict[Trial, int] = {}
        self._is_waiting = False
        #: The answer to the search at hand.
        self._measured: Measured | None = None
        self._unexamined: deque[int] = deque()
        # What is to be stored.
        self._encoded: list[tuple[Trial, Encoded]] = []
        self._improved: list[tuple[int, Candidate]] = []
        self._examined: list[tuple[int, Examined]] = []

    def next_task(self) -> Task | None:
        """The next encode, or a look at a candidate that was found."""
        if self._is_waiting:
            return None
        task = self._examining() or self._encoding()
        if task is None:
            self.record()  # what was known before may end searches at once
            task = self._examining()
        self._is_waiting = task is not None
        self.is_ended = task is None
        return task

    def record(self) -> None:
        """Stores what was made."""
        if not (self._encoded or self._improved or self._examined):
            return
        with self._context.connection() as connection, database.transaction(connection):
            for trial, encoded in self._encoded:
                row_id = self._subject.row.id
                made = store_encode(connection, self._context, row_id, trial, encoded)
                self._ids[trial] = made.id
            for before_id, candidate in self._improved:
                encode_id = self._ids[candidate.trial]
                searches.add_candidate(
                    connection, self.search_id, encode_id, meets_aim=True, improves_id=before_id
                )
                self._unexamined.append(encode_id)
            for encode_id, examined in self._examined:
                store_examined(connection, encode_id, examined)
        self._encoded, self._improved, self._examined = [], [], []
        self._context.changes.announce_photo(self.photo_id)

    def fail(self, error: Exception) -> None:
        """Nobody has asked for it, so nobody is told."""

    def _examining(self) -> Task | None:
        """A look at the next better candidate in which nobody has looked."""
        if not self._unexamined:
            return None
        with self._context.connection() as connection:
            while self._unexamined:
                encode = encodes.get(connection, self._unexamined.popleft())
                if damages.find(connection, encode.id) is None:
                    args = examine_args(connection, self._context, encode, self._subject.state)
                    return Task(examine_task, args, partial(self._looked_at, encode.id))
        return None

    def _encoding(self) -> Task | None:
        """The next encode that is not known."""
        if self._searches is None:
            self._searches = self._planned()
        measured, self._measured = self._measured, None
        while self._searches:
            search, before_id = self._searches[0]
            try:
                trial = next(search) if measured is None else search.send(measured)
            except StopIteration as end:
                self._searches.popleft()
                measured = None
                if before_id is not None and end.value:
                    self._improved.append((before_id, end.value))
                continue
            with self._context.connection() as connection:
                encoder_input = self._subject.encoder_input(connection)
            return Task(encode_task, (encoder_input, trial), partial(self._made, trial))
        return None

    def _planned(self) -> deque[tuple[_Search, int | None]]:
        """The searches of all formats: curves first, also those of all pixels where a candidate has
        fewer, since they are made of drafts."""
        subject, aim = self._subject, self._subject.state.aim
        with self._context.connection() as connection:
            made = encodes.of_framed(connection, subject.row.id, subject.sizes)
            found = searches.found(connection, self.search_id)
        self._ids = {encode.trial: encode.id for encode in made}
        known = {encode.trial: encode.measured for encode in made}
        first_ids = {each.encode_id for each in found if each.improves_id is None}
        improved_ids = {each.improves_id for each in found}
        candidates = [e for e in made if e.id in first_ids and not e.trial.is_pass_through]
        candidates.sort(key=lambda e: FORMATS_BY_TIME.index(e.trial.settings.format))
        most_bytes = _REACH * max((e.measured.size_bytes for e in candidates), default=0)
        search_input = subject.row.search_input
        rungs = search_input.rungs
        on_curves = [e.trial for e in candidates]
        on_curves += [trial_at(trial.settings, rungs[0]) for trial in on_curves]
        planned: list[tuple[_Search, int | None]] = [
            (asked_once(filled(trial, search_input, known, most_bytes), known), None)
            for trial in dict.fromkeys(on_curves)
        ]
        planned += [
            (
                asked_once(once_more(judged(e.trial, e.measured, aim), aim, known), known),
                e.id,
            )
            for e in candidates
            if e.id not in improved_ids
        ]
        return deque(planned)

    def _made(self, trial: Trial, future: Future[Any]) -> None:
        self._is_waiting = False
        if error := future.exception():
            _log.warning("not encoded ahead: %s", error)
            assert self._searches
            self._searches.popleft()
            return
        encoded: Encoded = future.result()
        self._encoded.append((trial, encoded))
        self._measured = delivered_measure(
            trial, encoded.measured, encoded.container_bytes, self._subject.sizes
        )

    def _looked_at(self, encode_id: int, future: Future[Any]) -> None:
        self._is_waiting = False
        if error := future.exception():
            _log.warning("candidate %d not examined: %s", encode_id, error)
        else:
            self._examined.append((encode_id, future.result()))
