"""How long a person waits: from adding a photo to its first candidate and to all of them, and from
turning a knob to its answer. With two workers, through the workspace, at a 1000 px place."""

import tempfile
import time
from dataclasses import dataclass, replace
from pathlib import Path

from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.settings import AvifSettings, JpegSettings, WebpSettings
from lean_parcel.core.formats import Format
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.source import Limits
from lean_parcel.core.picture.box import Box
from lean_parcel.work.photos.tuning import Wanted
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool
from lean_parcel.work.workspace import Workspace

AIM = Aim(place=Place(size="1000"), limit_bytes=100_000)
DRAGGED_FORMATS: tuple[Format, ...] = ("jpeg", "webp", "avif")
#: How far a marker is dragged from what the search found.
DRAGGED_BY = (-9, -5, -3, 2)
#: What a pane of a stage shows at actual pixels, on a screen of 1280 by 800.
IN_SIGHT = Box(left_px=300, top_px=200, width_px=430, height_px=420)


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """Seconds of one photo; and milliseconds from each drag to the part in sight, and to the file,
    by format."""

    photo: str
    first_s: float
    all_s: float
    drags_ms: dict[Format, list[float]]
    real_drags_ms: dict[Format, list[float]]


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
    photo_id = workspace.adding.add_photo(name, data, aim=AIM)
    first_s = 0.0
    seen = -1
    while True:
        view = workspace.viewing.photo(photo_id)
        if view.encodes.made and not first_s:
            first_s = time.perf_counter() - start
        if view.search.state != "running":
            break
        seen = workspace.changes.wait(seen, 10).version
    all_s = time.perf_counter() - start
    found = {encode.trial.settings.format: encode.trial for encode in view.encodes.candidates}
    drags = {
        kind: [_drag_ms(workspace, photo_id, found[kind], by) for by in DRAGGED_BY]
        for kind in DRAGGED_FORMATS
    }
    return Row(
        photo=name,
        first_s=first_s,
        all_s=all_s,
        drags_ms={kind: [first for first, _ in pairs] for kind, pairs in drags.items()},
        real_drags_ms={kind: [real for _, real in pairs] for kind, pairs in drags.items()},
    )


def _drag_ms(workspace: Workspace, photo_id: int, found: Trial, by: int) -> tuple[float, float]:
    settings = found.settings
    assert isinstance(settings, JpegSettings | WebpSettings | AvifSettings)
    turned = replace(settings, quality=min(98, max(1, settings.quality + by)))
    wanted = Wanted(photo_id=photo_id, settings=turned, width_px=found.width_px)
    start = time.perf_counter()
    workspace.tuning.glimpse(wanted, IN_SIGHT)
    glimpse_ms = (time.perf_counter() - start) * 1000
    tuned = workspace.tuning.encode(wanted)
    workspace.files.encoded(tuned.encode.id)
    return glimpse_ms, (time.perf_counter() - start) * 1000
