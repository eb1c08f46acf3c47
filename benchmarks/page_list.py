"""How long the list of all photos takes, and one row of it, as the pages grow."""

import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from statistics import median

from benchmarks.latency import AIM
from benchmarks.waiting_photos import small_png
from lean_parcel.core.original.source import Limits
from lean_parcel.web.app import create_app
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool
from lean_parcel.work.workspace import Workspace

_TIMES = 9


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """With so many photos: the answer with all of them, and the row of one."""

    photos: int
    list_ms: float
    list_bytes: int
    row_ms: float


def measure(counts: tuple[int, ...]) -> list[Row]:
    """Adds photos of 64 x 48 pixels, and asks at each of these counts, once all searches ended."""
    pool = WorkerPool(PoolSettings())
    rows = []
    try:
        with tempfile.TemporaryDirectory() as folder:
            workspace = Workspace(Path(folder) / "bench.sqlite3", pool, Limits())
            aim = replace(AIM, formats=("jpeg", "webp"))
            for number in range(max(counts)):
                workspace.adding.add_photo(f"{number}.png", small_png(number), aim=aim)
                if number + 1 in counts:
                    rows.append(_row(workspace, number + 1))
            workspace.close()
    finally:
        pool.shutdown(cancel_futures=True)
    return rows


def _row(workspace: Workspace, photos: int) -> Row:
    while any(p.search_state == "running" for p in workspace.page_viewing.pages().photos.values()):
        time.sleep(0.2)
    client = create_app(workspace, Limits()).test_client()
    return Row(
        photos=photos,
        list_ms=_median_ms(lambda: client.get("/api/pages")),
        list_bytes=len(client.get("/api/pages").data),
        row_ms=_median_ms(lambda: client.get(f"/api/photos/{photos}/row")),
    )


def _median_ms(act: Callable[[], object]) -> float:
    times_ms = []
    for _ in range(_TIMES):
        start = time.perf_counter()
        act()
        times_ms.append((time.perf_counter() - start) * 1000)
    return median(times_ms)
