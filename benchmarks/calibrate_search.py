"""Fits what a search expects of an average picture, and how far pictures differ from it; prints
`core/search/calibrated.py`.

Half of the demo photos and of the made-up pictures are trained on; the others, and every picture
from elsewhere, are kept out, for `fine_grid`. Curves are means over the pictures with all pixels,
as they depend on grain, by least squares; the priors of the two processes have the highest marginal
likelihood (Rasmussen and Williams 2006, 5.4.1); the power at which damages add is that at which the
damage of encoding differs least between pixel counts. Run it after a change of an encoder's version
or settings, or with a new mode: `python -m benchmarks.calibrate_search`.
"""

import math
import time
from collections import defaultdict
from collections.abc import Callable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import astuple, dataclass, fields
from functools import partial
from multiprocessing import get_context

import numpy as np
from scipy.optimize import minimize, minimize_scalar

from benchmarks.photos import demo_files, framed
from benchmarks.pictures import pictures
from lean_parcel.core.arrays import F64, U8
from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.picture.serialisation import lossless_png
from lean_parcel.core.search.ladder import PartTrial, SearchInput, rung_between
from lean_parcel.core.search.modes import may_draft, modes_of
from lean_parcel.core.search.picture_model import LEAST_DAMAGE, softness
from lean_parcel.core.search.process import Points, Prior, Process
from lean_parcel.core.search.sizing import first_input, measured_input
from lean_parcel.work.tasks.encoder_input import EncoderInput, reference_of
from lean_parcel.work.tasks.encoding import encode_task, weigh_part_task

TRAINED_ON = (
    "bottle-cutout.png",
    "bowl-sketch-scan.jpg",
    "dusk-window.jpg",
    "kiln-night.jpg",
    "opening-hours.jpg",
    "shelves-phone.jpg",
)
#: Those that drafts of a part are tried on, at 1600 px.
LARGE = TRAINED_ON[2:]
#: Seeds of made-up pictures that are trained on.
SEEDS = "02"
WIDTH_PX, LARGE_PX = 480, 1600
WIDTHS = (1.0, 0.85, 0.7, 0.5, 0.35)
QUALITIES: dict[Format, tuple[int, ...]] = {
    "jpeg": (1, 10, 20, 30, 45, 60, 75, 85, 92, 96, 100),
    "webp": (0, 10, 20, 40, 60, 75, 85, 92, 97, 100),
    "avif": (0, 5, 15, 25, 35, 45, 55, 65, 75, 85, 93, 98, 100),
    "png": (2, 4, 8, 16, 32, 64, 128, 256),
}
#: Encodes of a picture that a prior is fitted to.
_SAMPLE = 45
#: Points of likeness left to the ceiling, as a share, from which on the damage of encoding is told
#: from that of missing pixels.
_TELLING = 1.1
#: A picture that a curve hardly tells of counts as so much against its slope with grain.
_RIDGE = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """An encode: its mode, quality and width over all pixels', log bytes over the probe's,
    likeness, the ceiling of its rung, and seconds a megapixel sent."""

    mode: str
    quality: int
    ratio: float
    log_bytes: float
    likeness: float
    ceiling: float
    seconds: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Picture:
    """What was measured of a picture; `grain` is its log PNG bytes over the probe's."""

    name: str
    grain: float
    rows: list[Row]


Measure = Callable[[EncoderInput, Trial], tuple[Measured, float]]


def measured(encoder_input: EncoderInput, trial: Trial) -> tuple[Measured, float]:
    """What a trial comes to, and its CPU seconds."""
    start = time.process_time()
    if isinstance(trial, PartTrial):
        return weigh_part_task(encoder_input, trial), time.process_time() - start
    return encode_task(encoder_input, trial).measured, time.process_time() - start


def picture(name: str, pixels: U8, measure: Measure = measured) -> Picture:
    """All modes of a picture, at five widths."""
    encoder_input, search_input = _inputs(pixels)
    rungs = search_input.rungs
    rows = []
    for each in FORMATS:
        for mode in modes_of(each, search_input, "#ffffff"):
            for quality in _qualities(each, mode.qualities):
                for ratio in WIDTHS if len(mode.qualities) > 1 else WIDTHS[:1]:
                    rung = rung_between(rungs, round(rungs[0].width_px * ratio))
                    trial = mode.trial(mode.qualities.index(quality), rung)
                    came_to, seconds = measure(encoder_input, trial)
                    rows.append(
                        Row(
                            mode=mode.name,
                            quality=quality,
                            ratio=ratio,
                            log_bytes=math.log(came_to.size_bytes / rung.probe_size_bytes),
                            likeness=came_to.likeness,
                            ceiling=rung.ceiling,
                            seconds=seconds / (rung.width_px * rung.height_px / 1e6),
                        )
                    )
    grain = math.log(rungs[0].quick_png_size_bytes / rungs[0].probe_size_bytes)
    return Picture(name=name, grain=grain, rows=rows)


