"""A batch of thirty photos with one worker, two and four, and with the workers of a cluster on the
same machine: how long it takes, and what memory the server and its workers have at a third, two
thirds, and the end of it."""

import io
import tempfile
import time
from concurrent.futures import Executor
from dataclasses import dataclass
from pathlib import Path

import psutil
from distributed import LocalCluster
from PIL import Image

from benchmarks.pictures import pictures
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.source import Limits
from lean_parcel.work.queue.cluster import ClusterPool
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool
from lean_parcel.work.workspace import Workspace

PHOTOS = 30
AIM = Aim(place=Place(size="400"), limit_bytes=25_000)


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """With so many workers: the seconds of the batch, and the memory on the way."""

    workers: int
    is_cluster: bool
    seconds: float
    memory_bytes: list[int]


def files() -> dict[str, bytes]:
    """Thirty made-up pictures as PNG."""
    made = {}
    for name, pixels in list(pictures().items())[:PHOTOS]:
        out = io.BytesIO()
        Image.fromarray(pixels).save(out, "PNG")
        made[name] = out.getvalue()
    return made


def measure(counts: tuple[int, ...] = (1, 2, 4)) -> list[Row]:
    """The same photos with each of these numbers of workers, of the server's own and of Dask's."""
    chosen = files()
    rows = []
    for workers in counts:
        own = WorkerPool(PoolSettings(workers=workers))
        rows.append(_measured(chosen, own, workers, is_cluster=False))
    for workers in counts:
        with LocalCluster(n_workers=workers, threads_per_worker=1, dashboard_address=":0") as there:
            settings = PoolSettings()
            joined = ClusterPool(
                there.scheduler_address,
                max_memory_bytes=settings.max_memory_bytes,
                max_task_s=settings.max_task_s,
            )
            rows.append(_measured(chosen, joined, workers, is_cluster=True))
    return rows


def _measured(chosen: dict[str, bytes], pool: Executor, workers: int, *, is_cluster: bool) -> Row:
    try:
        list(pool.map(len, [[]] * 2 * workers))
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "bench.sqlite3"
            workspace = Workspace(path, pool, Limits(), slots=workers)
            ids = []
            for name, data in chosen.items():
                ids.append(workspace.adding.add_photo(name, data, aim=AIM))
                workspace.deciding.stop_search(ids[-1])
            start = time.perf_counter()
            workspace.selections.weigh(ids)
            memory_bytes = _watched(workspace)
            seconds = time.perf_counter() - start
            workspace.close()
    finally:
        pool.shutdown(cancel_futures=True)
    return Row(workers=workers, is_cluster=is_cluster, seconds=seconds, memory_bytes=memory_bytes)


def _watched(workspace: Workspace) -> list[int]:
    """Memory when a third, two thirds and all of the batch have ended."""
    found: list[int] = []
    (page,) = workspace.page_viewing.layout().pages
    while len(found) < 3:
        batch = workspace.batches.view(page.id)
        assert batch
        if batch.ended >= (len(found) + 1) * len(batch.photo_ids) // 3:
            found.append(_memory_bytes())
        else:
            time.sleep(0.05)
    return found


def _memory_bytes() -> int:
    """Of this process and its workers, shared pages counted in each."""
    process = psutil.Process()
    return sum(each.memory_info().rss for each in (process, *process.children(recursive=True)))
