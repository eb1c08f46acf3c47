"""A large delivery: how long it takes to read what goes out, and what an archive of it takes of
time and memory while it is sent."""

import tempfile
import time
from dataclasses import dataclass
from pathlib import Path

import psutil

from lean_parcel import demo
from lean_parcel.core.decisions.acts import Act, pick
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.variants import Variants
from lean_parcel.core.framing.place import Place
from lean_parcel.core.likeness.levels import NO_CHANGE
from lean_parcel.core.original.source import Limits
from lean_parcel.core.page import page_acts
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool
from lean_parcel.work.workspace import Workspace

_PHOTO = "dusk-window.jpg"


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """Photos and their files; milliseconds to read what goes out; the archive's bytes, seconds, and
    by how much memory grew at the most while it was made."""

    photos: int
    files: int
    plan_ms: float
    zip_bytes: int
    zip_s: float
    grown_bytes: int


def measure(photos: int) -> Row:
    """One photo many times, so that it is encoded once: large files, two formats, two densities."""
    pool = WorkerPool(PoolSettings())
    try:
        with tempfile.TemporaryDirectory() as folder:
            workspace = Workspace(Path(folder) / "bench.sqlite3", pool, Limits())
            _fill(workspace, photos)
            row = _row(workspace, photos)
            workspace.close()
            return row
    finally:
        pool.shutdown(cancel_futures=True)


def _fill(workspace: Workspace, photos: int) -> None:
    variants = Variants(densities=(1,), formats=("webp", "jpeg"))
    aim = Aim(
        place=Place(size="1440 × 600", density=2),
        limit_bytes=900_000,
        likeness=NO_CHANGE,
        formats=("webp", "jpeg"),
        variants=variants,
    )
    data = demo.original(_PHOTO)
    ids = [workspace.adding.add_photo(_PHOTO, data, aim=aim) for _ in range(photos)]
    while any(p.search_state == "running" for p in workspace.page_viewing.pages().photos.values()):
        time.sleep(0.2)
    best = {i: row.best for i, row in workspace.page_viewing.rows(ids).items()}
    acts: dict[int, Act] = {i: pick(encode.id) for i, encode in best.items() if encode}
    workspace.page_editing.do(page_acts.together("Took all"), acts)
    while workspace.planning.page(1).running:
        time.sleep(0.2)


def _row(workspace: Workspace, photos: int) -> Row:
    start = time.perf_counter()
    delivery = workspace.planning.page(1)
    plan_ms = (time.perf_counter() - start) * 1000
    process = psutil.Process()
    before = most = process.memory_info().rss
    zip_bytes, start = 0, time.perf_counter()
    for piece in workspace.sending.zipped(1):
        zip_bytes += len(piece)
        most = max(most, process.memory_info().rss)
    return Row(
        photos=photos,
        files=len(delivery.files),
        plan_ms=plan_ms,
        zip_bytes=zip_bytes,
        zip_s=time.perf_counter() - start,
        grown_bytes=most - before,
    )
