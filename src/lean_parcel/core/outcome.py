"""What came of a search, in a sentence or two."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from lean_parcel.core.frontier import frontier
from lean_parcel.core.size import format_size
from lean_parcel.core.trial import Candidate, Measured, Subject

#: The likeness from which on damage is hard to spot.
HARD_TO_SPOT = 80.0
#: Likeness from which on words hold (see docs/metrics.md), and the words.
LEVELS = (
    (90.0, "no visible change"),
    (HARD_TO_SPOT, "hard to spot"),
    (70.0, "visible if you look"),
    (50.0, "plain to see"),
)
_NAMES = {"jpeg": "JPEG", "png": "PNG", "webp": "WebP", "avif": "AVIF"}
_SHARES = (
    (0.9, "full"),
    (0.62, "three quarters of the"),
    (0.42, "half the"),
    (0.3, "a third of the"),
)
#: An estimate this many times beyond what was measured is none.
_FURTHEST = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Enough:
    """The bytes that would be enough for the next level of likeness; an estimate, where no encode
    has reached it yet."""

    words: str
    limit_bytes: int
    is_estimate: bool


def explain(candidates: Sequence[Candidate], subject: Subject, original_bytes: int) -> str:
    """What wins and why, from candidates in the order in which they are offered; empty without."""
    if not candidates or not candidates[0].within_limit:
        return ""
    return " ".join(_sentences(candidates, subject, original_bytes))


def _sentences(
    candidates: Sequence[Candidate], subject: Subject, original_bytes: int
) -> Iterator[str]:
    is_kept = candidates[0].trial.is_kept
    if is_kept:
        size = format_size(original_bytes)
        yield f"Keep the original: at {size} it fits its place as it came, and nothing is lost."
        candidates = candidates[1:]
        if not candidates or not candidates[0].within_limit:
            return
    best = candidates[0]
    yield f"{_name(best)} at {_pixels(best, subject)} pixels {'comes next' if is_kept else 'wins'}."
    fitting = {c.trial.settings.format: c for c in reversed(candidates) if c.within_limit}
    full = {name for name, c in fitting.items() if _is_full(c, subject)}
    fewer = [c for name, c in fitting.items() if name not in full and c is not best]
    if fewer:
        needed = " and ".join(f"{_name(c)} ({_pixels(c, subject)} pixels)" for c in fewer)
        yield f"To look their best within the limit, these send fewer: {needed}."
    missing = [c for c in candidates if c.trial.settings.format not in fitting]
    if missing:
        yield f"{' and '.join(_name(c) for c in missing)} cannot fit."
    if not is_kept and original_bytes <= best.measured.size_bytes:
        yield f"The original is lighter still, at {format_size(original_bytes)}."


def _name(candidate: Candidate) -> str:
    return _NAMES[candidate.trial.settings.format]


def _is_full(candidate: Candidate, subject: Subject) -> bool:
    return candidate.trial.width_px == subject.rungs[0].width_px


def _pixels(candidate: Candidate, subject: Subject) -> str:
    share = candidate.trial.width_px / subject.rungs[0].width_px
    return next((words for least, words in _SHARES if share >= least), "a quarter of the")


def enough_for_next_level(points: Sequence[Measured], best: Measured) -> Enough | None:
    """How many bytes would lift the best within a limit to the next level of likeness: the lightest
    that was measured there, or else along the last stretch of the frontier, in likeness over the
    logarithm of bytes. None at the highest level, or where nothing rises."""
    above = [level for level in LEVELS if level[0] > best.likeness]
    if not above:
        return None
    likeness, words = above[-1]
    reaching = [p.size_bytes for p in points if p.likeness >= likeness]
    if reaching:
        return Enough(words=words, limit_bytes=_rounded_up(min(reaching)), is_estimate=False)
    line = [points[index] for index in frontier(points)]
    if len(line) < 2:
        return None
    low, high = line[-2], line[-1]
    rise = (high.likeness - low.likeness) / math.log(high.size_bytes / low.size_bytes)
    bytes_needed = high.size_bytes * math.exp((likeness - high.likeness) / rise)
    if bytes_needed > _FURTHEST * high.size_bytes:
        return None
    return Enough(words=words, limit_bytes=_rounded_up(bytes_needed), is_estimate=True)


def _rounded_up(size_bytes: float) -> int:
    return math.ceil(size_bytes / 100) * 100
