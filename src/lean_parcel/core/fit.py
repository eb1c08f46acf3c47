"""Fitting: for a format and a byte limit, the candidate that looks best in its place.

Sans I/O: `search_format` is a generator that yields Trials, is sent what was Measured of the real
encodes, and returns its candidates. Modes (chroma) and pixel counts are searched together:

- Each pixel count is a Rung. Its `ceiling` is the likeness of its undamaged pixels after the
  browser's enlargement, and bounds what any encoder can reach there; a rung whose ceiling is below
  what was found already is not encoded.
- At full pixels every mode is searched, side by side; with fewer, the one that won.
- Rungs are descended until one no longer improves.
- A rung is given up once it is over the limit and still no better than what was found.
- Where a format has drafts, cheap encodes of nearly the same bytes, a mode begins with one.

Every measurement in the outcome is of a real file. Within a rung and mode the step taken fits and
the next one was measured not to (see `search`).
"""

import math
from bisect import bisect_right
from collections.abc import Generator, Sequence
from dataclasses import dataclass

from lean_parcel.core.encode import Format, Settings
from lean_parcel.core.scales import EXACT, Scale, scales_of
from lean_parcel.core.search import largest_fitting

#: Fractions of the framed width that a candidate may have.
PIXEL_RATIOS = (1.0, 0.75, 0.5, 0.35, 0.25)
#: No lossless file is tried where even this fraction of a quickly deflated PNG exceeds the limit.
#: The lowest seen were 0.28 (WebP, tried hardest) and 0.30 (PNG), for a scanned drawing.
LOSSLESS_FLOOR = 0.2


@dataclass(frozen=True, slots=True, kw_only=True)
class Rung:
    """A pixel count that a candidate may have."""

    width_px: int
    height_px: int
    probe_size_bytes: int
    ceiling: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Subject:
    """What a search knows of a framed photo: its rungs, most pixels first; whether any of it is
    transparent; and its size as a quickly deflated PNG."""

    rungs: tuple[Rung, ...]
    is_transparent: bool
    quick_png_size_bytes: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Trial:
    """An encode to be made: settings, and pixels sent."""

    settings: Settings
    width_px: int
    height_px: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Measured:
    """What a real encode came to: bytes, and likeness in its place."""

    size_bytes: int
    likeness: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Candidate:
    """A trial that is worth offering."""

    trial: Trial
    measured: Measured
    within_limit: bool


#: Yields trials that may be encoded side by side, and is sent what was measured of each.
FormatSearch = Generator[tuple[Trial, ...], tuple[Measured, ...], tuple[Candidate, ...]]
#: A part of a search that goes one trial at a time.
_Lane = Generator[Trial, Measured, Candidate | None]


def search_format(
    name: Format, subject: Subject, limit_bytes: int, background: str
) -> FormatSearch:
    """The search in one format; returns its candidates, best first, at least one.

    The first fits if anything does. Where it has fewer pixels, the best at full pixels follows,
    if one fits. Where nothing fits there is one candidate, the smallest worth a look. No trial is
    asked for twice.
    """
    return each_once(_search_of(name, subject, limit_bytes, background))


def each_once(search: FormatSearch) -> FormatSearch:
    """A search that is never asked for a trial twice."""
    made: dict[Trial, Measured] = {}
    trials = next(search)
    while True:
        new = tuple(dict.fromkeys(trial for trial in trials if trial not in made))
        if new:
            made.update(zip(new, (yield new), strict=True))
        try:
            trials = search.send(tuple(made[trial] for trial in trials))
        except StopIteration as end:
            candidates: tuple[Candidate, ...] = end.value
            return candidates


def _side_by_side(
    lanes: Sequence[_Lane],
) -> Generator[tuple[Trial, ...], tuple[Measured, ...], list[Candidate | None]]:
    """Runs lanes in step, and returns what each of them found."""
    found: list[Candidate | None] = [None] * len(lanes)
    trials = {index: next(lane) for index, lane in enumerate(lanes)}
    while trials:
        measured = yield tuple(trials.values())
        for index, made in zip(tuple(trials), measured, strict=True):
            try:
                trials[index] = lanes[index].send(made)
            except StopIteration as end:
                found[index] = end.value
                del trials[index]
    return found


def _search_of(name: Format, subject: Subject, limit_bytes: int, background: str) -> FormatSearch:
    scales = scales_of(name, background, is_transparent=subject.is_transparent)
    if name in EXACT:
        return _search_lossless_first(EXACT[name], scales, subject, limit_bytes)
    return _search_lossy(scales, subject, limit_bytes)


def best_first(candidates: Sequence[Candidate], subject: Subject) -> list[Candidate]:
    """Candidates in the order in which to offer them: what fits, then what keeps the transparency
    there is, then by likeness to two decimals, then by bytes; what does not fit, lightest first."""

    def order(candidate: Candidate) -> tuple[bool, bool, float, int]:
        loses_alpha = subject.is_transparent and candidate.trial.settings.format == "jpeg"
        likeness = round(candidate.measured.likeness, 2) if candidate.within_limit else 0.0
        return (
            not candidate.within_limit,
            loses_alpha,
            -likeness,
            candidate.measured.size_bytes,
        )

    return sorted(candidates, key=order)


