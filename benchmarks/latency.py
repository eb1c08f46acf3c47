"""How long a person waits: from adding a photo to its first candidate and to all of them, and from
turning a knob to its answer. With two workers, through the workspace, at a 1000 px place."""

import tempfile
import time
from dataclasses import dataclass
from pathlib import Path

from lean_parcel.core.aim import Aim
from lean_parcel.core.encode import (
    AvifSettings,
    Format,
    JpegSettings,
    Settings,
    WebpSettings,
)
from lean_parcel.core.photo import Limits
from lean_parcel.core.place import Place
from lean_parcel.work.pool import PoolSettings, WorkerPool
from lean_parcel.work.workspace import Workspace

AIM = Aim(place=Place(css_width_px=1000), limit_bytes=100_000)
DRAGGED: dict[Format, tuple[Settings, ...]] = {
    "jpeg": tuple(JpegSettings(quality=q, chroma="4:2:0") for q in (33, 52, 71, 87)),
    "webp": tuple(WebpSettings(quality=q) for q in (33, 52, 71, 87)),
    "avif": tuple(AvifSettings(quality=q, chroma="4:2:0") for q in (33, 52, 71, 83)),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """Seconds of one photo, and milliseconds of each answer to a drag, by format."""

    photo: str
    stored_s: float
    first_s: float
    all_s: float
    drags_ms: dict[Format, list[float]]


def measure(files: dict[str, bytes]) -> list[Row]:
    """One photo after the other, in a fresh workspace with warm workers."""
    pool = WorkerPool(PoolSettings())
    try:
        list(pool.map(len, [[]] * 4))
        with tempfile.TemporaryDirectory() as folder:
            workspace = Workspace(Path(folder) / "bench.sqlite3", pool, Limits())
            rows = [_measured(workspace, name, data) for name, data in files.items()]
            workspace.close()
    finally:
        pool.shutdown(cancel_futures=True)
    return rows


def _measured(workspace: Workspace, name: str, data: bytes) -> Row:
    start = time.perf_counter()
    photo_id = workspace.add_photo(name, data, aim=AIM)
    stored_s = time.perf_counter() - start
    first_s = 0.0
    seen = -1
    while True:
        weighing = workspace.weighing(photo_id)
        if weighing.encodes and not first_s:
            first_s = time.perf_counter() - start
        if weighing.search.state != "running":
            break
        seen, _ = workspace.changes.wait(seen, 10)
    all_s = time.perf_counter() - start
    drags_ms = {
        kind: [_drag_ms(workspace, photo_id, settings) for settings in several]
        for kind, several in DRAGGED.items()
    }
    return Row(photo=name, stored_s=stored_s, first_s=first_s, all_s=all_s, drags_ms=drags_ms)


def _drag_ms(workspace: Workspace, photo_id: int, settings: Settings) -> float:
    start = time.perf_counter()
    encode = workspace.tuner.encode(photo_id, settings, None)
    workspace.encoded_file(encode.id)
    return (time.perf_counter() - start) * 1000
