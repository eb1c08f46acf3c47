"""Batches: photos of a page that are weighed together. A batch is its photos; how far it is, is how
far their searches are, so it outlives the server, and nothing of it is done twice.
"""

import time
from collections.abc import Collection
from dataclasses import dataclass
from sqlite3 import Connection
from typing import Literal

from lean_parcel.store import batches, journal, photos, searches
from lean_parcel.store.batches import Batch
from lean_parcel.store.file import database
from lean_parcel.store.searches import SearchOutcome, SearchRef
from lean_parcel.work.context import Context
from lean_parcel.work.searches.runs import SearchRuns
from lean_parcel.work.searches.starting import start_search

BatchState = Literal["running", "stopped", "done"]


@dataclass(frozen=True, slots=True, kw_only=True)
class BatchView:
    """A batch: its photos that are still on the page, how many of those are done or failed, and the
    seconds that the rest will take, once that is known."""

    batch: Batch
    photo_ids: tuple[int, ...]
    state: BatchState
    ended: int
    failed: int
    left_s: float | None


@dataclass(slots=True)
class _Pace:
    """Since when a batch is watched, and how many of its photos had ended then."""

    batch_id: int
    since_s: float
    ended: int


class Batches:
    """The batches of all pages, one a page."""

    def __init__(self, context: Context, runs: SearchRuns) -> None:
        self._context = context
        self._runs = runs
        self._paces: dict[int, _Pace] = {}

    def begin(self, page_id: int, words: str, photo_ids: Collection[int]) -> None:
        """Makes a batch of photos in the place of the page's older one, and weighs those again
        whose last search did not come to its end."""
        with self._context.connection() as connection, database.transaction(connection):
            journal.layout_of(connection).page(page_id)
            batches.begin(connection, page_id, words, photo_ids)
            outcomes = searches.outcomes_of(connection, photo_ids)
            cut_off = [i for i in photo_ids if outcomes[i].state in ("stopped", "failed")]
            started = self._restarted(connection, cut_off)
        self._start(started)

    def view(self, page_id: int) -> BatchView | None:
        """How far the batch of a page is, if it has one. Raises NotFoundError for no page."""
        with self._context.connection() as connection, database.snapshot(connection):
            page = journal.layout_of(connection).page(page_id)
            batch = batches.of_page(connection, page_id)
            if batch is None:
                return None
            wanted = set(batch.photo_ids)
            on_page = tuple(s.photo_id for s in page.spots if s.photo_id in wanted)
            outcomes = searches.outcomes_of(connection, on_page)
        return self._viewed(page_id, batch, on_page, outcomes)

    def stop(self, page_id: int) -> None:
        """Ends the searches of a batch that run; what they found stays."""
        with self._context.connection() as connection, database.transaction(connection):
            running = self._with_state(connection, page_id, "running")
            stopped = [searches.all_of(connection, photo_id)[0] for photo_id in running]
            for ref in stopped:
                searches.end(connection, ref.id, "stopped")
        for ref in stopped:
            self._runs.stop(ref)
        self._context.changes.announce_pages()

    def resume(self, page_id: int) -> None:
        """Goes on with the photos of a batch whose searches were stopped."""
        self._paces.pop(page_id, None)
        with self._context.connection() as connection, database.transaction(connection):
            stopped = self._with_state(connection, page_id, "stopped")
            started = self._restarted(connection, stopped)
        self._start(started)

    def end(self, page_id: int) -> None:
        """Forgets the batch of a page; its searches go on."""
        with self._context.connection() as connection, database.transaction(connection):
            batches.end(connection, page_id)
        self._context.changes.announce_pages()

    def _viewed(
        self,
        page_id: int,
        batch: Batch,
        photo_ids: tuple[int, ...],
        outcomes: dict[int, SearchOutcome],
    ) -> BatchView:
        states = [outcomes[i].state for i in photo_ids]
        ended = states.count("done") + states.count("failed")
        state: BatchState = "stopped" if "stopped" in states else "done"
        if "running" in states:
            state = "running"
        return BatchView(
            batch=batch,
            photo_ids=photo_ids,
            state=state,
            ended=ended,
            failed=states.count("failed"),
            left_s=self._left_s(page_id, batch, ended, states.count("running")),
        )

    def _left_s(self, page_id: int, batch: Batch, ended: int, running: int) -> float | None:
        """The time that what runs will take, at the pace since the batch was first looked at."""
        now = time.monotonic()
        pace = self._paces.get(page_id)
        if pace is None or pace.batch_id != batch.id:
            self._paces[page_id] = pace = _Pace(batch.id, now, ended)
        since = ended - pace.ended
        return running * (now - pace.since_s) / since if running and since > 0 else None

    def _with_state(self, connection: Connection, page_id: int, state: str) -> list[int]:
        batch = batches.of_page(connection, page_id)
        on_page = {spot.photo_id for spot in journal.layout_of(connection).page(page_id).spots}
        ids = [i for i in batch.photo_ids if i in on_page] if batch else []
        outcomes = searches.outcomes_of(connection, ids)
        return [i for i in ids if outcomes[i].state == state]

    def _restarted(self, connection: Connection, photo_ids: Collection[int]) -> list[SearchRef]:
        rows, states = (
            photos.get_all(connection, photo_ids),
            journal.states_of(connection, photo_ids),
        )
        return [start_search(connection, rows[i], states[i]) for i in photo_ids]

    def _start(self, started: list[SearchRef]) -> None:
        for ref in started:
            self._runs.start(ref)
        self._context.changes.announce_pages()