def _search_lossy(scales: Sequence[Scale], subject: Subject, limit_bytes: int) -> FormatSearch:
    best: list[Candidate] = []
    modes = [_Mode(scale) for scale in scales]
    for rung in subject.rungs:
        to_beat = best[-1].measured.likeness if best else -math.inf
        if rung.ceiling <= to_beat:
            break
        any_quality = rung is subject.rungs[-1]
        lanes = [_search_rung(mode, rung, limit_bytes, any_quality, to_beat) for mode in modes]
        found = yield from _side_by_side(lanes)
        wins = [(won, mode) for won, mode in zip(found, modes, strict=True) if won]
        if wins:
            candidate, mode = max(wins, key=lambda win: win[0].measured.likeness)
            best.append(candidate)
            modes = [mode]
        elif best:
            break
    if not best:
        found = yield from _side_by_side([_smallest(scales[0], subject.rungs[-1], limit_bytes)])
        best = [candidate for candidate in found if candidate]
    at_full = [c for c in best[:-1] if c.trial.width_px == subject.rungs[0].width_px]
    return (best[-1], *at_full)


@dataclass(slots=True)
class _Mode:
    """A scale, and how a photo's bytes differ from its known curve, as the logarithm of the factor:
    what is measured at one pixel count is where the next one starts."""

    scale: Scale
    shift: float = 0.0
    is_drafted: bool = False


def _make_draft(mode: _Mode, rung: Rung, limit_bytes: int) -> Generator[Trial, Measured, None]:
    """One cheap encode where the limit is expected, which says where the dear ones begin."""
    scale = mode.scale
    if scale.draft is None or mode.is_drafted:
        return
    curve = scale.log_sizes(rung.probe_size_bytes)
    step = max(0, bisect_right(curve, math.log(limit_bytes)) - 1)
    made = yield trial_at(scale.draft(scale.qualities[step]), rung)
    mode.shift = math.log(made.size_bytes) - curve[step]
    mode.is_drafted = True


def _search_rung(
    mode: _Mode, rung: Rung, limit_bytes: int, any_quality: bool, to_beat: float
) -> _Lane:
    """The best step of a mode that fits, at one pixel count, if its likeness is above `to_beat`;
    from the lowest step worth a look, or from the lowest.

    Given up as soon as a step is over the limit and still no better: what fits is below it.
    """
    yield from _make_draft(mode, rung, limit_bytes)
    scale = mode.scale
    lowest = 0 if any_quality else scale.lowest_worth_a_look
    curve = scale.log_sizes(rung.probe_size_bytes)[lowest:]
    steps = largest_fitting([value + mode.shift for value in curve], limit_bytes)
    measured: dict[int, Measured] = {}
    step = next(steps)
    while True:
        made = yield trial_at(scale.settings(scale.qualities[lowest + step]), rung)
        measured[step] = made
        mode.shift = math.log(made.size_bytes) - curve[step]
        if made.size_bytes > limit_bytes and made.likeness <= to_beat:
            return None
        try:
            step = steps.send(made.size_bytes)
        except StopIteration as end:
            if end.value is None or measured[end.value].likeness <= to_beat:
                return None
            settings = scale.settings(scale.qualities[lowest + end.value])
            return _judged(trial_at(settings, rung), measured[end.value], limit_bytes)


def _smallest(scale: Scale, rung: Rung, limit_bytes: int) -> _Lane:
    """The smallest result worth a look."""
    trial = trial_at(scale.settings(scale.qualities[scale.lowest_worth_a_look]), rung)
    return _judged(trial, (yield trial), limit_bytes)


def _search_lossless_first(
    lossless: Settings, scales: Sequence[Scale], subject: Subject, limit_bytes: int
) -> FormatSearch:
    if LOSSLESS_FLOOR * subject.quick_png_size_bytes <= limit_bytes:
        exact, *_ = yield from _side_by_side([_try_lossless(lossless, subject, limit_bytes)])
        if exact:
            return (exact,)
    return (yield from _search_lossy(scales, subject, limit_bytes))


def _try_lossless(settings: Settings, subject: Subject, limit_bytes: int) -> _Lane:
    """The lossless file, if it fits."""
    trial = trial_at(settings, subject.rungs[0])
    candidate = _judged(trial, (yield trial), limit_bytes)
    return candidate if candidate.within_limit else None


def trial_at(settings: Settings, rung: Rung) -> Trial:
    """Settings at a pixel count."""
    return Trial(settings=settings, width_px=rung.width_px, height_px=rung.height_px)


def _judged(trial: Trial, measured: Measured, limit_bytes: int) -> Candidate:
    return Candidate(
        trial=trial, measured=measured, within_limit=measured.size_bytes <= limit_bytes
    )
