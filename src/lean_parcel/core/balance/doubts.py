"""How sure an allocation is: beside the measured encodes of a photo there are others, which nobody
has made yet. And which of those would tell most.

What they would be like is read between the measured ones, likeness over the logarithm of bytes, and
carried on beyond the lightest and the heaviest. An allocation over what is so expected shows where
an encode is missed.
"""

import math
from bisect import bisect_right
from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from lean_parcel.core.balance.allocation import (
    Objective,
    Share,
    allocated,
    ladder,
)
from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.encoding.qualities import QUALITIES, at_quality, quality_of
from lean_parcel.core.encoding.settings import PassThrough

#: Encodes that are expected between two neighbours, and beyond the last on each side.
_BETWEEN = 7
#: How far beyond the last, as a factor of its bytes.
_BEYOND = 3.0
#: Likeness that twice the bytes are worth where only one encode is known.
_USUAL_GAIN = 8.0
#: What is nearer to a measured encode, in bytes, is not asked for.
_NEAR = 0.04
#: About how many more bytes the next quality step takes, in every format.
_BYTES_A_STEP = 1.04


@dataclass(frozen=True, slots=True, kw_only=True)
class Doubt:
    """An encode that is missed: its photo, the nearest measured encode and the one on its other
    side, if there is one, as indices of its options, its bytes, and by how much its likeness
    differs from the nearest one's, times the photo's weight."""

    photo: int
    nearest: int
    other: int | None
    size_bytes: float
    worth: float


@dataclass(frozen=True, slots=True)
class _Expected:
    measured: Measured
    below: int | None
    above: int | None


class Outlook:
    """What photos would get of a budget if there were all the encodes that are expected between the
    measured ones and beyond them, as far as they can be made: `trial_of` gives the encode that a
    doubt asks for, or None where there is none."""

    def __init__(
        self,
        shares: Sequence[Share],
        budget_bytes: int,
        objective: Objective,
        trial_of: Callable[[Doubt], Trial | None],
    ) -> None:
        self._shares = shares
        self._expected = [list(_expected(share)) for share in shares]
        self._chosen: list[Measured] = []
        self._missed: list[tuple[Doubt, Trial]] = []
        while hopeless := self._allocate(budget_bytes, objective, trial_of):
            for photo, expected in hopeless:
                self._expected[photo].remove(expected)

    def missing(self) -> list[tuple[int, Trial]]:
        """The encodes that are missed, each with its photo, those that could change most first."""
        by_worth = sorted(self._missed, key=lambda missed: -missed[0].worth)
        return [(doubt.photo, trial) for doubt, trial in by_worth]

    def changes(self, chosen: Sequence[int]) -> list[float]:
        """By how much likeness, as far as it is seen, each photo would differ from the encode that
        it got: the one of its options that has this index."""
        return [
            abs(share.seen(wider) - share.seen(share.options[index]))
            for share, wider, index in zip(self._shares, self._chosen, chosen, strict=True)
        ]

    def _allocate(
        self, budget_bytes: int, objective: Objective, trial_of: Callable[[Doubt], Trial | None]
    ) -> list[tuple[int, _Expected]]:
        """Shares out over what is measured and expected, and returns what photos got that cannot
        be made."""
        wider = [
            replace(share, options=(*share.options, *(each.measured for each in more)))
            for share, more in zip(self._shares, self._expected, strict=True)
        ]
        chosen = allocated(wider, budget_bytes, objective).chosen
        self._chosen = [share.options[i] for share, i in zip(wider, chosen, strict=True)]
        self._missed = []
        hopeless = []
        for photo, (share, index) in enumerate(zip(self._shares, chosen, strict=True)):
            if index < len(share.options):
                continue
            expected = self._expected[photo][index - len(share.options)]
            doubt = _doubt(photo, share, expected)
            trial = trial_of(doubt) if doubt else None
            if doubt and trial:
                self._missed.append((doubt, trial))
            elif doubt:
                hopeless.append((photo, expected))
        return hopeless


