"""A 100-megapixel JPEG through one worker: seconds, and the most memory that the worker took."""

import io
import resource
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PIL import Image

from lean_parcel import demo
from lean_parcel.core.framing.framing import FIRST_FRAMING, Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.metadata.values import Credit
from lean_parcel.core.original.margins import photo_margins
from lean_parcel.core.original.source import Limits
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.orientation import ANTICLOCKWISE
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool
from lean_parcel.work.tasks.framing import frame_task
from lean_parcel.work.tasks.inspection import inspect_task

SIZE_PX = (12_240, 8_170)
MOST_MEMORY_BYTES = 1_500_000_000
_NAME = "large.jpg"
_PLACE = Place(size="1440", density=2)
_WORKED_ON = Framing(
    orientation=ANTICLOCKWISE,
    straighten_deg=2.0,
    crop=Box(left_px=500, top_px=500, width_px=7_000, height_px=11_000),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """What was done in a fresh worker, how long it took, and its peak of memory."""

    act: str
    seconds: float
    peak_bytes: int


def large_file() -> bytes:
    """A demo photo, tiled."""
    with Image.open(io.BytesIO(demo.original("speckled-glaze.jpg"))) as tile:
        canvas = Image.new("RGB", SIZE_PX)
        for top_px in range(0, SIZE_PX[1], tile.height):
            for left_px in range(0, SIZE_PX[0], tile.width):
                canvas.paste(tile, (left_px, top_px))
    out = io.BytesIO()
    canvas.save(out, "JPEG", quality=92)
    return out.getvalue()


def peak_memory_bytes() -> int:
    """The most that this process has had in memory."""
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024


def measure() -> list[Row]:
    """Each act in a worker of its own."""
    data = large_file()
    acts: dict[str, tuple[Callable[..., Any], tuple[Any, ...]]] = {
        "open and frame": (frame_task, (data, _NAME, FIRST_FRAMING, _PLACE, Limits())),
        "turn, crop, straighten": (frame_task, (data, _NAME, _WORKED_ON, _PLACE, Limits())),
        "inspect": (inspect_task, (data, _NAME, Credit(), Limits())),
        "find margins": (photo_margins, (data, _NAME, 1, Limits())),
    }
    return [_measured(act, function, arguments) for act, (function, arguments) in acts.items()]


def _measured(act: str, function: Callable[..., Any], arguments: tuple[Any, ...]) -> Row:
    pool = WorkerPool(PoolSettings(workers=1))
    try:
        pool.submit(peak_memory_bytes).result()
        start = time.perf_counter()
        pool.submit(function, *arguments).result()
        seconds = time.perf_counter() - start
        peak_bytes = pool.submit(peak_memory_bytes).result()
    finally:
        pool.shutdown(cancel_futures=True)
    return Row(act=act, seconds=seconds, peak_bytes=peak_bytes)
