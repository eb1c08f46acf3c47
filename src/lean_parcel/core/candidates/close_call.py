"""Candidates that the measure cannot tell apart, and which of them to take; a second opinion."""

from collections.abc import Sequence
from dataclasses import dataclass

from lean_parcel.core.candidates.trial import Candidate
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.formats import FORMAT_NAMES, UNIVERSAL_FORMATS, enumerated
from lean_parcel.core.size import format_size

#: Likeness that differs by less says nothing; see docs/metrics.md.
TOO_CLOSE = 1.5
#: A file that is lighter by less than this share is as heavy.
_AS_HEAVY = 0.03
#: A second opinion that differs by less than this share is none.
_OF_NOTE = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class CloseCall:
    """The candidates that are as good as the best, best buy first, and what to say about them."""

    candidates: tuple[Candidate, ...]
    sentence: str


def close_call(
    ranking: Sequence[Candidate], aim: Aim, *, is_transparent: bool = False
) -> CloseCall | None:
    """What is as good as the best of ranked candidates under a limit; None where the best is alone,
    or bytes decide. What loses transparency is not as good.

    The better buy is the lighter one; of two that weigh about the same, the one that opens
    everywhere.
    """
    if not ranking or not ranking[0].meets_aim:
        return None
    best = ranking[0]
    if aim.is_enough(best.measured.likeness):
        return None
    close = [
        each
        for each in ranking
        if each.meets_aim
        and best.measured.likeness - each.measured.likeness < TOO_CLOSE
        and not (is_transparent and each.trial.settings.format == "jpeg")
    ]
    if len(close) < 2 or best.trial.is_pass_through:
        return None
    lightest = min(each.measured.size_bytes for each in close)

    def worth(each: Candidate) -> tuple[bool, bool, int]:
        is_heavy = each.measured.size_bytes > (1 + _AS_HEAVY) * lightest
        opens = each.trial.settings.format in UNIVERSAL_FORMATS
        return is_heavy, not is_heavy and not opens, each.measured.size_bytes

    ordered = sorted(close, key=worth)
    return CloseCall(candidates=tuple(ordered), sentence=_sentence(ordered))


def offered(ranking: Sequence[Candidate], call: CloseCall | None) -> list[Candidate]:
    """Ranked candidates in the order in which they are shown: of those that are too close to call
    the better buy first."""
    first = call.candidates if call else ()
    return [*first, *(each for each in ranking if each not in first)]


def _sentence(close: list[Candidate]) -> str:
    buy, *others = close
    names = enumerated(FORMAT_NAMES[each.trial.settings.format] for each in close)
    name = FORMAT_NAMES[buy.trial.settings.format]
    if names == name:
        names, name = f"{len(close)} {name} files", "the first"
    saved = min(each.measured.size_bytes for each in others) - buy.measured.size_bytes
    reasons = []
    if saved > 0:
        reasons.append(f"is lighter, by {format_size(saved)}")
    if buy.trial.settings.format in UNIVERSAL_FORMATS:
        reasons.append("opens everywhere")
    why = f"; {name} {' and '.join(reasons)}" if reasons else ""
    return f"{names} look equally good{why}."


@dataclass(frozen=True, slots=True, kw_only=True)
class SecondOpinion:
    """The candidate that another metric finds nearest to the original, where that is another one
    than the best; and what to say."""

    candidate: Candidate
    sentence: str


def second_opinion(
    ranking: Sequence[Candidate], flips: Sequence[float | None], aim: Aim
) -> SecondOpinion | None:
    """Whether FLIP has another winner among the ranked candidates that meet a limit; `flips` are
    their means, 0 for identical. None where it agrees, or was not measured of all."""
    if ranking and aim.is_enough(ranking[0].measured.likeness):
        return None
    wanted = [
        (each, flip)
        for each, flip in zip(ranking, flips, strict=True)
        if each.meets_aim and not each.trial.is_pass_through
    ]
    measured = [(each, flip) for each, flip in wanted if flip is not None]
    if not measured or len(measured) < len(wanted):
        return None
    best, flip_of_best = measured[0]
    nearest, least = min(measured, key=lambda one: one[1])
    if least > (1 - _OF_NOTE) * flip_of_best:
        return None
    names = [FORMAT_NAMES[each.trial.settings.format] for each in (nearest, best)]
    if names[0] == names[1]:
        sizes = [format_size(each.measured.size_bytes) for each in (nearest, best)]
        names = [f"the {names[0]} of {sizes[0]}", f"that of {sizes[1]}"]
    return SecondOpinion(
        candidate=nearest,
        sentence=f"A second measure (FLIP) finds {names[0]} nearer to the original than"
        f" {names[1]}: look for yourself.",
    )
