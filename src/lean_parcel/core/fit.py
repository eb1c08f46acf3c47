"""Fitting: for a format and a byte limit, the candidate that looks best in its place.

Sans I/O: `search_format` is a generator that yields a Trial, is sent what was Measured of the real
encode, and returns its candidates. Modes (chroma) and pixel counts are searched together:

- Each pixel count is a Rung. Its `ceiling` is the likeness of its undamaged pixels after the
  browser's enlargement, and bounds what any encoder can reach there; a rung whose ceiling is below
  what was found already is not encoded.
- At full pixels every mode is searched; with fewer, the one that won.
- Rungs are descended until one no longer improves.
- A mode or rung is given up once it is over the limit and still no better than what was found.
- Where a format has drafts, cheap encodes of nearly the same bytes, a mode begins with one.

Every measurement in the outcome is of a real file. Within a rung and mode the step taken fits and
the next one was measured not to (see `search`).
"""

import math
from bisect import bisect_right
from collections.abc import Generator, Sequence
from dataclasses import dataclass, field

from lean_parcel.core.encode import Format, PngSettings, Settings, WebpSettings
from lean_parcel.core.scales import (
    Scale,
    avif_scale,
    jpeg_scale,
    palette_scale,
    webp_scale,
)
from lean_parcel.core.search import largest_fitting

#: Fractions of the framed width that a candidate may have.
PIXEL_RATIOS = (1.0, 0.75, 0.5, 0.35, 0.25)
#: No lossless file is tried where even this fraction of a quickly deflated PNG exceeds the limit.
#: The lowest seen were 0.28 (WebP) and 0.30 (PNG), for a scanned drawing (calibrate_curves.py).
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


FormatSearch = Generator[Trial, Measured, tuple[Candidate, ...]]
_Step = Generator[Trial, Measured, Candidate | None]


def search_format(
    name: Format, subject: Subject, limit_bytes: int, background: str
) -> FormatSearch:
    """The search in one format; returns its candidates, best first, at least one.

    The first fits if anything does. Where it has fewer pixels, the best at full pixels follows,
    if one fits. Where nothing fits there is one candidate, the smallest worth a look. No trial is
    asked for twice.
    """
    return _each_once(_search_of(name, subject, limit_bytes, background))


def _each_once(search: FormatSearch) -> FormatSearch:
    made: dict[Trial, Measured] = {}
    trial = next(search)
    while True:
        if trial not in made:
            made[trial] = yield trial
        try:
            trial = search.send(made[trial])
        except StopIteration as end:
            candidates: tuple[Candidate, ...] = end.value
            return candidates


def _search_of(name: Format, subject: Subject, limit_bytes: int, background: str) -> FormatSearch:
    match name:
        case "jpeg":
            scales = [jpeg_scale("4:2:0", background), jpeg_scale("4:4:4", background)]
            return _search_lossy(scales, subject, limit_bytes)
        case "avif":
            return _search_lossy([avif_scale("4:2:0"), avif_scale("4:4:4")], subject, limit_bytes)
        case "webp":
            lossless: Settings = WebpSettings(quality=75, lossless=True)
            return _search_lossless_first(lossless, webp_scale(), subject, limit_bytes)
        case "png":
            lossless = PngSettings(colours=None)
            return _search_lossless_first(lossless, palette_scale(), subject, limit_bytes)


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
    modes = scales
    learned = _Learned()
    for rung in subject.rungs:
        to_beat = best[-1].measured.likeness if best else -math.inf
        if rung.ceiling <= to_beat:
            break
        is_last = rung is subject.rungs[-1]
        win = yield from _best_mode(modes, rung, is_last, limit_bytes, to_beat, learned)
        if win:
            best.append(win.candidate)
            modes = [win.mode]
        elif best:
            break
    if not best:
        return ((yield from _smallest(scales[0], subject.rungs[-1], limit_bytes)),)
    at_full = [c for c in best[:-1] if c.trial.width_px == subject.rungs[0].width_px]
    return (best[-1], *at_full)


@dataclass(frozen=True, slots=True)
class _Win:
    """The best step of a mode at a pixel count."""

    mode: Scale
    candidate: Candidate


