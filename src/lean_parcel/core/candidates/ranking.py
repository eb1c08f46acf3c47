"""The order in which candidates are offered."""

from collections.abc import Sequence

from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.decisions.aim import Aim


def ranked(
    candidates: Sequence[Candidate], aim: Aim, *, is_transparent: bool = False
) -> list[Candidate]:
    """Candidates in the order in which to offer them: those that meet the aim first, then those
    that keep the transparency of an `is_transparent` photo.

    Of those that look as they should the lightest then comes first; the others follow by their
    likeness, to two decimals, and of equals the lighter one. What is over the limit is last,
    lightest first.
    """

    def order(candidate: Candidate) -> tuple[bool, bool, bool, float, float]:
        measured = candidate.measured
        is_over = aim.over_bytes(measured.size_bytes) > 0
        is_short = not is_over and not aim.is_enough(measured.likeness)
        loses_alpha = is_transparent and candidate.trial.settings.format == "jpeg"
        likeness = -round(measured.likeness, 2) if is_short else 0.0
        return not candidate.meets_aim, loses_alpha, is_short, likeness, measured.size_bytes

    return sorted(candidates, key=order)


def judged(trial: Trial, measured: Measured, aim: Aim) -> Candidate:
    """A candidate of what was measured, and whether that meets an aim."""
    meets_aim = aim.is_met_by(measured.size_bytes, measured.likeness)
    return Candidate(trial=trial, measured=measured, meets_aim=meets_aim)
