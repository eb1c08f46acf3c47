"""What came of a search, in a sentence or two."""

from collections.abc import Iterator, Sequence

from lean_parcel.core.candidates.trial import Candidate
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.settings import PassThrough
from lean_parcel.core.formats import FORMAT_NAMES, enumerated
from lean_parcel.core.size import format_size

_FOR_LIMIT = "look their best within the limit"
_FOR_LIKENESS = "look that alike in the fewest bytes"


def summarise(
    candidates: Sequence[Candidate], aim: Aim, full_width_px: int, original_bytes: int
) -> str:
    """What wins and why, from ranked candidates; empty where none meets the aim. `full_width_px`
    is the width of the framed photo."""
    if not candidates or not candidates[0].meets_aim:
        return ""
    return " ".join(_sentences(candidates, aim, full_width_px, original_bytes))


def _sentences(
    candidates: Sequence[Candidate], aim: Aim, full_width_px: int, original_bytes: int
) -> Iterator[str]:
    is_original_first = candidates[0].trial.is_pass_through
    if is_original_first:
        yield _original(candidates[0])
        candidates = [each for each in candidates if not each.trial.is_pass_through]
        if not candidates or not candidates[0].meets_aim:
            return
    best = candidates[0]
    place = "comes next" if is_original_first else "wins"
    yield f"{_name(best)} at {_pixels(best, full_width_px)} {place}."
    fitting = {c.trial.settings.format: c for c in reversed(candidates) if c.meets_aim}
    full = {name for name, c in fitting.items() if _is_full(c, full_width_px)}
    fewer = [c for name, c in fitting.items() if name not in full and c is not best]
    if fewer:
        needed = enumerated(f"{_name(c)} ({_pixels(c, full_width_px)})" for c in fewer)
        is_enough = aim.is_enough(best.measured.likeness)
        purpose = _FOR_LIKENESS if is_enough else _FOR_LIMIT
        yield f"To {purpose}, these send fewer: {needed}."
    missing = [c for c in candidates if c.trial.settings.format not in fitting]
    if missing:
        failure = "cannot look that alike" if aim.limit_bytes is None else "cannot fit"
        yield f"{enumerated(_name(c) for c in missing)} {failure}."
    if not is_original_first and original_bytes <= best.measured.size_bytes:
        yield f"The original is lighter still, at {format_size(original_bytes)}."


def _original(candidate: Candidate) -> str:
    size, settings = format_size(candidate.measured.size_bytes), candidate.trial.settings
    assert isinstance(settings, PassThrough)
    if settings.repacked:
        return f"Keep the original, repacked: at {size} it fits, and not a pixel of it changes."
    if settings.keeps_metadata:
        return f"Keep the original: at {size} it fits its place as it came, and nothing is lost."
    return f"Keep the original picture: at {size} it fits its place, and nothing of it is lost."


def _name(candidate: Candidate) -> str:
    return FORMAT_NAMES[candidate.trial.settings.format]


def _is_full(candidate: Candidate, full_width_px: int) -> bool:
    return candidate.trial.width_px == full_width_px


def _pixels(candidate: Candidate, full_width_px: int) -> str:
    if _is_full(candidate, full_width_px):
        return "full pixels"
    return f"{candidate.trial.width_px / full_width_px:.0%} of the width".replace("%", " %")
