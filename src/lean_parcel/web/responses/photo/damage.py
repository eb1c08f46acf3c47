"""The damage of an encode."""

from pydantic import BaseModel

from lean_parcel.core.damage.found import Worst
from lean_parcel.core.damage.kinds import (
    KIND_NAMES,
    KIND_SENTENCES,
    KINDS,
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


class KindResponse(BaseModel):
    """A kind of damage, what it looks like, and its strength over the whole picture, 0 to 100."""

    kind: Kind
    name: str
    sentence: str
    strength: float


class SpotResponse(BaseModel):
    """A trouble spot, in pixels of the place."""

    kind: Kind
    name: str
    level: Level
    strength: float
    box: Box
    is_marked: bool


class DamageResponse(BaseModel):
    """What is wrong with an encode: in words, by kind, and where, the worst first."""

    verdict: str
    kinds: list[KindResponse]
    spots: list[SpotResponse]

    @classmethod
    def of(cls, view: DamageView) -> "DamageResponse":
        """From what examining gives."""
        return cls(
            verdict=view.damage.verdict,
            kinds=[
                KindResponse(
                    kind=kind,
                    name=KIND_NAMES[kind],
                    sentence=KIND_SENTENCES[kind],
                    strength=view.damage.strengths[kind],
                )
                for kind in KINDS
            ],
            spots=[
                SpotResponse(
                    kind=spot.kind,
                    name=KIND_NAMES[spot.kind],
                    level=spot.level,
                    strength=spot.strength,
                    box=spot.box,
                    is_marked=spot.is_marked,
                )
                for spot in view.spots
            ],
        )
