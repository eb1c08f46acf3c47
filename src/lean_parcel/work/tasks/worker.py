"""How a worker process starts, and answers tasks."""

import multiprocessing
import os
import resource
import signal
import traceback
from collections.abc import Callable
from dataclasses import dataclass
from multiprocessing.connection import Connection
from multiprocessing.reduction import ForkingPickler
from threading import Thread
from typing import Any

import numpy as np
import pyvips

from lean_parcel.core.damage.examine import Examiner
from lean_parcel.core.errors import LeanParcelError
from lean_parcel.core.likeness.reference import Reference
from lean_parcel.core.picture.pixels import over_background
from lean_parcel.core.picture.resample import resampled

_NICENESS = 10


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    """What became of a task: what it returned, or what it raised."""

    value: Any = None
    error: Exception | None = None


def answer_tasks(pipe: Connection, max_memory_bytes: int) -> None:
    """Runs in a worker of this machine: says that it is ready, then answers one task after the
    other until the pipe ends."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # whoever started it ends it
    _start_worker(max_memory_bytes)
    try:
        pipe.send(None)
        while True:
            pipe.send_bytes(_answered(pipe.recv_bytes()))
    except (EOFError, OSError):
        return


def _answered(task: bytes) -> bytes:
    """The answer to a pickled task, pickled too."""
    try:
        function: Callable[[], Any] = ForkingPickler.loads(task)
        return bytes(ForkingPickler.dumps(Answer(value=function())))
    except Exception as error:
        if not isinstance(error, LeanParcelError):
            error.add_note("".join(traceback.format_exception(error)))  # of the worker
        try:
            return bytes(ForkingPickler.dumps(Answer(error=error)))
        except Exception:  # an error of a library need not travel
            return bytes(ForkingPickler.dumps(Answer(error=RuntimeError(repr(error)))))


def _start_worker(max_memory_bytes: int) -> None:
    """Gives the server and the browser precedence, and readies it as `limit_worker` does."""
    Thread(target=_end_with_server, daemon=True).start()
    os.nice(_NICENESS)
    limit_worker(max_memory_bytes)


def limit_worker(max_memory_bytes: int) -> None:
    """Bounds the memory of the process, and loads the compiled kernels."""
    resource.setrlimit(resource.RLIMIT_AS, (max_memory_bytes, max_memory_bytes))
    pyvips.concurrency_set(1)
    pyvips.cache_set_max(0)
    warm_up()


def _end_with_server() -> None:
    """A worker whose server was killed would wait for its next task for ever."""
    server = multiprocessing.parent_process()
    if server:
        server.join()
        os._exit(1)


def warm_up() -> None:
    """Compiles the kernels where their cache is empty: about 15 s, once a machine."""
    black = np.zeros((16, 16, 3), np.uint8)
    Examiner(Reference(black)).examine(black + 1)
    over_background(np.zeros((16, 16, 4), np.uint8), "#ffffff")
    resampled(black, 8, 8, "lanczos3", "linear")
    resampled(black.astype(np.uint16), 8, 8, "lanczos3", "linear")
