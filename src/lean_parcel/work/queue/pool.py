"""Worker processes behind the standard `concurrent.futures.Executor` interface.

A photo is an untrusted file and decoders crash: work on it happens in processes that can be lost.
Each is started fresh (libvips does not survive a fork) and answers one task at a time over a pipe
of its own, which ends with it. Where it dies, idle, starting or at work, another takes its place,
and the task, a pure function, is run once more: what dies twice dies of its photo. What takes too
long is ended.

The standard library's pool of processes is not used: it was made for processes that live. One that
is killed leaves a thread which, as the interpreter ends, may find its pipe closed (a traceback), or
waits for ever to write to it (before Python 3.11.5, CPython issue 94777).
"""

import multiprocessing
from collections.abc import Callable, Iterator
from concurrent.futures import Executor, Future, InvalidStateError, ThreadPoolExecutor
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from functools import partial
from queue import SimpleQueue
from threading import Lock, Timer
from typing import Any
from weakref import WeakKeyDictionary

from lean_parcel.core.errors import OutOfMemory, TaskCrashed, TaskError, TaskTimedOut
from lean_parcel.work.tasks.worker import Answer, answer_tasks

#: How long a process may take to start: the kernels may have to be compiled.
_START_S = 120.0
#: How often a process is started anew before workers are given up for this task.
_STARTS = 4
#: How often a task is run whose worker dies.
_RUNS = 2
_FRESH = multiprocessing.get_context("spawn")
#: What reading from a pipe, and writing to it, raises whose other end is gone.
_GONE = (EOFError, OSError)


@dataclass(frozen=True, slots=True, kw_only=True)
class PoolSettings:
    """How many workers, and what one task may take."""

    workers: int = 2
    max_memory_bytes: int = 6_000_000_000
    max_task_s: float = 120.0
    #: How long a task may go on that nobody wants any more: to start a worker takes as long.
    grace_s: float = 1.5


class WorkerPool(Executor):
    """Worker processes; see the module. A task that runs cannot be cancelled, but hurried."""

    def __init__(self, settings: PoolSettings) -> None:
        self._workers = [_Worker(settings) for _ in range(settings.workers)]
        self._free: SimpleQueue[_Worker] = SimpleQueue()
        for worker in self._workers:
            self._free.put(worker)
        self._hurried: WeakKeyDictionary[Future[Any], Future[None]] = WeakKeyDictionary()
        self._threads = ThreadPoolExecutor(settings.workers, thread_name_prefix="worker")

    def submit(self, function: Callable[..., Any], /, *args: Any, **kwargs: Any) -> Future[Any]:
        """Runs a module-level function in a worker. The future raises what the function raises, or
        a TaskError where the worker was lost."""
        hurried: Future[None] = Future()
        future = self._threads.submit(self._run, hurried, partial(function, *args, **kwargs))
        self._hurried[future] = hurried
        return future

    def hurry(self, future: Future[Any]) -> None:
        """Ends a task that nobody wants any more, unless it soon ends by itself."""
        with suppress(KeyError, InvalidStateError):
            self._hurried[future].set_result(None)

    @property
    def workers_alive(self) -> int:
        """How many worker processes live; one that has had nothing to do is not started yet."""
        return sum(worker.is_alive for worker in self._workers)

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        """Ends the workers; running tasks are waited for unless `cancel_futures` is set."""
        self._threads.shutdown(wait=not cancel_futures, cancel_futures=cancel_futures)
        for worker in self._workers:
            worker.kill()
        self._threads.shutdown(wait=wait)
        if wait:
            for worker in self._workers:
                worker.drop()

    def _run(self, hurried: Future[None], task: Callable[[], Any]) -> Any:
        worker = self._free.get()
        try:
            return worker.run(hurried, task)
        finally:
            self._free.put(worker)