def _inputs(pixels: U8) -> tuple[EncoderInput, SearchInput]:
    encoder_input = EncoderInput(pixels_png=lossless_png(pixels))
    first = first_input(pixels, len(encoder_input.pixels_png))
    return encoder_input, measured_input(reference_of(encoder_input), first)


def _qualities(name: Format, steps: Sequence[int]) -> list[int]:
    """The steps at or above those that are measured."""
    wanted = QUALITIES[name] if len(steps) > 1 else steps
    return [next(step for step in steps if step >= each) for each in wanted]


def power(photos: Sequence[Picture]) -> float:
    """The power at which damages add."""

    def spread(at: float) -> float:
        by_encode = defaultdict(list)
        for photo in photos:
            for row in photo.rows:
                if row.likeness > 20 and _tells(row):
                    log_damage = _log_damage(row.likeness, row.ceiling, at)
                    by_encode[photo.name, row.mode, row.quality].append(log_damage)
        return math.sqrt(np.mean([np.var(each) for each in by_encode.values() if len(each) > 1]))

    return round(float(minimize_scalar(spread, bounds=(1, 3), method="bounded").x), 1)


def _tells(row: Row) -> bool:
    return row.ratio == 1 or 100 - row.likeness > _TELLING * (100 - row.ceiling)


def _log_damage(likeness: float, ceiling: float, at: float) -> float:
    """The natural logarithm of the damage of encoding."""
    of_encoding = (100 - likeness) ** at - (100 - ceiling) ** at
    return math.log(max(of_encoding, LEAST_DAMAGE**at)) / at


def curves(
    photos: Sequence[Picture], usual_grain: float, at: float
) -> dict[str, list[tuple[int, float, float, float, float]]]:
    """By mode: quality, log bytes and how they rise with grain, log damage and the same of that."""
    by_step = defaultdict(list)
    for photo in photos:
        for row in photo.rows:
            if row.ratio == 1:
                log_damage = _log_damage(row.likeness, row.ceiling, at)
                values = (1.0, photo.grain - usual_grain, row.log_bytes, log_damage)
                by_step[row.mode, row.quality].append(values)
    fitted = defaultdict(list)
    for (mode, quality), told in by_step.items():
        features, targets = np.split(np.array(told), 2, axis=1)
        squares = features.T @ features + np.diag([0, _RIDGE])
        bytes_, damage = np.linalg.solve(squares, features.T @ targets).T
        fitted[mode].append((quality, *bytes_, *damage))
    return fitted


def priors(
    photos: Sequence[Picture],
    fitted: dict[str, list[tuple[int, float, float, float, float]]],
    usual_grain: float,
    at: float,
) -> dict[Format, tuple[Prior, Prior]]:
    """The priors of bytes and damage, by format."""
    middle = middle_of(fitted)
    chance = np.random.default_rng(1)
    found = {}
    for name in FORMATS:
        residuals: tuple[list[_Residuals], list[_Residuals]] = ([], [])
        for photo in photos:
            rows = [row for row in photo.rows if row.mode.split()[0] == name and _is_inside(row)]
            of_bytes = [_residual(row, photo, fitted, usual_grain, middle) for row in rows]
            of_damage = [
                (
                    *point,
                    _log_damage(row.likeness, row.ceiling, at)
                    - _on_curve(fitted, row, photo, usual_grain)[1],
                )
                for row, (*point, _) in zip(rows, of_bytes, strict=True)
                if _tells(row)
            ]
            for into, values in zip(residuals, (of_bytes, of_damage), strict=True):
                into.append(_Residuals.of(chance.permutation(np.array(values))[:_SAMPLE]))
        found[name] = _most_likely(residuals[0]), _most_likely(residuals[1])
        print(f"# {name}: {found[name]}", flush=True)
    return found


