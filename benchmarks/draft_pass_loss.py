"""What the draft pass loses against searching every mode and pixel count at full effort.

Takes some minutes: `python -m benchmarks.draft_pass_loss`.
"""

import itertools
import math
from statistics import mean

from benchmarks.carrying_out import Measure, carry_out
from benchmarks.photos import demo_files
from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.source import Limits
from lean_parcel.core.search.bracket import SizeBracket
from lean_parcel.core.search.by_limit import search_by_limit
from lean_parcel.core.search.ladder import Rung, SearchInput
from lean_parcel.core.search.scales import Scale, scales_of
from lean_parcel.work.tasks.encoder_input import EncoderInput
from lean_parcel.work.tasks.encoding import encode_task
from lean_parcel.work.tasks.framing import frame_task
from lean_parcel.work.tasks.ladder import measure_ladder_task
from lean_parcel.work.tasks.worker import warm_up

WIDTH_PX = 320
#: Limits as fractions of the probe's bytes: tight, middling, generous.
LIMITS = (0.25, 0.5, 1.0)
BACKGROUND = "#ffffff"


def with_drafts(
    name: Format, search_input: SearchInput, limit_bytes: int, measure: Measure
) -> float:
    """The likeness that the search in one format comes to."""
    search = search_by_limit(name, search_input, limit_bytes, BACKGROUND)
    candidate, _ = carry_out(search, measure)
    return candidate.measured.likeness if candidate.meets_aim else -math.inf


def without_drafts(scale: Scale, rung: Rung, limit_bytes: int, measure: Measure) -> float:
    """The likeness of the largest step of a mode and pixel count that fits."""
    bracket = SizeBracket(scale.log_sizes(rung), limit_bytes, lowest=scale.lowest_step)
    likeness: dict[int | None, float] = {None: -math.inf}
    while (step := bracket.next_step()) is not None:
        measured = measure(scale.trial(step, rung))
        likeness[step] = measured.likeness
        bracket.add(step, measured.size_bytes)
    return likeness[bracket.best]


def losses(data: bytes, name: str) -> dict[Format, list[float]]:
    """Likeness lost of one photo, a number for each limit."""
    framed = frame_task(data, name, Framing(), Place(css_width_px=WIDTH_PX), Limits())
    encoder_input = EncoderInput(pixels_png=framed.pixels_png)
    search_input = measure_ladder_task(encoder_input, framed.search_input)
    known: dict[Trial, Measured] = {}

    def measure(trial: Trial) -> Measured:
        if trial not in known:
            known[trial] = encode_task(encoder_input, trial).measured
        return known[trial]

    lost: dict[Format, list[float]] = {each: [] for each in FORMATS}
    for fraction, each in itertools.product(LIMITS, FORMATS):
        limit_bytes = int(search_input.rungs[0].probe_size_bytes * fraction)
        ours = with_drafts(each, search_input, limit_bytes, measure)
        scales = scales_of(
            each,
            BACKGROUND,
            is_transparent=search_input.is_transparent,
            is_grey=search_input.is_grey,
        )
        best = max(
            without_drafts(scale, rung, limit_bytes, measure)
            for scale, rung in itertools.product(scales, search_input.rungs)
            if rung.ceiling > ours or rung is search_input.rungs[0]
        )
        lost[each].append(max(0.0, best - ours))
    return lost


def main() -> None:
    """One line a photo, and one a format."""
    warm_up()
    all_lost: dict[Format, list[float]] = {each: [] for each in FORMATS}
    for name, data in demo_files().items():
        for each, lost in losses(data, name).items():
            all_lost[each] += lost
            print(f"{name} {each}: {', '.join(f'{value:.1f}' for value in lost)}", flush=True)
    for each, values in all_lost.items():
        print(f"{each}: {mean(values):.2f} on average, {max(values):.2f} at most")


if __name__ == "__main__":
    main()