def _doubt(photo: int, share: Share, expected: _Expected) -> Doubt | None:
    """A doubt about what is expected; None where a measured encode is near."""
    size_bytes = expected.measured.size_bytes

    def away(index: int) -> float:
        return abs(math.log(size_bytes / share.options[index].size_bytes))

    sides = sorted((i for i in (expected.below, expected.above) if i is not None), key=away)
    nearest, *others = sides
    if away(nearest) <= math.log1p(_NEAR):
        return None
    gap = abs(share.seen(expected.measured) - share.seen(share.options[nearest]))
    return Doubt(
        photo=photo,
        nearest=nearest,
        other=others[0] if others else None,
        size_bytes=size_bytes,
        worth=share.weight * gap,
    )


def _expected(share: Share) -> Iterator[_Expected]:
    """What is expected between the measured encodes of a photo, and beyond them."""
    rising = ladder(share)
    points = [(math.log(share.options[i].size_bytes), share.seen(share.options[i])) for i in rising]
    parts = [step / (_BETWEEN + 1) for step in range(1, _BETWEEN + 1)]
    for (below, above), (low, high) in zip(pairwise(rising), pairwise(points), strict=True):
        for at in parts:
            log_size = low[0] + at * (high[0] - low[0])
            yield _Expected(_measured(log_size, low[1] + at * (high[1] - low[1])), below, above)
    first, last = points[0], points[-1]
    for at in parts:
        away = at * at * math.log(_BEYOND)
        lighter = first[1] - away * _gain(points[:2])
        yield _Expected(_measured(first[0] - away, lighter), None, rising[0])
        heavier = min(last[1] + away * _gain(points[-2:]), share.most_seen)
        yield _Expected(_measured(last[0] + away, heavier), rising[-1], None)


def _measured(log_size: float, likeness: float) -> Measured:
    return Measured(size_bytes=max(1, round(math.exp(log_size))), likeness=likeness)


def _gain(points: Sequence[tuple[float, float]]) -> float:
    """Likeness for a natural logarithm of bytes, between two points."""
    if len(points) < 2:
        return _USUAL_GAIN / math.log(2)
    (low, worse), (high, better) = points
    return (better - worse) / max(high - low, 1e-6)


def trial_for(
    doubt: Doubt, trials: Sequence[Trial], options: Sequence[Measured], made: Collection[Trial]
) -> Trial | None:
    """The encode that a doubt asks for, of a photo with these trials and what was measured of them:
    like the nearest one, or where that has no quality like the other one, at another quality. None
    where that is `made`, with all that is nearer."""
    for index in (doubt.nearest, doubt.other):
        step = None if index is None else _step_of(trials[index])
        if index is None or step is None:
            continue
        wanted = _wanted_step(doubt, index, step, trials, options)
        last = len(QUALITIES[trials[index].settings.format]) - 1
        between = range(step + 1, last + 1) if wanted > step else range(step)
        reach = abs(wanted - step)
        for each in sorted(between, key=lambda one: abs(one - wanted)):
            trial = _at_step(trials[index], each)
            if trial not in made and abs(each - wanted) <= reach:
                return trial
    return None


def _wanted_step(
    doubt: Doubt, index: int, step: int, trials: Sequence[Trial], options: Sequence[Measured]
) -> float:
    """The step of a trial's mode at which the bytes of a doubt are expected."""
    away = math.log(doubt.size_bytes / options[index].size_bytes)
    for other in (doubt.nearest, doubt.other):
        if other in (None, index) or other is None or not _is_alike(trials[other], trials[index]):
            continue
        width = math.log(options[other].size_bytes / options[index].size_bytes)
        return step + away / width * ((_step_of(trials[other]) or 0) - step)
    return step + away / math.log(_BYTES_A_STEP)


def _is_alike(one: Trial, other: Trial) -> bool:
    """Whether two trials differ in nothing but their quality."""
    is_same_format = one.settings.format == other.settings.format
    has_steps = None not in (_step_of(one), _step_of(other))
    return is_same_format and has_steps and _at_step(one, 0) == _at_step(other, 0)


def _step_of(trial: Trial) -> int | None:
    """The quality step of a trial; None for what has none."""
    quality = quality_of(trial.settings)
    steps = QUALITIES[trial.settings.format]
    return None if quality is None else bisect_right(steps, quality) - 1


def _at_step(trial: Trial, step: int) -> Trial:
    """A trial at a quality step of its format."""
    settings = trial.settings
    if isinstance(settings, PassThrough):
        return trial
    return replace(trial, settings=at_quality(settings, QUALITIES[settings.format][step]))
