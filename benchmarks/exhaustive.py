"""The joint search against trying everything: every step of every mode and pixel count that it may
take, in all four formats, at a small place."""

import itertools
from dataclasses import dataclass

from benchmarks.carrying_out import carry_out
from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.formats import FORMATS
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.source import Limits
from lean_parcel.core.search.ladder import SearchInput
from lean_parcel.core.search.modes import modes_of
from lean_parcel.core.search.search import search_in_format
from lean_parcel.work.tasks.encoder_input import EncoderInput
from lean_parcel.work.tasks.encoding import encode_task, measure_ladder_task
from lean_parcel.work.tasks.framing import frame_task

WIDTH_PX = 160
LIMITS_BYTES = (2_000, 5_000, 9_000)
BACKGROUND = "#ffffff"


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

    def __init__(self, encoder_input: EncoderInput) -> None:
        self._encoder_input = encoder_input
        self._known: dict[Trial, Measured] = {}

    def of(self, trial: Trial) -> Measured:
        if trial not in self._known:
            self._known[trial] = encode_task(self._encoder_input, trial).measured
        return self._known[trial]


def measure(files: dict[str, bytes]) -> list[Row]:
    """One row a photo and limit."""
    return [row for name, data in files.items() for row in _of_photo(name, data)]


def _of_photo(name: str, data: bytes) -> list[Row]:
    framed = frame_task(data, name, Framing(), Place(size=str(WIDTH_PX)), Limits())
    encoder_input = EncoderInput(pixels_png=framed.pixels_png)
    search_input = measure_ladder_task(encoder_input, framed.search_input)
    measurements = _Measurements(encoder_input)
    modes = [mode for each in FORMATS for mode in modes_of(each, search_input, BACKGROUND)]
    space = [
        mode.trial(step, rung)
        for mode, rung in itertools.product(modes, search_input.rungs)
        for step in range(len(mode.qualities))
    ]
    rows = []
    for limit_bytes in LIMITS_BYTES:
        fitting = [m for m in map(measurements.of, space) if m.size_bytes <= limit_bytes]
        ours, encodes = _searched(search_input, limit_bytes, measurements)
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


def _searched(
    search_input: SearchInput, limit_bytes: int, measurements: _Measurements
) -> tuple[float, int]:
    """The best likeness over all formats, and the encodes that were asked for."""
    aim = Aim(place=Place(size=str(WIDTH_PX)), limit_bytes=limit_bytes)
    best, all_encodes = float("-inf"), 0
    for name in FORMATS:
        search = search_in_format(name, search_input, aim, BACKGROUND)
        candidate, encodes = carry_out(search, measurements.of)
        all_encodes += encodes
        if candidate.meets_aim:
            best = max(best, candidate.measured.likeness)
    return best, all_encodes
