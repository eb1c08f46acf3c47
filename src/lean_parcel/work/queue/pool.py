"""Worker processes behind the standard `concurrent.futures.Executor` interface.

A photo is an untrusted file and decoders crash: work on it happens in processes that can be lost.
Each worker is an executor of one process, started fresh (libvips does not survive a fork). Where
its process dies, idle, starting or at work, the executor is replaced, and the task, a pure
function, is run once more: what dies twice dies of its photo. What takes too long is ended.
"""

import os
from collections.abc import Callable
from concurrent.futures import (
    FIRST_COMPLETED,
    Executor,
    Future,
    InvalidStateError,
    ProcessPoolExecutor,
    ThreadPoolExecutor,
    wait,
)
from concurrent.futures import TimeoutError as FutureTimeoutError
from concurrent.futures.process import BrokenProcessPool
from contextlib import suppress
from dataclasses import dataclass
from functools import partial
from multiprocessing.context import SpawnContext, SpawnProcess
from queue import SimpleQueue
from typing import Any
from weakref import WeakKeyDictionary

from lean_parcel.core.errors import OutOfMemory, TaskCrashed, TaskTimedOut
from lean_parcel.work.tasks.worker import start_worker

#: How long a process may take to start: the kernels may have to be compiled.
_START_S = 120.0
#: How often a process is started anew before workers are given up for this task.
_STARTS = 4
#: How often a task is run whose worker dies.
_RUNS = 2


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
            worker.close()
        self._threads.shutdown(wait=wait)

    def _run(self, hurried: Future[None], task: Callable[[], Any]) -> Any:
        worker = self._free.get()
        try:
            return worker.run(hurried, task)
        finally:
            self._free.put(worker)


class _OneProcess(SpawnContext):
    """Starts the process of an executor, and remembers it."""

    process: SpawnProcess | None = None

    def Process(self, *args: Any, **kwargs: Any) -> SpawnProcess:  # type: ignore[override] # noqa: N802
        self.process = SpawnProcess(*args, **kwargs)
        return self.process


class _Worker:
    """One process, started when it is needed and replaced when it is lost. Used by one thread at a
    time; only `close` may be called from another."""

    def __init__(self, settings: PoolSettings) -> None:
        self._settings = settings
        self._executor: ProcessPoolExecutor | None = None
        self._context = _OneProcess()
        self._is_closed = False

    def run(self, hurried: Future[None], task: Callable[[], Any]) -> Any:
        """What the task returns."""
        for _ in range(_RUNS):
            executor = self._started()
            try:
                return self._result(executor.submit(task), hurried)
            except BrokenProcessPool:
                self._drop()
            except MemoryError as error:
                message = "This photo needs more memory than it may take."
                raise OutOfMemory(message, str(error)) from error
        if self._is_closed:
            raise TaskCrashed("The work was stopped.")
        raise TaskCrashed("The worker died on this photo. The file may be damaged on purpose.")

    @property
    def is_alive(self) -> bool:
        """Whether its process lives."""
        process = self._context.process
        return process is not None and process.is_alive()

    def close(self) -> None:
        """Ends the process, whatever it does, and starts none any more."""
        self._is_closed = True
        self._kill()

    def _started(self) -> ProcessPoolExecutor:
        """The executor, its process alive."""
        for _ in range(_STARTS):
            if self._is_closed:
                raise TaskCrashed("The work was stopped.")
            executor = self._executor or self._new_executor()
            try:
                executor.submit(os.getpid).result(_START_S)
                if not self._is_closed:
                    return executor
            except (BrokenProcessPool, FutureTimeoutError):
                pass
            self._drop()
        raise TaskCrashed("The workers cannot be started.")

    def _new_executor(self) -> ProcessPoolExecutor:
        self._context = _OneProcess()
        self._executor = ProcessPoolExecutor(
            1,
            mp_context=self._context,
            initializer=start_worker,
            initargs=(self._settings.max_memory_bytes,),
        )
        return self._executor

    def _result(self, future: Future[Any], hurried: Future[None]) -> Any:
        longest_s = self._settings.max_task_s
        wait([future, hurried], longest_s, FIRST_COMPLETED)
        if hurried.done():
            wait([future], self._settings.grace_s)
        if future.done():
            return future.result()
        self._drop()
        if hurried.done():
            raise TaskCrashed("The work was stopped.")
        raise TaskTimedOut(f"This took longer than {longest_s:g} seconds and was ended.")

    def _drop(self) -> None:
        """Lets go of an executor whose process is lost, or has to be."""
        self._kill()
        if self._executor:
            self._executor.shutdown(wait=False, cancel_futures=True)
        self._executor = None

    def _kill(self) -> None:
        process = self._context.process
        if process and process.pid:
            process.kill()