class _Process:
    """A process, and the pipe to it. Its methods raise one of _GONE where it is lost."""

    def __init__(self, max_memory_bytes: int) -> None:
        self._pipe, theirs = _FRESH.Pipe()
        self._process = _FRESH.Process(
            target=answer_tasks, args=(theirs, max_memory_bytes), daemon=True
        )
        self._process.start()
        theirs.close()

    @property
    def is_alive(self) -> bool:
        """Whether it lives."""
        return self._process.is_alive()

    def wait_until_ready(self) -> None:
        """Waits until it has started."""
        if not self._pipe.poll(_START_S):
            raise TimeoutError("it does not start")
        self._pipe.recv()

    def answer(self, task: Callable[[], Any]) -> Answer:
        """What becomes of a task."""
        self._pipe.send(task)
        answer: Answer = self._pipe.recv()
        return answer

    def kill(self) -> None:
        """Ends it, whatever it does; from any thread."""
        self._process.kill()

    def close(self) -> None:
        """Ends it, and waits until it is gone."""
        self._process.kill()
        self._process.join()
        self._pipe.close()


class _Worker:
    """One process, started when it is needed and replaced when it is lost. Used by one thread at a
    time; only `kill` may be called from another."""

    def __init__(self, settings: PoolSettings) -> None:
        self._settings = settings
        self._process: _Process | None = None
        self._is_closed = False
        self._starting = Lock()

    def run(self, hurried: Future[None], task: Callable[[], Any]) -> Any:
        """What the task returns."""
        for _ in range(_RUNS):
            process = self._started()
            try:
                with self._bounded(process, hurried):
                    answer = process.answer(task)
            except _GONE:
                self.drop()
                continue
            if isinstance(answer.error, MemoryError):
                message = "This photo needs more memory than it may take."
                raise OutOfMemory(message, str(answer.error)) from answer.error
            if answer.error:
                raise answer.error
            return answer.value
        raise TaskCrashed("The worker died on this photo. The file may be damaged on purpose.")

    @property
    def is_alive(self) -> bool:
        """Whether its process lives."""
        return self._process is not None and self._process.is_alive

    def kill(self) -> None:
        """Ends the process, whatever it does, and starts none any more."""
        with self._starting:
            self._is_closed = True
            if self._process:
                self._process.kill()

    def drop(self) -> None:
        """Lets go of a process that is lost, or not wanted any more."""
        process, self._process = self._process, None
        if process:
            process.close()

    def _started(self) -> _Process:
        """The process, alive."""
        for _ in range(_STARTS):
            if self._process and self._process.is_alive:
                return self._process
            self.drop()
            with self._starting:
                self._check_is_open()
                self._process = _Process(self._settings.max_memory_bytes)
            try:
                self._process.wait_until_ready()
                return self._process
            except _GONE:
                self.drop()
        self._check_is_open()
        raise TaskCrashed("The workers cannot be started.")

    def _check_is_open(self) -> None:
        if self._is_closed:
            raise TaskCrashed("The work was stopped.")

    @contextmanager
    def _bounded(self, process: _Process, hurried: Future[None]) -> Iterator[None]:
        """Ends the process where what is done inside takes too long, or nobody wants it any more;
        then it raises a TaskError that says so."""
        longest_s = self._settings.max_task_s
        ended: list[TaskError] = []

        def end(error: TaskError) -> None:
            ended.append(error)
            process.kill()

        too_long = TaskTimedOut(f"This took longer than {longest_s:g} seconds and was ended.")
        longest = Timer(longest_s, end, [too_long])
        unwanted = Timer(self._settings.grace_s, end, [TaskCrashed("The work was stopped.")])
        longest.daemon = unwanted.daemon = True
        longest.start()
        hurried.add_done_callback(lambda _: unwanted.start())
        try:
            yield
        except _GONE:
            if ended:
                self.drop()
                raise ended[0] from None
            self._check_is_open()
            raise
        finally:
            longest.cancel()
            unwanted.cancel()
