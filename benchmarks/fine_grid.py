"""The search against a finer grid: every mode at seven pixel counts, each fitted to the aim by
bisection over measured steps.

The grid does what the search cannot afford. How much of what is lost is chance is told by another
grid as fine, at the pixel counts between: that loses against the first one too. Pictures that
`calibrate_search` was trained on, and pictures that were kept out, apart:
`python -m benchmarks.fine_grid`; with names of files, those alone, at 600 px, none of them trained
on.
"""

import math
import sys
from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from multiprocessing import get_context
from pathlib import Path
from statistics import mean

import numpy as np

from benchmarks.calibrate_search import SEEDS, TRAINED_ON, WIDTH_PX
from benchmarks.carrying_out import carry_out
from benchmarks.photos import demo_files, framed
from benchmarks.pictures import pictures
from lean_parcel.core.arrays import U8
from lean_parcel.core.candidates.ranking import judged, ranked
from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.framing.place import Place
from lean_parcel.core.picture.serialisation import lossless_png
from lean_parcel.core.search.ladder import Rung, SearchInput, rung_between
from lean_parcel.core.search.modes import Mode, modes_of
from lean_parcel.core.search.search import search_in_format
from lean_parcel.core.search.sizing import first_input, measured_input
from lean_parcel.work.tasks.encoder_input import EncoderInput, reference_of
from lean_parcel.work.tasks.encoding import encode_task

RATIOS = (1.0, 0.92, 0.85, 0.75, 0.65, 0.5, 0.35)
#: Those of the other grid.
RATIOS_BETWEEN = (1.0, 0.96, 0.88, 0.8, 0.7, 0.57, 0.42)
#: Limits as fractions of the probe's bytes, tight and generous; and likenesses.
LIMITS, LIKENESSES = (0.3, 0.8), (80.0, 90.0)
BACKGROUND = "#ffffff"
#: Below this likeness a picture is ruined, and differences mean little.
RUINED = 30
#: Of pictures that are given by name.
GIVEN_PX = 600


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """What a format came to under an aim, by the search, by the grid and by the grid between, and
    the encodes that the search took."""

    picture: str
    format: Format
    aim: Aim
    found: Measured
    best: Measured
    between: Measured | None
    trials: int

    def lost(self, of: Measured) -> float:
        """What was lost against the grid, below zero where it was won: points of likeness under a
        limit, per cent of the bytes under a likeness."""
        if self.aim.likeness is None:
            return self.best.likeness - of.likeness
        return 100 * (of.size_bytes / self.best.size_bytes - 1)


class _Picture:
    """A picture, and what was measured of it, each trial once."""

    def __init__(self, pixels: U8) -> None:
        self._encoder_input = EncoderInput(pixels_png=lossless_png(pixels))
        self._made: dict[Trial, Measured] = {}
        first = first_input(pixels, len(self._encoder_input.pixels_png))
        self.search_input: SearchInput = measured_input(reference_of(self._encoder_input), first)

    def measure(self, trial: Trial) -> Measured:
        if trial not in self._made:
            self._made[trial] = encode_task(self._encoder_input, trial).measured
        return self._made[trial]

    def rung(self, ratio: float) -> Rung:
        rungs = self.search_input.rungs
        return rung_between(rungs, round(rungs[0].width_px * ratio))


def measure(name: str, pixels: U8) -> list[Row]:
    """One row an aim and format that can do what is aimed for."""
    picture = _Picture(pixels)
    place = Place(size=str(pixels.shape[1]))
    probe = picture.search_input.rungs[0].probe_size_bytes
    aims = [Aim(place=place, limit_bytes=int(probe * each)) for each in LIMITS]
    aims += [Aim(place=place, likeness=each) for each in LIKENESSES]
    rows = []
    for aim in aims:
        for each in FORMATS:
            best = _best_of_grid(picture, each, aim, RATIOS)
            between = _best_of_grid(picture, each, aim, RATIOS_BETWEEN)
            search = search_in_format(each, picture.search_input, aim, BACKGROUND)
            found, trials = carry_out(search, picture.measure)
            if best and found.meets_aim:
                rows.append(
                    Row(
                        picture=name,
                        format=each,
                        aim=aim,
                        found=found.measured,
                        best=best,
                        between=between,
                        trials=trials,
                    )
                )
    return rows


