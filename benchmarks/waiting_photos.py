"""What photos cost that wait for their turn: threads and file descriptors of the server's process,
before the first is added and after the last."""

import io
import os
import tempfile
import threading
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PIL import Image

from benchmarks.latency import AIM
from lean_parcel.core.original.source import Limits
from lean_parcel.store import searches
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool
from lean_parcel.work.workspace import Workspace


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """The process while so many photos wait or are searched."""

    waiting: int
    threads: int
    descriptors: int


def measure(photos: int) -> list[Row]:
    """Adds photos of 64 x 48 pixels to a fresh workspace, faster than two workers search them."""
    pool = WorkerPool(PoolSettings())
    try:
        list(pool.map(len, [[]] * 4))
        with tempfile.TemporaryDirectory() as folder:
            workspace = Workspace(Path(folder) / "bench.sqlite3", pool, Limits())
            rows = [_row(workspace)]
            for seed in range(photos):
                workspace.adding.add_photo(f"{seed}.png", small_png(seed), aim=AIM)
            rows.append(_row(workspace))
            workspace.close()
    finally:
        pool.shutdown(cancel_futures=True)
    return rows


def _row(workspace: Workspace) -> Row:
    with workspace.context.connection() as connection:
        waiting = len(searches.running(connection))
    descriptors = len(os.listdir("/proc/self/fd"))
    return Row(waiting=waiting, threads=threading.active_count(), descriptors=descriptors)


def small_png(seed: int) -> bytes:
    """A PNG of 64 x 48 pixels of noise."""
    pixels = np.random.default_rng(seed).integers(0, 256, (48, 64, 3), np.uint8)
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG")
    return out.getvalue()
