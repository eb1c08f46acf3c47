"""How a worker process starts."""

import multiprocessing
import os
import resource
from threading import Thread

import numpy as np
import pyvips

from lean_parcel.core.damage.examine import Examiner
from lean_parcel.core.likeness.reference import Reference
from lean_parcel.core.picture.pixels import over_background
from lean_parcel.core.picture.resample import resampled

_NICENESS = 10


def start_worker(max_memory_bytes: int) -> None:
    """Runs first in a worker of this machine: gives the server and the browser precedence, and
    readies it as `limit_worker` does."""
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
