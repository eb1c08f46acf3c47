"""Worker processes behind the standard `concurrent.futures.Executor` interface.

A photo is an untrusted file and decoders crash: work on it happens in processes that can be lost.
Pebble's pool starts them fresh (libvips does not survive a fork), replaces one that dies or takes
too long, and fails that one task alone; here its outcomes become this project's errors. Tasks are
pure functions, so any other Executor can stand in for this one.
"""

import multiprocessing
from collections.abc import Callable
from concurrent.futures import CancelledError, Executor, Future
from concurrent.futures import TimeoutError as FutureTimeoutError
from dataclasses import dataclass
from typing import Any

from pebble import ProcessExpired, ProcessPool

from lean_parcel.core.errors import OutOfMemory, TaskCrashed, TaskTimedOut
from lean_parcel.work.tasks.worker import start_worker


@dataclass(frozen=True, slots=True, kw_only=True)
class PoolSettings:
    """How many workers, and what one task may take."""

    workers: int = 2
    max_memory_bytes: int = 6_000_000_000
    max_task_s: float = 120.0


class WorkerPool(Executor):
    """Worker processes; see the module. Cancelling a task that already runs lets it finish."""

    def __init__(self, settings: PoolSettings) -> None:
        self._settings = settings
        self._pool = ProcessPool(
            max_workers=settings.workers,
            initializer=start_worker,
            initargs=(settings.max_memory_bytes,),
            context=multiprocessing.get_context("spawn"),
        )

    def submit(self, function: Callable[..., Any], /, *args: Any, **kwargs: Any) -> Future[Any]:
        """Runs a module-level function in a worker. The future raises what the function raises, or
        a TaskError where the worker was lost."""
        outer: Future[Any] = Future()
        inner = self._pool.submit(function, self._settings.max_task_s, *args, **kwargs)

        def settle(done: Future[Any]) -> None:
            if outer.cancelled():
                return
            try:
                result = done.result()
            except BaseException as error:
                outer.set_exception(self._translated(error))
            else:
                outer.set_result(result)

        def drop(ended: Future[Any]) -> None:
            if ended.cancelled() and not inner.running():
                inner.cancel()

        outer.add_done_callback(drop)
        inner.add_done_callback(settle)
        return outer

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        """Ends the workers; running tasks are waited for unless `cancel_futures` is set."""
        if cancel_futures:
            self._pool.stop()
        else:
            self._pool.close()
        if wait:
            self._pool.join()

    def _translated(self, error: BaseException) -> BaseException:
        if isinstance(error, FutureTimeoutError):
            return TaskTimedOut(
                f"This took longer than {self._settings.max_task_s:g} seconds and was ended."
            )
        if isinstance(error, ProcessExpired):
            return TaskCrashed(
                "The worker died on this photo. The file may be damaged on purpose.", str(error)
            )
        if isinstance(error, MemoryError):
            return OutOfMemory("This photo needs more memory than it may take.", str(error))
        if isinstance(error, CancelledError):
            return TaskCrashed("The work was stopped.", str(error))
        return error
