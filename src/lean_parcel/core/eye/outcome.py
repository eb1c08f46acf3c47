"""What came of blind rounds, in words that stay."""

from dataclasses import dataclass
from typing import Literal

from lean_parcel.core.eye.blind import Blind
from lean_parcel.core.eye.psychometric import Threshold

RoundsKind = Literal["check", "choice", "threshold"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Outcome:
    """What was done and what came of it; a threshold has its likeness and uncertainty."""

    kind: RoundsKind
    words: str
    likeness: float | None = None
    uncertainty: float | None = None


def check_outcome(rounds: Blind, name: str) -> Outcome:
    """Of a check of a candidate by this name."""
    words = (
        f"Told {name} from the original in {rounds.times_first} of {rounds.round} rounds;"
        f" a guess does as well in {_share(rounds.told_by_chance)} of cases"
    )
    return Outcome(kind="check", words=words)


def choice_outcome(rounds: Blind, first: str, second: str) -> Outcome:
    """Of a choice between two candidates by these names."""
    times = rounds.times_first
    if 2 * times == rounds.round:
        return Outcome(kind="choice", words=f"{first} and {second} were chosen equally often")
    name, often = (first, times) if 2 * times > rounds.round else (second, rounds.round - times)
    words = (
        f"Found {name} nearer to the original in {often} of {rounds.round} rounds;"
        f" guesses prefer one as clearly in {_share(rounds.preferred_by_chance)} of cases"
    )
    return Outcome(kind="choice", words=words)


def threshold_outcome(threshold: Threshold | None, name: str) -> Outcome:
    """Of a series over candidates of a format."""
    if threshold is None:
        words = f"No likeness of {name} was found at which noticing ends"
        return Outcome(kind="threshold", words=words)
    likeness, uncertainty = round(threshold.likeness, 1), round(threshold.uncertainty, 1)
    return Outcome(
        kind="threshold",
        words=f"Noticing ends at likeness {likeness} ± {uncertainty} in {name}, where one round of"
        " four is still seen",
        likeness=likeness,
        uncertainty=uncertainty,
    )


def _share(probability: float) -> str:
    percent = 100 * probability
    return f"{percent:.0f} %" if percent >= 10 else f"{percent:.1f} %"
