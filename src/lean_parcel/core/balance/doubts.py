"""How sure an allocation is: between two measured encodes of a photo there are others, which nobody
has made yet. And which of those would tell most.

What they would be like is read between the measured ones, likeness over the logarithm of bytes. An
allocation over what is so expected shows where an encode is missed.
"""

import math
from bisect import bisect_right
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from lean_parcel.core.balance.allocation import Objective, Share, allocated, ladder, seen_likeness
from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.encoding.qualities import QUALITIES
from lean_parcel.core.encoding.settings import PassThrough, PngSettings, WebpSettings

#: Encodes that are expected between two neighbours.
_BETWEEN = 7
#: What is nearer to a measured encode, in bytes, is not asked for.
_NEAR = 0.04
#: About how many more bytes the next quality step takes, in every format.
_BYTES_A_STEP = 1.04


@dataclass(frozen=True, slots=True, kw_only=True)
class Doubt:
    """An encode that is missed: its photo, the measured encodes on both sides as indices of its
    options, where between them it is expected, 0 to 1 over the logarithm of bytes, and by how much
    its likeness differs from the nearer one's at most, times the photo's weight."""

    photo: int
    below: int
    above: int
    at: float
    worth: float


def doubts(shares: Sequence[Share], budget_bytes: int, objective: Objective) -> list[Doubt]:
    """The encodes that an allocation misses, those that could change most first."""
    expected = [_with_expected(share) for share in shares]
    chosen = allocated([share for share, _ in expected], budget_bytes, objective).chosen
    found = []
    for photo, (index, (_, between)) in enumerate(zip(chosen, expected, strict=True)):
        if index not in between:
            continue
        below, above, at = between[index]
        light, heavy = (shares[photo].options[side] for side in (below, above))
        nearest = min(at, 1 - at)
        if nearest * math.log(heavy.size_bytes / light.size_bytes) > math.log1p(_NEAR):
            gap = seen_likeness(heavy) - seen_likeness(light)
            worth = shares[photo].weight * nearest * gap
            found.append(Doubt(photo=photo, below=below, above=above, at=at, worth=worth))
    return sorted(found, key=lambda doubt: -doubt.worth)


def uncertainty(share: Share, index: int) -> float:
    """By how much likeness, either way, a photo could be off the encode that it got: half of the
    wider gap beside it."""
    rising = ladder(share)
    at = rising.index(index)
    beside = [rising[i] for i in (at - 1, at + 1) if 0 <= i < len(rising)]
    now = seen_likeness(share.options[index])
    gaps = [abs(seen_likeness(share.options[other]) - now) for other in beside]
    return max(gaps, default=0.0) / 2


def _with_expected(share: Share) -> tuple[Share, dict[int, tuple[int, int, float]]]:
    """A photo with what is expected between its measured encodes, and between which of them each of
    those lies, and where."""
    options = list(share.options)
    between: dict[int, tuple[int, int, float]] = {}
    for below, above in pairwise(ladder(replace(share, least_likeness=0.0))):
        light, heavy = share.options[below], share.options[above]
        ratio = heavy.size_bytes / light.size_bytes
        gap = seen_likeness(heavy) - seen_likeness(light)
        for at in (step / (_BETWEEN + 1) for step in range(1, _BETWEEN + 1)):
            between[len(options)] = (below, above, at)
            options.append(
                Measured(
                    size_bytes=round(light.size_bytes * ratio**at),
                    likeness=seen_likeness(light) + at * gap,
                )
            )
    return replace(share, options=tuple(options)), between


def trial_for(
    doubt: Doubt, trials: Sequence[Trial], options: Sequence[Measured], made: Collection[Trial]
) -> Trial | None:
    """The encode that a doubt asks for, of a photo with these trials and what was measured of them:
    like the heavier one at a lower quality, or where that has none like the lighter one at a higher
    quality. None where all between are `made` or there are none."""
    above, below = trials[doubt.above], trials[doubt.below]
    ratio = options[doubt.above].size_bytes / options[doubt.below].size_bytes
    steps = math.ceil(math.log(ratio) / math.log(_BYTES_A_STEP))
    high, low = _step_of(above), _step_of(below)
    if high is None:
        if low is None:
            return None
        most = len(QUALITIES[below.settings.format]) - 1
        wanted = low + doubt.at * steps
        return _nearest(below, wanted, low + 1, min(low + steps, most + 1), made)
    if low is None or not _is_alike(below, above):
        low = high - steps
    return _nearest(above, low + doubt.at * (high - low), max(low + 1, 0), high, made)


def _nearest(
    trial: Trial, wanted: float, first: int, end: int, made: Collection[Trial]
) -> Trial | None:
    """A trial at the step nearest to the one wanted, of those before `end`, that is not made."""
    for step in sorted(range(first, end), key=lambda each: abs(each - wanted)):
        found = _at_step(trial, step)
        if found not in made:
            return found
    return None


def _is_alike(one: Trial, other: Trial) -> bool:
    """Whether two trials differ in nothing but their quality."""
    return one.settings.format == other.settings.format and _at_step(one, 0) == _at_step(other, 0)


def _step_of(trial: Trial) -> int | None:
    """The quality step of a trial; None for what has none."""
    settings = trial.settings
    if isinstance(settings, PassThrough) or (
        isinstance(settings, WebpSettings) and settings.lossless
    ):
        return None
    quality = settings.colours if isinstance(settings, PngSettings) else settings.quality
    return None if quality is None else bisect_right(QUALITIES[settings.format], quality) - 1


def _at_step(trial: Trial, step: int) -> Trial:
    """A trial at a quality step of its format."""
    settings = trial.settings
    quality = QUALITIES[settings.format][step]
    if isinstance(settings, PngSettings):
        return replace(trial, settings=replace(settings, colours=quality))
    if isinstance(settings, PassThrough):
        return trial
    return replace(trial, settings=replace(settings, quality=quality))