def _best_of_grid(
    picture: _Picture, name: Format, aim: Aim, ratios: Sequence[float]
) -> Measured | None:
    modes = modes_of(name, picture.search_input, BACKGROUND)
    fitted = [
        candidate
        for ratio in ratios
        for mode in modes
        if (candidate := _fitted(picture, mode, picture.rung(ratio), aim))
    ]
    return ranked(fitted, aim)[0].measured if fitted else None


def _fitted(picture: _Picture, mode: Mode, rung: Rung, aim: Aim) -> Candidate | None:
    """The largest step that fits, or the lowest that looks so; None where there is none."""
    steps = range(len(mode.qualities))

    def measured(step: int) -> Measured:
        return picture.measure(mode.trial(step, rung))

    if aim.limit_bytes is not None:
        step = bisect_right(steps, aim.limit_bytes, key=lambda at: measured(at).size_bytes) - 1
    else:
        assert aim.likeness is not None
        step = bisect_left(steps, aim.likeness, key=lambda at: measured(at).likeness)
    if step not in steps:
        return None
    candidate = judged(mode.trial(step, rung), measured(step), aim)
    return candidate if candidate.meets_aim else None


def table(rows: Iterable[Row]) -> str:
    """A line a kind of aim and format, and one for all formats."""
    rows = list(rows)
    lines = []
    for unit, of_kind in (
        ("points lost", [row for row in rows if row.aim.likeness is None]),
        ("% more bytes", [row for row in rows if row.aim.likeness is not None]),
    ):
        for name in (*FORMATS, "all"):
            own = [row for row in of_kind if name in (row.format, "all")]
            if not own:
                continue
            seen = [row for row in own if row.best.likeness >= RUINED]
            lost = [row.lost(row.found) for row in own]
            seen_lost = [row.lost(row.found) for row in seen] or [math.nan]
            by_chance = [row.lost(row.between) for row in seen if row.between] or [math.nan]
            lines.append(
                f"{name:5s} {len(own):4d} fits: {mean(lost):+.2f} {unit} on average,"
                f" {max(lost):.2f} at worst, {max(seen_lost):.2f} where not ruined"
                f" (the grid between {mean(by_chance):+.2f}, {max(by_chance):.2f});"
                f" {mean(row.trials for row in own):.1f} encodes,"
                f" {max(row.trials for row in own)} at most"
            )
    return "\n".join(lines)


def sets() -> dict[str, dict[str, U8]]:
    """The pictures, by whether calibration was trained on them."""
    files = demo_files()
    demo = {name: framed(data, name, WIDTH_PX) for name, data in files.items()}
    made_up = {name: np.asarray(pixels) for name, pixels in pictures().items()}
    trained = {name for name in made_up if name[-1] in SEEDS} | set(TRAINED_ON)
    both = {**demo, **made_up}
    return {
        "kept out": {name: each for name, each in both.items() if name not in trained},
        "trained on": {name: each for name, each in both.items() if name in trained},
    }


def main() -> None:
    """All sets, and every fit that lost more than a point, or 5 % of the bytes."""
    given = [Path(each) for each in sys.argv[1:]]
    chosen = {"given": {p.name: framed(p.read_bytes(), p.name, GIVEN_PX) for p in given}}
    for title, of in (chosen if given else sets()).items():
        with ProcessPoolExecutor(mp_context=get_context("spawn")) as pool:
            rows = [row for part in pool.map(measure, of, of.values()) for row in part]
        print(f"{title}\n{table(rows)}")
        for row in sorted(rows, key=lambda row: -row.lost(row.found)):
            if row.lost(row.found) > (1 if row.aim.likeness is None else 5):
                aim = row.aim.likeness or f"{row.aim.limit_bytes} bytes"
                print(
                    f"  {row.picture}, {row.format}, {aim}: {row.found.likeness:.1f} at"
                    f" {row.found.size_bytes} B, {row.best.likeness:.1f} at"
                    f" {row.best.size_bytes} B by the grid"
                )


if __name__ == "__main__":
    main()
