"""What a survey with drafts loses against searching every mode and pixel count in earnest.

Takes some minutes: `python -m benchmarks.survey_loss`.
"""

import itertools
import math
from collections.abc import Callable
from statistics import mean

from benchmarks.photos import demo_files
from lean_parcel.core.encode import FORMATS, Format
from lean_parcel.core.fit import search_format
from lean_parcel.core.framing import Framing
from lean_parcel.core.photo import Limits
from lean_parcel.core.place import Place
from lean_parcel.core.scales import Scale, scales_of
from lean_parcel.core.search import largest_fitting
from lean_parcel.core.trial import Measured, Rung, Subject, Trial, trial_at
from lean_parcel.work.tasks import Load, encode_task, frame_task, size_up_task, warm_up

WIDTH_PX = 320
#: Limits as fractions of the probe's bytes: tight, middling, generous.
LIMITS = (0.25, 0.5, 1.0)
BACKGROUND = "#ffffff"
Measure = Callable[[Trial], Measured]


def surveyed(name: Format, subject: Subject, limit_bytes: int, measure: Measure) -> float:
    """The likeness that the search in one format comes to."""
    search = search_format(name, subject, limit_bytes, BACKGROUND)
    trial = next(search)
    while True:
        try:
            trial = search.send(measure(trial))
        except StopIteration as end:
            candidate = end.value
            return candidate.measured.likeness if candidate.within_limit else -math.inf


def in_earnest(scale: Scale, rung: Rung, limit_bytes: int, measure: Measure) -> float:
    """The likeness of the largest step that fits, without a draft."""
    lowest = scale.lowest_worth_a_look
    steps = largest_fitting(scale.log_sizes(rung)[lowest:], limit_bytes)
    made: dict[int | None, float] = {None: -math.inf}
    step = next(steps)
    while True:
        measured = measure(trial_at(scale.settings(scale.qualities[lowest + step]), rung))
        made[step] = measured.likeness
        try:
            step = steps.send(measured.size_bytes)
        except StopIteration as end:
            return made[end.value]


def losses(data: bytes, name: str) -> dict[Format, list[float]]:
    """Likeness lost of one photo, a number for each limit."""
    framed = frame_task(data, name, Framing(), Place(css_width_px=WIDTH_PX), Limits())
    load = Load(pixels_png=framed.pixels_png)
    subject = size_up_task(load, framed.subject)
    known: dict[Trial, Measured] = {}

    def measure(trial: Trial) -> Measured:
        if trial not in known:
            known[trial] = encode_task(load, trial).measured
        return known[trial]

    lost: dict[Format, list[float]] = {each: [] for each in FORMATS}
    for fraction, each in itertools.product(LIMITS, FORMATS):
        limit_bytes = int(subject.rungs[0].probe_size_bytes * fraction)
        ours = surveyed(each, subject, limit_bytes, measure)
        scales = scales_of(
            each, BACKGROUND, is_transparent=subject.is_transparent, is_grey=subject.is_grey
        )
        best = max(
            in_earnest(scale, rung, limit_bytes, measure)
            for scale, rung in itertools.product(scales, subject.rungs)
            if rung.ceiling > ours or rung is subject.rungs[0]
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
