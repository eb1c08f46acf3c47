"""The search by limit against a finer grid: every mode at seven pixel counts, each fitted to the
limit by measured steps.

The grid does what the search cannot afford. How much of what is lost is chance is told by another
grid as fine, at the pixel counts between: that loses against the first one too. Two sets: the demo
photos, on which constants were set, and made-up pictures of other kinds (`pictures`), on which
rules were chosen. Takes half an hour: `python -m benchmarks.fine_grid`.
"""

import math
from collections.abc import Iterable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from multiprocessing import get_context
from statistics import mean

import numpy as np

from benchmarks.carrying_out import carry_out
from benchmarks.photos import demo_files, framed
from benchmarks.pictures import pictures
from lean_parcel.core.arrays import U8
from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.picture.serialisation import lossless_png
from lean_parcel.core.search.bracket import SizeBracket
from lean_parcel.core.search.by_limit.search import search_by_limit
from lean_parcel.core.search.ladder import Rung, SearchInput, rung_between
from lean_parcel.core.search.scales import Scale, scales_of
from lean_parcel.core.search.sizing import first_input, measured_input
from lean_parcel.work.tasks.encoder_input import EncoderInput, reference_of
from lean_parcel.work.tasks.encoding import encode_task

WIDTH_PX = 480
RATIOS = (1.0, 0.92, 0.85, 0.75, 0.65, 0.5, 0.35)
#: Those of the other grid.
RATIOS_BETWEEN = (1.0, 0.96, 0.88, 0.8, 0.7, 0.57, 0.42)
#: Limits as fractions of the probe's bytes: tight and generous.
LIMITS = (0.3, 0.8)
BACKGROUND = "#ffffff"
#: Below this likeness a picture is ruined, and differences mean little.
RUINED = 30


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """What a format came to at a limit, by the search, by the grid and by the grid between, and the
    encodes and drafts that the search took."""

    picture: str
    format: Format
    limit_bytes: int
    found: Measured
    best: Measured
    between: Measured | None
    trials: int

    @property
    def lost(self) -> float:
        """Likeness lost against the grid; nothing where the search did better."""
        return max(0.0, self.best.likeness - self.found.likeness)

    @property
    def lost_between(self) -> float | None:
        """The same of the grid between; None where nothing fits in that."""
        return max(0.0, self.best.likeness - self.between.likeness) if self.between else None


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
    """One row a limit and format in which anything fits."""
    picture = _Picture(pixels)
    rows = []
    for fraction in LIMITS:
        limit_bytes = int(picture.search_input.rungs[0].probe_size_bytes * fraction)
        for each in FORMATS:
            best = _best_of_grid(picture, each, limit_bytes, RATIOS)
            between = _best_of_grid(picture, each, limit_bytes, RATIOS_BETWEEN)
            search = search_by_limit(each, picture.search_input, limit_bytes, BACKGROUND)
            found, trials = carry_out(search, picture.measure)
            if best and found.meets_aim:
                rows.append(
                    Row(
                        picture=name,
                        format=each,
                        limit_bytes=limit_bytes,
                        found=found.measured,
                        best=best,
                        between=between,
                        trials=trials,
                    )
                )
    return rows


def _best_of_grid(
    picture: _Picture, name: Format, limit_bytes: int, ratios: Sequence[float]
) -> Measured | None:
    search_input = picture.search_input
    scales = scales_of(name, search_input, BACKGROUND)
    fitting = [
        fitted
        for ratio in ratios
        for scale in scales
        if (fitted := _fitted(picture, scale, picture.rung(ratio), limit_bytes))
    ]
    return max(fitting, key=lambda each: each.likeness, default=None)


def _fitted(picture: _Picture, scale: Scale, rung: Rung, limit_bytes: int) -> Measured | None:
    """The largest step that fits, of those worth offering."""
    bracket = SizeBracket(scale.log_sizes(rung), limit_bytes, lowest=scale.lowest_step)
    made: dict[int | None, Measured] = {}
    while (step := bracket.next_step()) is not None:
        made[step] = picture.measure(scale.trial(step, rung))
        bracket.add(step, made[step].size_bytes)
    return made.get(bracket.best)


def table(rows: Iterable[Row]) -> str:
    """A line a format, and one for all."""
    rows = list(rows)
    lines = []
    for name in (*FORMATS, "all"):
        own = [row for row in rows if name in (row.format, "all")]
        seen = [row for row in own if row.best.likeness >= RUINED]
        seen_lost = [row.lost for row in seen] or [math.nan]
        by_chance = [row.lost_between for row in seen if row.lost_between is not None] or [math.nan]
        lines.append(
            f"{name:5s} {len(own):4d} fits: {mean(r.lost for r in own):.2f} lost on average,"
            f" {max(r.lost for r in own):.2f} at worst,"
            f" {max(seen_lost):.2f} where not ruined"
            f" (the grid between {mean(by_chance):.2f}, {max(by_chance):.2f});"
            f" {mean(r.trials for r in own):.1f} trials, {max(r.trials for r in own)} at most;"
            f" {mean(r.found.size_bytes / r.limit_bytes for r in own):.1%} of the limit used"
        )
    return "\n".join(lines)


def main() -> None:
    """Both sets, and every fit that lost more than a point."""
    demo = {name: framed(data, name, WIDTH_PX) for name, data in demo_files().items()}
    made_up = {name: np.asarray(pixels) for name, pixels in pictures().items()}
    for title, chosen in (("demo photos", demo), ("made-up pictures", made_up)):
        with ProcessPoolExecutor(mp_context=get_context("spawn")) as pool:
            rows = [row for part in pool.map(measure, chosen, chosen.values()) for row in part]
        print(f"{title}\n{table(rows)}")
        for row in sorted(rows, key=lambda row: -row.lost):
            if row.lost > 1:
                print(
                    f"  {row.picture}, {row.format}, {row.limit_bytes} bytes:"
                    f" {row.found.likeness:.1f}, {row.best.likeness:.1f} by the grid"
                )


if __name__ == "__main__":
    main()
