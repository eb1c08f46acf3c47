"""Workers on other machines, behind the standard `concurrent.futures.Executor` interface: those of
a Dask cluster (`distributed`), which need nothing from here but the tasks.

Pixels and originals travel once to a worker, not once a task: they are scattered by their hash. A
worker that dies costs a repeat. A task carries the versions that its result depends on, and a
worker with others refuses it. Encryption is Dask's own: see docs/scale.md.
"""

import asyncio
import os
import time
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import CancelledError, Executor, Future, ThreadPoolExecutor
from threading import Lock
from typing import Any

import distributed
from distributed.comm.addressing import get_address_host

from lean_parcel.core.errors import OutOfMemory, TaskCrashed, TaskTimedOut, UsageError
from lean_parcel.work.queue.versions import Versions, check_versions, versions
from lean_parcel.work.tasks.encoder_input import EncoderInput
from lean_parcel.work.tasks.worker import limit_worker

_CONNECT_S = 20
#: How often workers are asked that are going away or coming, and how long apart.
_ASKED, _APART_S = 20, 0.5
#: How often a task is sent whose pixels are lost with a worker.
_RUNS = 3
#: Contents that stay with the workers: of the photos at hand, and of those before.
_KEPT = 8
#: Fewer bytes travel with their task.
_SCATTERED_BYTES = 50_000


class ClusterPool(Executor):
    """The workers of a cluster; see the module. A task that runs cannot be ended from here, but for
    one that takes too long, whose worker is started anew."""

    def __init__(self, address: str, *, max_memory_bytes: int, max_task_s: float) -> None:
        """Raises UsageError where there is no cluster, or one of other versions."""
        self._max_task_s = max_task_s
        try:
            self._client = distributed.Client(address, timeout=_CONNECT_S, set_as_default=False)
            self._client.wait_for_workers(1, timeout=_CONNECT_S)
        except (OSError, TimeoutError, ValueError) as error:
            message = f"There is no cluster with a worker at {address}."
            raise UsageError(message, "no_cluster", str(error)) from error
        self._check_versions()
        self._client.register_plugin(_Limits(max_memory_bytes), name="lean-parcel-limits")
        #: Tasks that run at a time.
        self.slots = max(1, sum(self._client.nthreads().values()))
        self._threads = ThreadPoolExecutor(self.slots, thread_name_prefix="cluster")
        self._scattered: OrderedDict[Any, distributed.Future] = OrderedDict()
        self._lock = Lock()

    @property
    def workers_alive(self) -> int:
        """How many workers the cluster has now."""
        return len(self._client.scheduler_info(n_workers=-1)["workers"])

    def submit(self, function: Callable[..., Any], /, *args: Any, **kwargs: Any) -> Future[Any]:
        """Runs a module-level function on a worker. The future raises what the function raises, or
        a TaskError where the worker was lost."""
        assert not kwargs
        return self._threads.submit(self._run, function, args)

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        """Leaves the cluster, which goes on; running tasks are waited for unless `cancel_futures`
        is set."""
        if cancel_futures:
            self._client.close()
        self._threads.shutdown(wait=wait, cancel_futures=cancel_futures)
        self._client.close()

    def _check_versions(self) -> None:
        for refusal in self._refusals():
            if refusal:
                self._client.close()
                raise UsageError(refusal, "versions_differ")

    def _refusals(self) -> list[str]:
        """What the workers say of the versions here. One that goes away meanwhile says nothing: it
        is asked for again, a few times, and each task is checked anyway."""
        found: list[object] = []
        for _ in range(_ASKED):
            answers = self._client.run(_refusal, versions(), on_error="return")
            found = list(answers.values())
            if found and all(isinstance(each, str) for each in found):
                break
            time.sleep(_APART_S)
        return [each for each in found if isinstance(each, str)]

    def _run(self, function: Callable[..., Any], args: tuple[Any, ...]) -> Any:
        for _ in range(_RUNS):
            try:
                return self._result(function, args)
            except (CancelledError, asyncio.CancelledError):
                self._forget(args)  # what was scattered was lost with its worker
            except distributed.scheduler.KilledWorker:  # Dask has repeated it
                break
            except MemoryError as error:
                message = "This photo needs more memory than it may take."
                raise OutOfMemory(message, str(error)) from error
        raise TaskCrashed("The worker died on this photo. The file may be damaged on purpose.")

    def _result(self, function: Callable[..., Any], args: tuple[Any, ...]) -> Any:
        sent = [self._sent(each) for each in args]
        future = self._client.submit(_checked, versions(), function, *sent, pure=False)
        try:
            return future.result(self._max_task_s)
        except (distributed.TimeoutError, TimeoutError) as error:
            if future.done():  # raised by the task itself
                raise
            self._start_anew(future)
            message = f"This took longer than {self._max_task_s:g} seconds and was ended."
            raise TaskTimedOut(message) from error
        finally:
            future.release()

    def _sent(self, value: Any) -> Any:
        """A value, or a future of it where it is large, which travels once to a worker."""
        if not _travels_once(value):
            return value
        with self._lock:
            if value not in self._scattered:
                self._scattered[value] = self._client.scatter(value, hash=True)
            self._scattered.move_to_end(value)
            while len(self._scattered) > _KEPT:
                self._scattered.popitem(last=False)
            return self._scattered[value]

    def _forget(self, values: tuple[Any, ...]) -> None:
        with self._lock:
            for value in values:
                if _travels_once(value):
                    self._scattered.pop(value, None)

    def _start_anew(self, future: distributed.Future) -> None:
        """Starts the worker anew that a task runs on."""
        at_work = [where for where, keys in self._client.processing().items() if future.key in keys]
        future.cancel()
        if at_work:
            self._client.run(_end, workers=at_work, wait=False)


class _Limits(distributed.WorkerPlugin):
    """Bounds the memory of a worker when it joins."""

    def __init__(self, max_memory_bytes: int) -> None:
        self._max_memory_bytes = max_memory_bytes

    def setup(self, worker: distributed.Worker) -> None:
        limit_worker(self._max_memory_bytes)


async def _end() -> None:
    """Ends a worker, whatever it does, at once; Dask's nanny starts another."""
    os._exit(1)


def _travels_once(value: Any) -> bool:
    """Whether a value is scattered: pixels, and originals that are not small."""
    if isinstance(value, bytes):
        return len(value) >= _SCATTERED_BYTES
    return isinstance(value, EncoderInput)


def _checked(expected: Versions, function: Callable[..., Any], *args: Any) -> Any:
    """What a task returns, on a worker whose files would be the same."""
    check_versions(expected, get_address_host(distributed.get_worker().address))
    return function(*args)


def _refusal(expected: Versions, dask_worker: distributed.Worker) -> str:
    """Why a worker, which Dask gives by that name, may do nothing here; empty where it may."""
    try:
        check_versions(expected, get_address_host(dask_worker.address))
    except UsageError as error:
        return error.message
    return ""