def _is_inside(row: Row) -> bool:
    """Whether an encode is none at the end of a scale, where encoders do something else, as without
    loss."""
    qualities = QUALITIES[next(name for name in FORMATS if name == row.mode.split()[0])]
    return qualities[0] < row.quality < qualities[-1] and "lossless" not in row.mode


def middle_of(fitted: dict[str, list[tuple[int, float, float, float, float]]]) -> float:
    """The middle of all curves, from which distances count."""
    return round(float(np.mean([knot[1] for curve in fitted.values() for knot in curve])), 2)


def _on_curve(
    fitted: dict[str, list[tuple[int, float, float, float, float]]],
    row: Row,
    photo: Picture,
    usual_grain: float,
) -> tuple[float, float, float]:
    """Log bytes and log damage that are expected, and the curve's own log bytes."""
    knot = next(each for each in fitted[row.mode] if each[0] == row.quality)
    grain = photo.grain - usual_grain
    return knot[1] + knot[2] * grain, knot[3] + knot[4] * grain, knot[1]


def _residual(
    row: Row,
    photo: Picture,
    fitted: dict[str, list[tuple[int, float, float, float, float]]],
    usual_grain: float,
    middle: float,
) -> tuple[float, ...]:
    expected, _, on_curve = _on_curve(fitted, row, photo, usual_grain)
    mode = float(list(fitted).index(row.mode))
    return (
        mode,
        on_curve - middle,
        math.log(row.ratio),
        softness(row.ceiling),
        row.log_bytes - expected,
    )


@dataclass(frozen=True, slots=True)
class _Residuals:
    """Some encodes of a picture: where they lie, and by how much they differ."""

    points: Points
    values: F64

    @classmethod
    def of(cls, table: F64) -> "_Residuals":
        return cls(Points(*table[:, :4].T), table[:, 4])


def _most_likely(pictures_: Sequence[_Residuals]) -> Prior:
    """The prior of the highest marginal likelihood."""
    start = np.log([0.2, 0.15, 0.3, 0.2, 0.2, 0.1, 0.1, 0.2, 0.7, 0.2, 0.03])
    bounds = [(-5, 1.5)] * 8 + [(-2, 1.5), (-3, 1), (-6, -0.5)]
    unlikely = partial(_unlikelihood, pictures_)
    best = minimize(unlikely, start, method="L-BFGS-B", bounds=bounds, options={"maxiter": 40})
    return _prior(best.x)


def _prior(logs: F64) -> Prior:
    names = [each.name for each in fields(Prior)]
    return Prior(**{n: round(float(v), 3) for n, v in zip(names, np.exp(logs), strict=True)})


def _unlikelihood(pictures_: Sequence[_Residuals], logs: F64) -> float:
    """The negative logarithm of the marginal likelihood (Rasmussen and Williams 2006, 2.30)."""
    names = [each.name for each in fields(Prior)]
    prior = Prior(**dict(zip(names, np.exp(logs), strict=True)))
    total = 0.0
    for each in pictures_:
        process = Process(prior, each.points)
        count = len(each.values)
        covariance = np.array([process.covariance(point) for point in range(count)])
        try:
            lower = np.linalg.cholesky(covariance + prior.noise**2 * np.eye(count))
        except np.linalg.LinAlgError:
            return 1e9
        total += 0.5 * float(np.sum(np.linalg.solve(lower, each.values) ** 2))
        total += float(np.log(np.diag(lower)).sum())
    return total


def errors_of_drafts(
    file: str, at: float, measure: Measure = measured
) -> dict[Format, list[tuple[float, float]]]:
    """By format: the errors of parts of a large picture, of log bytes and of log damage."""
    encoder_input, search_input = _inputs(framed(demo_files()[file], file, LARGE_PX))
    errors = defaultdict(list)
    for name in FORMATS:
        less = may_draft(name, search_input)
        for mode in modes_of(name, search_input, "#ffffff"):
            for quality in _qualities(name, mode.qualities)[3:-3:2]:
                for rung in search_input.rungs[:2]:
                    step = mode.qualities.index(quality)
                    whole, _ = measure(encoder_input, mode.trial(step, rung))
                    part = mode.part_trial(step, rung, with_less_effort=less)
                    drafted, _ = measure(encoder_input, part)
                    off, on = (
                        _log_damage(each.likeness, rung.ceiling, at) for each in (drafted, whole)
                    )
                    of_bytes = math.log(drafted.size_bytes / whole.size_bytes)
                    errors[name].append((of_bytes, off - on))
    return dict(errors)


