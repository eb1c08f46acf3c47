"""The first stage of a run: the inspection and the framed pixels, where they are missing."""

from collections import deque
from collections.abc import Callable
from concurrent.futures import Future
from functools import partial
from sqlite3 import Connection
from typing import Any

from lean_parcel.core.decisions.state import plan_of
from lean_parcel.core.metadata.values import Credit
from lean_parcel.store import blobs, framed, inspections, photos, searches
from lean_parcel.store.file import database
from lean_parcel.store.searches import SearchRef
from lean_parcel.work.context import Context
from lean_parcel.work.queue.work_queue import Task
from lean_parcel.work.results.framed import store_framed
from lean_parcel.work.results.inspections import store_inspection
from lean_parcel.work.searches.searching import Searching
from lean_parcel.work.searches.starting import state_of_search
from lean_parcel.work.searches.subject import Stage, Subject
from lean_parcel.work.tasks.framing import FramedFiles, frame_task
from lean_parcel.work.tasks.inspection import inspect_task

_Store = Callable[[Connection], object]


class Preparing(Stage):
    """See the module. Reads nothing before it is asked for its first task."""

    def __init__(self, context: Context, ref: SearchRef) -> None:
        self._context = context
        self._ref = ref
        self._missing: deque[Task] | None = None
        self._under_way = 0
        self._made: list[_Store] = []

    def next_task(self) -> Task | None:
        """The inspection, then the framing, as far as they are missing."""
        if self._missing is None:
            self._missing = deque(self._missing_tasks())
        if not self._missing:
            return None
        self._under_way += 1
        return self._missing.popleft()

    def record(self) -> bool:
        """Stores what was made."""
        made, self._made = self._made, []
        if made:
            with self._context.connection() as connection, database.transaction(connection):
                for store in made:
                    store(connection)
            self._under_way -= len(made)
        return bool(made)

    @property
    def is_done(self) -> bool:
        """Whether nothing is missing any more."""
        return self._missing is not None and not self._missing and not self._under_way

    def following(self) -> Stage | None:
        """The searches, of the photo as it is decided now; None where it is wanted no more."""
        photo_id = self._ref.photo_id
        with self._context.connection() as connection:
            photo = photos.get(connection, photo_id)
            state = state_of_search(connection, photo, self._ref.density)
            if state is None:
                return None
            plan = plan_of(state, photo.source)
            row = framed.find(connection, photo.original_sha256, plan)
            if row is None:  # decided anew in the meantime: another search is on its way
                return Preparing(self._context, self._ref)
            sizes = inspections.segment_sizes(connection, photo_id, state.framing.metadata)
        subject = Subject(photo=photo, state=state, row=row, sizes=sizes)
        return Searching(self._context, self._ref, subject)

    def _missing_tasks(self) -> list[Task]:
        with self._context.connection() as connection:
            photo = photos.get(connection, self._ref.photo_id)
            state = state_of_search(connection, photo, self._ref.density)
            if state is None:
                return []
            plan = plan_of(state, photo.source)
            is_inspected = inspections.find(connection, photo.id) is not None
            row = framed.find(connection, photo.original_sha256, plan)
            is_framed = row is not None and blobs.has(connection, row.pixels_sha256)
            if is_inspected and is_framed:
                return []
            original = blobs.get(connection, photo.original_sha256)
        limits, tasks = self._context.limits, []
        if not is_inspected:
            args = (original, photo.name, Credit(), limits)
            tasks.append(Task(inspect_task, args, self._inspected))
        if not is_framed:
            framing_args = (original, photo.name, state.framing, state.aim.place, limits)
            done = partial(self._framed, photo.original_sha256)
            tasks.append(Task(frame_task, framing_args, done))
        return tasks

    def _inspected(self, future: Future[Any]) -> None:
        made = future.result()
        self._made.append(lambda connection: store_inspection(connection, self._ref.photo_id, made))

    def _framed(self, original_sha256: str, future: Future[Any]) -> None:
        made: FramedFiles = future.result()

        def store(connection: Connection) -> None:
            row = store_framed(connection, original_sha256, made)
            searches.set_framed(connection, self._ref.id, row.id)  # or it would not be kept
            self._context.room.added(connection, made.size_bytes)

        self._made.append(store)
