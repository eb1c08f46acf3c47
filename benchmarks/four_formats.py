"""A four-format fit of one photo, against plain bisection with Pillow's default encoders."""

import io
import time
from bisect import bisect_right
from collections.abc import Callable
from concurrent.futures import Executor
from dataclasses import dataclass

from PIL import Image

from benchmarks.fitting import fit_file
from benchmarks.photos import framed
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.framing.place import Place
from lean_parcel.core.likeness.reference import Reference
from lean_parcel.core.picture.serialisation import decode

WIDTH_PX = 1000
STEPS: dict[Format, range] = {
    "jpeg": range(1, 96),
    "webp": range(101),
    "avif": range(101),
    "png": range(2, 257),
}


@dataclass(frozen=True, slots=True)
class Row:
    """One photo: seconds and best likeness of each way, and the likeness won in each format."""

    photo: str
    limit_bytes: int
    ours_s: float
    bisection_s: float
    ours_likeness: float
    bisection_likeness: float
    won: dict[str, float]


def pillow_file(pixels: Image.Image, name: Format, quality: int) -> bytes:
    """A file as Pillow makes it when only quality (PNG: colours) is given."""
    out = io.BytesIO()
    if name == "png":
        pixels.quantize(quality).save(out, "PNG")
    else:
        pixels.save(out, name.upper(), quality=quality)
    return out.getvalue()


def bisect_task(photo: bytes, photo_name: str, name: Format, limit_bytes: int) -> float:
    """Likeness of the best of one format by bisection; framing and the final check included."""
    pixels = framed(photo, photo_name, WIDTH_PX)
    image, steps = Image.fromarray(pixels), STEPS[name]
    files: dict[int, bytes] = {}

    def size_bytes(step: int) -> int:
        files[step] = pillow_file(image, name, steps[step])
        return len(files[step])

    fitting = bisect_right(range(len(steps)), limit_bytes, key=size_bytes) - 1
    return Reference(pixels).likeness(decode(files[max(0, fitting)]))


def measure(executor: Executor, photo: bytes, photo_name: str, limit_bytes: int) -> Row:
    """Both ways, one after the other, on the same workers."""
    ours: dict[str, float] = {}
    aim = Aim(place=Place(size=str(WIDTH_PX)), limit_bytes=limit_bytes)

    def fit() -> None:
        for offer in reversed(fit_file(executor, photo_name, photo, aim).offers):
            ours[offer.encode.trial.settings.format] = offer.encode.measured.likeness

    theirs: dict[str, float] = {}

    def bisect() -> None:
        tasks = {
            name: executor.submit(bisect_task, photo, photo_name, name, limit_bytes)
            for name in FORMATS
        }
        theirs.update({name: task.result() for name, task in tasks.items()})

    ours_s, bisection_s = seconds(fit), seconds(bisect)
    return Row(
        photo_name,
        limit_bytes,
        ours_s,
        bisection_s,
        max(ours.values()),
        max(theirs.values()),
        {name: ours[name] - theirs[name] for name in FORMATS},
    )


def seconds(work: Callable[[], None]) -> float:
    """How long something takes."""
    start = time.perf_counter()
    work()
    return time.perf_counter() - start