def _spread(pictures_: Sequence[Sequence[tuple[float, float]]]) -> list[tuple[float, float, float]]:
    means = np.array([np.mean(each, axis=0) for each in pictures_])
    within = np.sqrt(np.mean([np.var(each, axis=0) for each in pictures_], axis=0))
    return [
        (round(mean, 3), round(shared, 3), round(own, 3))
        for mean, shared, own in zip(means.mean(0), means.std(0), within, strict=True)
    ]


def module(
    photos: Sequence[Picture],
    at: float,
    drafted: Sequence[dict[Format, list[tuple[float, float]]]],
) -> str:
    """The text of `calibrated.py`."""
    usual_grain = round(float(np.mean([photo.grain for photo in photos])), 3)
    fitted = curves(photos, usual_grain, at)
    found = priors(photos, fitted, usual_grain, at)
    seconds = defaultdict(list)
    for photo in photos:
        for row in photo.rows:
            if row.ratio == 1:
                seconds[row.mode].append(row.seconds)
    lines = [_HEAD.format(power=at, middle=middle_of(fitted), grain=usual_grain)]
    for mode, knots in fitted.items():
        lines.append(f'    "{mode}": [')
        lines += [f"        ({q}, {', '.join(f'{v:.3f}' for v in knot)})," for q, *knot in knots]
        lines.append("    ],")
    lines.append("}\n\n" + _SECONDS)
    lines += [f'    "{mode}": {np.median(each):.2f},' for mode, each in seconds.items()]
    lines.append("}\n\n" + _PRIORS)
    for name, both in found.items():
        lines.append(f'    "{name}": (')
        lines += [f"        _prior{astuple(each)}," for each in both]
        lines.append("    ),")
    lines.append("}\n\n" + _DRAFTS)
    for name in FORMATS:
        lines.append(f'    "{name}": (')
        spread = _spread([each[name] for each in drafted])
        lines += [f"        DraftError(mean={m}, shared={s}, own={o})," for m, s, o in spread]
        lines.append("    ),")
    return "\n".join([*lines, "}\n"])


_HEAD = '''"""What a search expects of an average picture, and how far pictures differ from it.
They only choose what is encoded first: what is offered is measured.

Printed by `benchmarks/calibrate_search.py`, which says how each is fitted, and to what.
"""

from lean_parcel.core.formats import Format
from lean_parcel.core.search.process import DraftError, Prior

#: Damages of missing pixels and of encoding add to this power.
POWER = {power}
#: The middle of all curves, from which distances on them count.
MIDDLE = {middle}
#: Log bytes of a quickly deflated PNG over the probe's, on average.
USUAL_GRAIN = {grain}
#: By mode: quality, log bytes over the probe's, how they rise with grain; log damage of encoding,
#: and how that does.
CURVES: dict[str, list[tuple[int, float, float, float, float]]] = {{'''
_SECONDS = """#: Seconds that an encode of a megapixel takes, with its likeness, as calibrated.
SECONDS_A_MEGAPIXEL: dict[str, float] = {"""
_PRIORS = '''
def _prior(*deviations: float) -> Prior:
    """A prior of its values in order."""
    return Prior(**dict(zip(Prior.__slots__, deviations, strict=True)))


#: The priors of bytes and of damage.
PRIORS: dict[Format, tuple[Prior, Prior]] = {'''
_DRAFTS = """#: What drafts of a part get wrong, in bytes and in damage.
DRAFT_ERRORS: dict[Format, tuple[DraftError, DraftError]] = {"""


def training() -> dict[str, U8]:
    """The pictures that are trained on, by name."""
    files = demo_files()
    photos = {name: framed(files[name], name, WIDTH_PX) for name in TRAINED_ON}
    made_up = {name: np.asarray(each) for name, each in pictures().items() if name[-1] in SEEDS}
    return {**photos, **made_up}


def main() -> None:
    """Measures, fits, and prints."""
    chosen = training()
    with ProcessPoolExecutor(mp_context=get_context("spawn")) as pool:
        photos = list(pool.map(picture, chosen, chosen.values()))
        at = power(photos)
        drafted = list(pool.map(partial(errors_of_drafts, at=at), LARGE))
    print(module(photos, at, drafted))


if __name__ == "__main__":
    main()
