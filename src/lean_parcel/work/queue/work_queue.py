"""The one queue of work: which task a free worker gets next.

Work is a **job**: it is asked for its next task when a worker is free, and told what came of it. So
a job that waits for its turn costs nothing but itself: no thread, no file, no pixels. Jobs go by
their priority, then by how recently somebody looked at their photo, then by age.

Jobs are only ever called from the queue's own thread, one at a time, so they need no locks.
"""

import logging
import threading
import time
from abc import ABC, abstractmethod
from collections import Counter, defaultdict
from collections.abc import Callable
from concurrent.futures import Executor, Future
from concurrent.futures import TimeoutError as FutureTimeoutError
from dataclasses import dataclass, field
from enum import IntEnum
from functools import partial
from queue import SimpleQueue
from typing import Any, Protocol, TypeVar, runtime_checkable

from lean_parcel.core.errors import LeanParcelError, TaskCrashed, TaskTimedOut
from lean_parcel.work.queue.trace import request_id

_log = logging.getLogger(__name__)
#: One line for each task that ends.
_task_log = logging.getLogger("lean_parcel.tasks")
_T = TypeVar("_T")


class Priority(IntEnum):
    """Whose turn it is, the most urgent first."""

    #: Somebody waits for this answer.
    ANSWER = 0
    #: A photo is being added.
    ADDING = 1
    #: A page is being balanced.
    BALANCE = 2
    #: A photo is being searched.
    SEARCH = 3
    #: Nobody has asked for it yet.
    AHEAD = 4


@runtime_checkable
class Hurries(Protocol):
    """An executor that can end a task which runs."""

    def hurry(self, future: Future[Any]) -> None:
        """Ends a task unless it soon ends by itself."""


@runtime_checkable
class CountsWorkers(Protocol):
    """An executor that knows its workers."""

    @property
    def workers_alive(self) -> int:
        """How many of them live."""


@dataclass(frozen=True, slots=True, kw_only=True)
class QueueState:
    """How busy a queue is: jobs that wait for their turn or for their tasks, by their priority;
    tasks that run, and those that could; workers that live, if that is known. And what was done
    since it began: tasks by kind and outcome (`done`, or the code of an error), and their seconds
    by kind."""

    jobs: dict[Priority, int]
    running: int
    slots: int
    workers_alive: int | None
    tasks: dict[tuple[str, str], int]
    task_seconds: dict[str, float]


@dataclass(slots=True)
class _Tally:
    tasks: Counter[tuple[str, str]] = field(default_factory=Counter)
    seconds: defaultdict[str, float] = field(default_factory=lambda: defaultdict(float))


@dataclass(frozen=True, slots=True)
class Task:
    """A pure function of plain values, for a worker; `done` is called with its future."""

    function: Callable[..., Any]
    args: tuple[Any, ...]
    done: Callable[[Future[Any]], None]


class Job(ABC):
    """Work that is done in one task or many; see the module."""

    priority: Priority
    photo_id: int | None = None
    #: The request that it was begun for.
    request_id: str = ""
    #: Whether the job wants no more tasks; it is dropped then.
    is_ended: bool = False

    @abstractmethod
    def next_task(self) -> Task | None:
        """The task to run next; None where the job waits for tasks that run."""

    @abstractmethod
    def record(self) -> None:
        """Stores what the tasks that are done came to. Called once the workers are busy again."""

    @abstractmethod
    def fail(self, error: Exception) -> None:
        """Ends the job, of which a method raised an unexpected error."""


class _OneTask(Job):
    """A job of a single task, with a future of its own."""

    def __init__(
        self, priority: Priority, function: Callable[..., Any], args: tuple[Any, ...]
    ) -> None:
        self.priority = priority
        self.future: Future[Any] = Future()
        self._task = Task(function, args, self._done)

    def next_task(self) -> Task | None:
        self.is_ended = True
        return self._task if self.future.set_running_or_notify_cancel() else None

    def record(self) -> None:
        """Stores nothing: the future has it all."""

    def fail(self, error: Exception) -> None:
        self.future.set_exception(error)

    def _done(self, task_future: Future[Any]) -> None:
        error = task_future.exception()
        if error:
            self.future.set_exception(error)
        else:
            self.future.set_result(task_future.result())


