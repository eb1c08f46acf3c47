"""The damage of an encode."""

from pydantic import BaseModel

from lean_parcel.core.damage.found import Worst
from lean_parcel.core.damage.kinds import (
    KIND_NAMES,
    SEEN,
    Kind,
    Level,
    level_of,
)
from lean_parcel.core.picture.box import Box
from lean_parcel.work.photos.examining import DamageView


class WorstResponse(BaseModel):
    """The kind that is strongest anywhere in an encode; null where nothing is seen."""

    kind: Kind | None
    name: str
    level: Level | None
    strength: float

    @classmethod
    def of(cls, worst: Worst) -> "WorstResponse":
        """From what is stored."""
        if worst.kind is None:
            return cls(kind=None, name="nothing seen", level=None, strength=0)
        return cls(
            kind=worst.kind,
            name=KIND_NAMES[worst.kind],
            level=level_of(worst.strength),
            strength=worst.strength,
        )


class SpotResponse(BaseModel):
    """A trouble spot, in pixels of the place; a marked one may be an area where nothing is
    seen."""

    kind: Kind
    name: str
    level: Level | None
    strength: float
    box: Box
    is_marked: bool


class DamageResponse(BaseModel):
    """What is wrong with an encode: in words, the strength of each kind over the whole picture, 0
    to 100, and where, the worst first."""

    verdict: str
    strengths: dict[Kind, float]
    spots: list[SpotResponse]

    @classmethod
    def of(cls, view: DamageView) -> "DamageResponse":
        """From what examining gives."""
        return cls(
            verdict=view.damage.verdict,
            strengths=view.damage.strengths,
            spots=[
                SpotResponse(
                    kind=spot.kind,
                    name=KIND_NAMES[spot.kind],
                    level=spot.level if spot.strength >= SEEN else None,
                    strength=spot.strength,
                    box=spot.box,
                    is_marked=spot.is_marked,
                )
                for spot in view.spots
            ],
        )
