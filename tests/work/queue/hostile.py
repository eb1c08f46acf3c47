"""Tasks that go wrong, to be run in worker processes."""

import os
import time
from pathlib import Path

from lean_parcel.work.queue.pool import PoolSettings, WorkerPool


def die() -> None:
    os._exit(11)


def hang() -> None:
    time.sleep(60)


def eat_memory(size_bytes: int) -> int:
    return len(bytearray(size_bytes))


def fail() -> None:
    raise ValueError("a library's words")


def double(number: int) -> int:
    return number * 2


def die_and_count(runs: Path) -> None:
    """Dies every time, and leaves a line each time."""
    with runs.open("a") as lines:
        lines.write("once more\n")
    os._exit(11)


def die_once(marker: Path) -> str:
    """Dies, unless it has died before."""
    if not marker.exists():
        marker.touch()
        os._exit(11)
    return "survived"


def pool_of_one() -> None:
    """A server with one worker, whose process id it prints; it waits to be killed."""
    pool = WorkerPool(PoolSettings(workers=1))
    print(pool.submit(os.getpid).result(), flush=True)
    hang()
