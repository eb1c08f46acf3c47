"""The joint search against trying everything: every step of every mode and pixel count that it may
take, in all four formats, at a small place."""

import itertools
from dataclasses import dataclass

from lean_parcel.core.encode import FORMATS
from lean_parcel.core.fit import search_format
from lean_parcel.core.framing import Framing
from lean_parcel.core.photo import Limits
from lean_parcel.core.place import Place
from lean_parcel.core.scales import scales_of
from lean_parcel.core.trial import Measured, Subject, Trial, trial_at
from lean_parcel.work.tasks import Load, encode_task, frame_task, size_up_task

WIDTH_PX = 160
LIMITS_BYTES = (2_000, 5_000, 9_000)
BACKGROUND = "#ffffff"
SCALES = tuple(
    scale
    for name in FORMATS
    for scale in scales_of(name, BACKGROUND, is_transparent=False, is_grey=False)
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """A limit: the best likeness of each way, and the encodes that they took."""

    photo: str
    limit_bytes: int
    ours: float
    exhaustive: float
    our_encodes: int
    all_encodes: int


class _Measurements:
    """What was measured of a photo, each encode made once."""

    def __init__(self, load: Load) -> None:
        self._load = load
        self._known: dict[Trial, Measured] = {}

    def of(self, trial: Trial) -> Measured:
        if trial not in self._known:
            self._known[trial] = encode_task(self._load, trial).measured
        return self._known[trial]


def measure(files: dict[str, bytes]) -> list[Row]:
    """One row a photo and limit."""
    return [row for name, data in files.items() for row in _of_photo(name, data)]


def _of_photo(name: str, data: bytes) -> list[Row]:
    framed = frame_task(data, name, Framing(), Place(css_width_px=WIDTH_PX), Limits())
    load = Load(pixels_png=framed.pixels_png)
    subject = size_up_task(load, framed.subject)
    measurements = _Measurements(load)
    space = [
        trial_at(scale.settings(quality), rung)
        for scale, rung in itertools.product(SCALES, subject.rungs)
        for quality in scale.qualities
    ]
    rows = []
    for limit_bytes in LIMITS_BYTES:
        fitting = [m for m in map(measurements.of, space) if m.size_bytes <= limit_bytes]
        ours, encodes = _searched(subject, limit_bytes, measurements)
        rows.append(
            Row(
                photo=name,
                limit_bytes=limit_bytes,
                ours=ours,
                exhaustive=max(m.likeness for m in fitting),
                our_encodes=encodes,
                all_encodes=len(space),
            )
        )
    return rows


def _searched(subject: Subject, limit_bytes: int, measurements: _Measurements) -> tuple[float, int]:
    """The best likeness over all formats, and the encodes that were asked for."""
    best, encodes = float("-inf"), 0
    for name in FORMATS:
        search = search_format(name, subject, limit_bytes, BACKGROUND)
        trial = next(search)
        while True:
            encodes += 1
            try:
                trial = search.send(measurements.of(trial))
            except StopIteration as end:
                if end.value.within_limit:
                    best = max(best, end.value.measured.likeness)
                break
    return best, encodes