@dataclass(slots=True)
class _Learned:
    """How a photo's bytes in a format differ from the known curve, as the logarithm of the factor:
    what one search measured is where the next one starts. And the modes that were drafted."""

    shift: float = 0.0
    drafted: set[str] = field(default_factory=set)


def _best_mode(
    modes: Sequence[Scale],
    rung: Rung,
    is_last: bool,
    limit_bytes: int,
    to_beat: float,
    learned: _Learned,
) -> Generator[Trial, Measured, _Win | None]:
    """The best that fits at one pixel count, over modes, if its likeness is above `to_beat`; on the
    last rung any quality will do."""
    best: _Win | None = None
    for mode in modes:
        lowest = 0 if is_last else mode.lowest_worth_a_look
        if mode.draft and mode.name not in learned.drafted:
            yield from _make_draft(mode, rung, limit_bytes, learned)
        found = yield from _search_rung(mode, rung, limit_bytes, lowest, to_beat, learned)
        if found:
            best, to_beat = _Win(mode, found), found.measured.likeness
    return best


def _make_draft(
    scale: Scale, rung: Rung, limit_bytes: int, learned: _Learned
) -> Generator[Trial, Measured, None]:
    """One cheap encode where the limit is expected, which says where the dear ones begin."""
    assert scale.draft
    curve = scale.log_sizes(rung.probe_size_bytes)
    room = math.log(limit_bytes) - learned.shift
    step = max(0, bisect_right(curve, room) - 1)
    made = yield _trial(scale.draft(scale.qualities[step]), rung)
    learned.shift = math.log(made.size_bytes) - curve[step]
    learned.drafted.add(scale.name)


def _search_rung(
    scale: Scale, rung: Rung, limit_bytes: int, lowest: int, to_beat: float, learned: _Learned
) -> _Step:
    """The best step of a scale that fits, at one pixel count, from step `lowest` up, if its
    likeness is above `to_beat`.

    Given up as soon as a step is over the limit and still no better: what fits is below it.
    """
    curve = scale.log_sizes(rung.probe_size_bytes)[lowest:]
    steps = largest_fitting([value + learned.shift for value in curve], limit_bytes)
    measured: dict[int, Measured] = {}
    step = next(steps)
    while True:
        made = yield _trial(scale.settings(scale.qualities[lowest + step]), rung)
        measured[step] = made
        learned.shift = math.log(made.size_bytes) - curve[step]
        if made.size_bytes > limit_bytes and made.likeness <= to_beat:
            return None
        try:
            step = steps.send(made.size_bytes)
        except StopIteration as end:
            if end.value is None or measured[end.value].likeness <= to_beat:
                return None
            settings = scale.settings(scale.qualities[lowest + end.value])
            return _judged(_trial(settings, rung), measured[end.value], limit_bytes)


def _smallest(scale: Scale, rung: Rung, limit_bytes: int) -> Generator[Trial, Measured, Candidate]:
    """The smallest result worth a look."""
    trial = _trial(scale.settings(scale.qualities[scale.lowest_worth_a_look]), rung)
    return _judged(trial, (yield trial), limit_bytes)


def _search_lossless_first(
    lossless: Settings, scale: Scale, subject: Subject, limit_bytes: int
) -> FormatSearch:
    exact = yield from _try_lossless(lossless, subject, limit_bytes)
    if exact:
        return (exact,)
    return (yield from _search_lossy([scale], subject, limit_bytes))


def _try_lossless(settings: Settings, subject: Subject, limit_bytes: int) -> _Step:
    """The lossless file if it fits; not encoded where a quick deflate says that it cannot."""
    floor = LOSSLESS_FLOOR * subject.quick_png_size_bytes
    if floor > limit_bytes:
        return None
    trial = _trial(settings, subject.rungs[0])
    candidate = _judged(trial, (yield trial), limit_bytes)
    return candidate if candidate.within_limit else None


def _trial(settings: Settings, rung: Rung) -> Trial:
    return Trial(settings=settings, width_px=rung.width_px, height_px=rung.height_px)


def _judged(trial: Trial, measured: Measured, limit_bytes: int) -> Candidate:
    return Candidate(
        trial=trial, measured=measured, within_limit=measured.size_bytes <= limit_bytes
    )
