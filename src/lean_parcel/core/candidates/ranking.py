"""The order in which candidates are offered."""

from collections.abc import Sequence

from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.decisions.aim import Aim


def ranked(
    candidates: Sequence[Candidate], aim: Aim, *, is_transparent: bool = False
) -> list[Candidate]:
    """Candidates in the order in which to offer them: those that meet the aim first, then those
    that keep the transparency of an `is_transparent` photo.

    Under a limit the best likeness then comes first, to two decimals, and of equals the lighter
    one; those over the limit follow, lightest first. Under a likeness the lightest comes first;
    those that miss it follow, best first.
    """

    def order(candidate: Candidate) -> tuple[bool, bool, float, float]:
        loses_alpha = is_transparent and candidate.trial.settings.format == "jpeg"
        first, second = _keys(candidate, aim)
        return not candidate.meets_aim, loses_alpha, first, second

    return sorted(candidates, key=order)


def _keys(candidate: Candidate, aim: Aim) -> tuple[float, float]:
    measured = candidate.measured
    if aim.likeness is None:
        likeness = round(measured.likeness, 2) if candidate.meets_aim else 0.0
        return -likeness, measured.size_bytes
    return (measured.size_bytes if candidate.meets_aim else -measured.likeness), 0.0


def judged(trial: Trial, measured: Measured, aim: Aim) -> Candidate:
    """A candidate of what was measured, and whether that meets an aim."""
    meets_aim = aim.is_met_by(measured.size_bytes, measured.likeness)
    return Candidate(trial=trial, measured=measured, meets_aim=meets_aim)