class WorkQueue:
    """Runs jobs on an executor, at most `slots` tasks at a time. Nobody waits for an answer for
    longer than `longest_wait_s`."""

    def __init__(self, executor: Executor, slots: int, longest_wait_s: float = 300.0) -> None:
        self._longest_wait_s = longest_wait_s
        self._executor = executor
        self._slots = self._free = slots
        self._tally = _Tally()
        self._begun = 0
        self._jobs: list[Job] = []
        self._running: dict[Job, set[Future[Any]]] = {}
        self._preferred_at: dict[int, int] = {}
        self._preferences = 0
        self._lock = threading.Lock()
        self._is_closed = False
        #: What the queue's thread does next; None ends it.
        self._inbox: SimpleQueue[Callable[[], None] | None] = SimpleQueue()
        self._thread = threading.Thread(target=self._run, name="work-queue", daemon=True)
        self._thread.start()

    def add(self, job: Job) -> None:
        """Queues a job; nothing happens to it once the queue is closed."""
        job.request_id = request_id()
        self._inbox.put(lambda: self._jobs.append(job))

    def cancel(self, job: Job, *, hurries: bool = True) -> None:
        """Ends a job: it gets no more tasks, and those that run are hurried, unless what they come
        to is of use. It is recorded in any case. Whoever cancels a job has stored why."""
        self._inbox.put(lambda: self._cancel(job, hurries))

    def submit(self, priority: Priority, function: Callable[..., _T], *args: Any) -> Future[_T]:
        """Queues a single task. Its future can be cancelled until the task begins."""
        job = _OneTask(priority, function, args)
        with self._lock:
            if self._is_closed:
                job.future.cancel()
            else:
                self.add(job)
        return job.future

    def awaited(self, future: Future[_T]) -> _T:
        """What a single task gives, or its error. Nobody waits for ever: raises TaskTimedOut after
        the longest wait, and the task does not begin any more."""
        try:
            return future.result(self._longest_wait_s)
        except FutureTimeoutError as error:
            if future.done():  # raised by the task itself
                raise
            future.cancel()
            raise TaskTimedOut("There is too much to do. Try it again in a while.") from error

    def run(self, priority: Priority, function: Callable[..., _T], *args: Any) -> _T:
        """Runs a single task, and waits for what it gives, as `awaited` does."""
        return self.awaited(self.submit(priority, function, *args))

    def withdraw(self, future: Future[Any]) -> None:
        """Ends a single task that nobody wants any more, also where it runs."""
        if not future.cancel():
            self._inbox.put(partial(self._withdraw, future))

    def prefer(self, photo_id: int) -> None:
        """Lets the jobs of a photo go before others of their priority, since it is looked at."""
        self._inbox.put(partial(self._prefer, photo_id))

    def state(self) -> QueueState:
        """How busy it is, and what it has done, as of a moment ago."""
        executor = self._executor
        return QueueState(
            jobs=dict(Counter(job.priority for job in tuple(self._jobs))),
            running=self._slots - self._free,
            slots=self._slots,
            workers_alive=executor.workers_alive if isinstance(executor, CountsWorkers) else None,
            tasks=dict(self._tally.tasks),
            task_seconds=dict(self._tally.seconds),
        )

    def close(self) -> None:
        """Begins no more tasks, and ends the queue's thread; nobody waits any more for what has not
        ended."""
        with self._lock:
            self._is_closed = True
            self._inbox.put(None)
        self._thread.join()
        for job in (*self._jobs, *self._running):
            if isinstance(job, _OneTask) and not (job.future.cancel() or job.future.done()):
                job.fail(TaskCrashed("The work was stopped."))

    def _run(self) -> None:
        while (message := self._inbox.get()) is not None:
            message()
            self._fill()

    def _cancel(self, job: Job, hurries: bool) -> None:
        job.is_ended = True
        self._jobs = [other for other in self._jobs if other is not job]
        if hurries and isinstance(self._executor, Hurries):
            for future in self._running.get(job, ()):
                self._executor.hurry(future)

    def _withdraw(self, future: Future[Any]) -> None:
        for job in list(self._running):
            if isinstance(job, _OneTask) and job.future is future:
                self._cancel(job, hurries=True)

    def _prefer(self, photo_id: int) -> None:
        self._preferences += 1
        self._preferred_at[photo_id] = self._preferences

    def _fill(self) -> None:
        """Gives every free worker a task."""
        for job in sorted(self._jobs, key=self._order):
            while self._free and not job.is_ended:
                task = self._guarded(job, job.next_task)
                if task is None:
                    break
                self._begin(job, task)
            if not self._free:
                break
        self._jobs = [job for job in self._jobs if not job.is_ended]

    def _order(self, job: Job) -> tuple[int, int]:
        preferred_at = 0 if job.photo_id is None else self._preferred_at.get(job.photo_id, 0)
        return job.priority, -preferred_at  # sorting is stable: the oldest first

    def _begin(self, job: Job, task: Task) -> None:
        self._free -= 1
        self._begun += 1
        number, start_s = self._begun, time.monotonic()
        try:
            future = self._executor.submit(task.function, *task.args)
        except Exception as error:
            future = Future()
            future.set_exception(TaskCrashed("The workers cannot be reached.", repr(error)))
        self._running.setdefault(job, set()).add(future)

        def settle(done: Future[Any]) -> None:
            seconds = time.monotonic() - start_s
            self._inbox.put(lambda: self._count(job, task, number, seconds, done))
            self._inbox.put(lambda: self._settle(job, task, done))

        future.add_done_callback(settle)

    def _count(
        self, job: Job, task: Task, number: int, seconds: float, future: Future[Any]
    ) -> None:
        """Counts a task that has ended, and logs it."""
        error = None if future.cancelled() else future.exception()
        outcome = "cancelled" if future.cancelled() else _code(error)
        kind = task.function.__name__.removesuffix("_task")
        self._tally.tasks[kind, outcome] += 1
        self._tally.seconds[kind] += seconds
        told = {
            "request_id": job.request_id,
            "task_id": number,
            "task": kind,
            "photo_id": job.photo_id,
            "outcome": outcome,
            "seconds": round(seconds, 3),
        }
        _task_log.info("task %d, %s: %s", number, kind, outcome, extra=told)

    def _settle(self, job: Job, task: Task, future: Future[Any]) -> None:
        self._free += 1
        self._running[job].discard(future)
        if not self._running[job]:
            del self._running[job]
        if future.cancelled():
            future = Future()
            future.set_exception(TaskCrashed("The work was stopped."))
        self._guarded(job, partial(task.done, future))
        self._fill()
        self._guarded(job, job.record)

    def _guarded(self, job: Job, call: Callable[[], _T]) -> _T | None:
        """What a job's method returns; None where it raised, and the job ends."""
        try:
            return call()
        except Exception as error:
            _log.exception("a job failed")
            job.is_ended = True
            try:
                job.fail(error)
            except Exception:
                _log.exception("a job could not be ended")
            return None


def _code(error: BaseException | None) -> str:
    """What became of a task: done, or the code of its error."""
    if error is None:
        return "done"
    return error.code if isinstance(error, LeanParcelError) else "internal"
