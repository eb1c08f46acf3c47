"""The likeness at which noticing ends, from right and wrong answers at many likenesses.

Answers follow a psychometric function: a logistic share of rounds in which the difference is
seen, which falls with likeness; in the others one side of two is guessed, and in a few a wrong key
is pressed (guess and lapse rates; Wichmann and Hill, 2001). Middle, slope and lapse rate are not
known; what the answers leave of them gives the likeness and its interval (Bayesian inference on a
grid, as Schuett, Harmeling, Macke and Wichmann, 2016, have it), so that no slope has to be assumed.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from lean_parcel.core.arrays import F64

#: Noticing is said to end where the difference is still seen in one round of four: 62.5 % right.
SEEN_SHARE = 0.25
#: Likenesses over which the share that is seen falls from 73 to 27 %, halved: from a sharp end of
#: noticing to one that is hardly there; each factor as likely as the next.
_SLOPES = np.geomspace(1, 16, 24)
#: Wrong keys: the shares of rounds, and how likely they are beforehand.
_LAPSES, _LAPSES_PRIOR = np.array([0.0, 0.01, 0.03, 0.06]), np.array([0.4, 0.3, 0.2, 0.1])
_MIDDLES = 200
#: An interval holds nineteen of twenty.
_TAILS = (0.025, 0.975)


@dataclass(frozen=True, slots=True, kw_only=True)
class Threshold:
    """A likeness and its uncertainty: nineteen of twenty such intervals hold the true one."""

    likeness: float
    uncertainty: float


def threshold_of(answers: Sequence[tuple[float, bool]], levels: Sequence[float]) -> Threshold:
    """Where noticing ends, from the likeness of each round and whether its answer was right; it is
    as likely anywhere from half the range of `levels` below them to as far above."""
    lowest, reach = min(levels), max(levels) - min(levels)
    middles = np.linspace(lowest - reach / 2, lowest + 1.5 * reach, _MIDDLES)
    weights = _posterior(answers, middles)
    ends = middles[:, None] + _SLOPES * np.log((1 - SEEN_SHARE) / SEEN_SHARE)
    low, middle, high = _quantiles(ends, weights, (_TAILS[0], 0.5, _TAILS[1]))
    return Threshold(likeness=middle, uncertainty=max(high - middle, middle - low))


def _posterior(answers: Sequence[tuple[float, bool]], middles: F64) -> F64:
    """How likely each middle and slope is after the answers, (middles, slopes)."""
    at = np.array([likeness for likeness, _ in answers])
    is_right = np.array([right for _, right in answers])
    z = (at - middles[:, None, None]) / _SLOPES[:, None]
    is_seen = 1 / (1 + np.exp(np.clip(z, -40, 40)))
    right = 0.5 + (0.5 - _LAPSES[:, None, None, None]) * is_seen
    logs = np.where(is_right, np.log(right), np.log(1 - right + 1e-12)).sum(-1)
    weights = np.exp(logs - logs.max()) * _LAPSES_PRIOR[:, None, None]
    made: F64 = weights.sum(0) / weights.sum()
    return made


def _quantiles(values: F64, weights: F64, shares: Sequence[float]) -> list[float]:
    order = np.argsort(values, axis=None)
    reached = np.cumsum(weights.ravel()[order])
    found = np.searchsorted(reached, shares).clip(max=order.size - 1)
    return [float(value) for value in values.ravel()[order][found]]
