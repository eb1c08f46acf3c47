"""The format that won, as a finding: it takes the place of the advice on one to begin with."""

from collections.abc import Sequence

from lean_parcel.core.candidates.trial import Candidate
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.formats import FORMAT_NAMES
from lean_parcel.core.likeness.levels import likeness_number
from lean_parcel.core.original.findings import ADVICE_TOPIC, Finding
from lean_parcel.core.size import format_size


def with_winner(
    findings: Sequence[Finding], candidates: Sequence[Candidate], aim: Aim
) -> tuple[Finding, ...]:
    """Findings with the measured winner of ranked candidates in the place of the advice; as they
    are where none meets the aim."""
    encoded = [each for each in candidates if each.meets_aim and not each.trial.is_pass_through]
    if not encoded:
        return tuple(findings)
    return tuple(
        _winner(encoded, aim) if finding.topic == ADVICE_TOPIC else finding for finding in findings
    )


def _winner(candidates: Sequence[Candidate], aim: Aim) -> Finding:
    best, *others = candidates
    is_enough = aim.is_enough(best.measured.likeness)
    rest = ", ".join(f"{_name(other)} {_figure(other, is_enough)}" for other in others)
    return Finding(
        topic=ADVICE_TOPIC,
        title=f"{_name(best)} {'is lightest' if is_enough else 'looks best'} here",
        note=f"Measured: {'' if is_enough else 'likeness '}{_figure(best, is_enough)}"
        f"{f', against {rest}' if rest else ''}.",
    )


def _name(candidate: Candidate) -> str:
    return FORMAT_NAMES[candidate.trial.settings.format]


def _figure(candidate: Candidate, is_enough: bool) -> str:
    measured = candidate.measured
    return format_size(measured.size_bytes) if is_enough else likeness_number(measured.likeness)
