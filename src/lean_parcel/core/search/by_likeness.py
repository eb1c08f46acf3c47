"""The search by likeness: for a format and a likeness to reach, the candidate of fewest bytes.

In each mode and pixel count the lowest step that reaches the likeness is found, every step
measured: the step taken reaches it, and the one below was measured not to. Bounds prune: pixel
counts whose ceiling is too low are never encoded, and a mode is given up at the first step that is
no lighter than what was found and still does not reach the likeness.
"""

from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.formats import Format
from lean_parcel.core.search.bracket import LikenessBracket
from lean_parcel.core.search.by_limit import LOSSLESS_FLOOR
from lean_parcel.core.search.ladder import Rung, SearchInput, trial_at
from lean_parcel.core.search.protocol import FormatSearch, TrialSearch, asked_once
from lean_parcel.core.search.scales import LOSSLESS, Scale, scales_of


def search_by_likeness(
    name: Format, search_input: SearchInput, likeness: float, background: str
) -> FormatSearch:
    """The search in one format: returns the lightest candidate that reaches the likeness, or where
    none does the best there is. No trial is asked for twice."""
    return asked_once(_search(name, search_input, likeness, background), {})


def _search(
    name: Format, search_input: SearchInput, likeness: float, background: str
) -> FormatSearch:
    full = search_input.rungs[0]
    scales = scales_of(
        name,
        background,
        is_transparent=search_input.is_transparent,
        is_grey=search_input.is_grey,
    )
    best: Candidate | None = None
    for rung in search_input.rungs:
        if rung.ceiling < likeness and rung is not full:
            break
        winner: Scale | None = None
        for scale in scales:
            found = yield from _search_mode(scale, rung, likeness, best)
            if found:
                best, winner = found, scale
        if winner is None:
            break
        scales = [winner]
    lossless = LOSSLESS.get(name)
    if lossless and (best is None or _may_be_lighter(full, best)):
        trial = trial_at(lossless, full)
        measured = yield trial
        if best is None or measured.size_bytes < best.measured.size_bytes:
            best = _judged(trial, measured, likeness)
    if best is None:
        trial = scales[-1].trial(len(scales[-1].qualities) - 1, full)
        measured = yield trial
        best = _judged(trial, measured, likeness)
    return best


def _may_be_lighter(full: Rung, best: Candidate) -> bool:
    """Whether a lossless file might have fewer bytes."""
    return LOSSLESS_FLOOR * full.quick_png_size_bytes < best.measured.size_bytes


def _search_mode(
    scale: Scale, rung: Rung, likeness: float, to_beat: Candidate | None
) -> TrialSearch[Candidate | None]:
    """The lowest step of a mode that reaches the likeness, if it is lighter than what was found."""
    most_bytes = to_beat.measured.size_bytes if to_beat else None
    bracket = LikenessBracket(len(scale.qualities), likeness)
    measured: dict[int, Measured] = {}
    while (step := bracket.next_step()) is not None:
        measured[step] = yield scale.trial(step, rung)
        bracket.add(step, measured[step].likeness)
        is_heavy = most_bytes is not None and measured[step].size_bytes >= most_bytes
        if is_heavy and measured[step].likeness < likeness:
            return None
    if bracket.best is None:
        return None
    found = _judged(scale.trial(bracket.best, rung), measured[bracket.best], likeness)
    if most_bytes is not None and found.measured.size_bytes >= most_bytes:
        return None
    return found


def _judged(trial: Trial, measured: Measured, likeness: float) -> Candidate:
    return Candidate(trial=trial, measured=measured, meets_aim=measured.likeness >= likeness)
