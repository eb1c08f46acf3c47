"""Candidates that the measure cannot tell apart, and which of them to take; a second opinion."""

from collections.abc import Sequence
from dataclasses import dataclass

from lean_parcel.core.candidates.trial import Candidate
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.formats import FORMAT_NAMES, Format
from lean_parcel.core.size import format_size

#: Likeness that differs by less says nothing; see docs/metrics.md.
TOO_CLOSE = 1.5
#: Formats that open everywhere.
_EVERYWHERE: tuple[Format, ...] = ("jpeg", "png")
#: A file that is lighter by less than this share is as heavy.
_AS_HEAVY = 0.03
#: A second opinion that differs by less than this share is none.
_OF_NOTE = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class CloseCall:
    """The candidates that are as good as the best, best buy first, by their place in the ranking;
    and what to say about them."""

    indices: tuple[int, ...]
    sentence: str


def close_call(candidates: Sequence[Candidate], aim: Aim) -> CloseCall | None:
    """What is as good as the best of ranked candidates under a limit; None where the best is alone,
    or bytes decide.

    The better buy is the lighter one; of two that weigh about the same, the one that opens
    everywhere.
    """
    if aim.likeness is not None or not candidates or not candidates[0].meets_aim:
        return None
    best = candidates[0]
    close = [
        index
        for index, each in enumerate(candidates)
        if each.meets_aim and best.measured.likeness - each.measured.likeness < TOO_CLOSE
    ]
    if len(close) < 2 or best.trial.is_pass_through:
        return None
    lightest = min(candidates[index].measured.size_bytes for index in close)

    def worth(index: int) -> tuple[bool, bool, int]:
        each = candidates[index]
        is_heavy = each.measured.size_bytes > (1 + _AS_HEAVY) * lightest
        opens = each.trial.settings.format in _EVERYWHERE
        return is_heavy, not is_heavy and not opens, each.measured.size_bytes

    ordered = tuple(sorted(close, key=worth))
    return CloseCall(indices=ordered, sentence=_sentence([candidates[i] for i in ordered]))


def offered(candidates: Sequence[Candidate], aim: Aim) -> list[Candidate]:
    """Ranked candidates in the order in which they are shown: of those that are too close to call
    the better buy first."""
    call = close_call(candidates, aim)
    first = call.indices if call else ()
    rest = [index for index in range(len(candidates)) if index not in first]
    return [candidates[index] for index in (*first, *rest)]


def _sentence(close: list[Candidate]) -> str:
    buy, *others = close
    names = " and ".join(FORMAT_NAMES[each.trial.settings.format] for each in close)
    saved = min(each.measured.size_bytes for each in others) - buy.measured.size_bytes
    reasons = []
    if saved > 0:
        reasons.append(f"is lighter, by {format_size(saved)}")
    if buy.trial.settings.format in _EVERYWHERE:
        reasons.append("opens everywhere")
    name = FORMAT_NAMES[buy.trial.settings.format]
    why = f": it {' and '.join(reasons)}" if reasons else ""
    return f"{names} are too close to call; {name} is the better buy{why}."


@dataclass(frozen=True, slots=True, kw_only=True)
class SecondOpinion:
    """The candidate that another metric finds nearest to the original, where that is another one
    than the best, by its place in the ranking; and what to say."""

    index: int
    sentence: str


def second_opinion(
    candidates: Sequence[Candidate], distances: Sequence[float | None], aim: Aim
) -> SecondOpinion | None:
    """Whether FLIP, of which `distances` are means (0 is identical), has another winner among the
    candidates that meet a limit; None where it agrees, or was not measured of all."""
    measured = [
        (distance, index)
        for index, (each, distance) in enumerate(zip(candidates, distances, strict=True))
        if each.meets_aim and not each.trial.is_pass_through
    ]
    if aim.likeness is not None or len(measured) < 2 or any(d is None for d, _ in measured):
        return None
    least, nearest = min((distance or 0.0, index) for distance, index in measured)
    of_best, best = min(measured, key=lambda one: one[1])
    if nearest == best or least > (1 - _OF_NOTE) * (of_best or 0.0):
        return None
    names = [FORMAT_NAMES[candidates[index].trial.settings.format] for index in (nearest, best)]
    return SecondOpinion(
        index=nearest,
        sentence=f"A second measure (FLIP) finds {names[0]} nearer to the original than"
        f" {names[1]}: look for yourself.",
    )
