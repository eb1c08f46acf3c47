"""What the parts of a search by limit know in common, and how far a search goes."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.likeness.levels import HARD_TO_SPOT, NO_CHANGE
from lean_parcel.core.search.ladder import PartTrial, Rung, trial_at
from lean_parcel.core.search.scales import Scale

#: Trials that a search spends, unless an encoder is unlike all others, and what a draft of a part
#: counts of one.
MOST_TRIALS, _OF_A_PART = 12, 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class Rules:
    """How far a search goes, which depends on how long its encodes take."""

    #: The share of the limit that fills it: at the first place, and at others.
    filling: float = 0.95
    filling_elsewhere: float = math.inf
    #: Whether the first file that fills the limit is taken, and one without visible change.
    takes_first: bool = False
    #: Whether what a file leaves of the limit is used by another number of pixels.
    uses_rest: bool = True
    #: How much heavier than expected the first encode may turn out, as the logarithm of the factor.
    caution: float = 0.0
    #: Steps towards the best pixel count.
    refinements: int = 3
    #: How far another place may be behind what was found, as a share of the damage; and from which
    #: likeness on no other is searched.
    behind: float = 0.03
    enough: float = NO_CHANGE


_ORDINARY = Rules()
#: Of large pictures encodes take long, and parts tell less; the root mean square error of their
#: bytes is 4 to 9 %.
_LARGE = Rules(
    filling_elsewhere=0.85,
    takes_first=True,
    caution=0.04,
    refinements=1,
    behind=0.0,
    enough=HARD_TO_SPOT,
)
#: Five encodes of a banner of 2880 x 1200 px took a quarter of its search: from so many pixels on,
#: what is left of the limit is filled while somebody looks.
_HEAVY_PX = 2_500_000
_HEAVY = replace(_LARGE, filling=0.85, uses_rest=False)
#: JPEG takes a third of the time of AVIF or less, and parts tell its bytes within 2 %.
_LARGE_JPEG = replace(_LARGE, caution=0.01)


def rules_of(scale: Scale, full: Rung) -> Rules:
    """How far a search among modes like this one goes, given the rung of most pixels."""
    if not scale.by_part:
        return _ORDINARY
    if scale.format == "jpeg":
        return _LARGE_JPEG
    return _HEAVY if full.width_px * full.height_px >= _HEAVY_PX else _LARGE


@dataclass(frozen=True, slots=True, kw_only=True)
class LimitSearch:
    """A search: its limit, the rungs that are left to it, most pixels first, all that was measured
    so far, and how far it goes."""

    limit_bytes: int
    rungs: Sequence[Rung]
    made: Mapping[Trial, Measured]
    rules: Rules = _ORDINARY

    @property
    def full(self) -> Rung:
        """The rung of most pixels."""
        return self.rungs[0]

    def left(self, kept: int = 0) -> float:
        """How many trials are left to spend, but for those that are kept."""
        spent = sum(_OF_A_PART if isinstance(trial, PartTrial) else 1 for trial in self.made)
        return MOST_TRIALS - kept - spent

    def judged(self, trial: Trial, measured: Measured) -> Candidate:
        """A candidate, and whether it fits."""
        is_within = measured.size_bytes <= self.limit_bytes
        return Candidate(trial=trial, measured=measured, meets_aim=is_within)

    def corrected(self, trial: Trial, measured: Measured) -> Measured:
        """What came of a trial; of a part with the bytes corrected by what is known of the picture:
        how far off they were of a file that was made as a whole, too."""
        if not isinstance(trial, PartTrial):
            return measured
        return replace(measured, size_bytes=round(measured.size_bytes * self._whole_over_part()))

    def _whole_over_part(self) -> float:
        for trial, of_part in self.made.items():
            if isinstance(trial, PartTrial):
                whole = self.made.get(trial_at(trial.settings, trial.rung))
                if whole:
                    return whole.size_bytes / of_part.size_bytes
        return 1.0

    def fitting(self) -> list[Candidate]:
        """All encodes so far that fit."""
        return [
            self.judged(trial, measured)
            for trial, measured in self.made.items()
            if measured.size_bytes <= self.limit_bytes and not isinstance(trial, PartTrial)
        ]
