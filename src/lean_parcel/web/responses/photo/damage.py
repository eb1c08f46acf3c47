"""The damage of an encode."""

from lean_parcel.core.damage.found import Worst
from lean_parcel.core.damage.kinds import (
    KIND_NAMES,
    NOT_SEEN,
    SEEN,
    Kind,
    Severity,
    level_of,
)
from lean_parcel.core.picture.box import Box
from lean_parcel.web.responses.told import Told
from lean_parcel.work.photos.examining import BoughtView, DamageView


class WorstResponse(Told):
    """The kind that is strongest anywhere in an encode; null where nothing is seen."""

    kind: Kind | None
    name: str
    level: Severity | None
    strength: float

    @classmethod
    def of(cls, worst: Worst) -> "WorstResponse":
        """From what is stored."""
        if worst.kind is None:
            return cls(kind=None, name=NOT_SEEN, level=None, strength=0)
        level = level_of(worst.strength)
        return cls.of_all(worst, name=KIND_NAMES[worst.kind], level=level)


class SpotResponse(Told):
    """A trouble spot, in pixels of the place; a marked one may be an area where nothing is
    seen."""

    kind: Kind
    name: str
    level: Severity | None
    strength: float
    box: Box
    is_marked: bool


class LessAreaResponse(Told):
    """An area in which two encodes differ: the kind of damage, and its level in the one in which
    there is more of it (`before`) and in the other (`after`), in words."""

    kind: Kind
    name: str
    box: Box
    before: str
    after: str


class BoughtResponse(Told):
    """What the heavier of two encodes has over the lighter, in a sentence with its price; where
    it is less damaged (`gains`), and where more, worst first."""

    lighter_id: int
    heavier_id: int
    more_bytes: int
    sentence: str
    gains: list[LessAreaResponse]
    losses: list[LessAreaResponse]

    @classmethod
    def of(cls, view: BoughtView) -> "BoughtResponse":
        """From what examining gives."""
        gains, losses = (
            [LessAreaResponse.of_all(each, name=KIND_NAMES[each.kind]) for each in found]
            for found in (view.bought.gains, view.bought.losses)
        )
        return cls.of_all(view, view.bought, gains=gains, losses=losses)


class DamageResponse(Told):
    """What is wrong with an encode: in words, the strength of each kind over the whole picture, 0
    to 100, and where, the worst first."""

    verdict: str
    strengths: dict[Kind, float]
    spots: list[SpotResponse]

    @classmethod
    def of(cls, view: DamageView) -> "DamageResponse":
        """From what examining gives."""
        return cls.of_all(
            view.damage,
            spots=[
                SpotResponse.of_all(
                    spot,
                    name=KIND_NAMES[spot.kind],
                    level=spot.level if spot.strength >= SEEN else None,
                )
                for spot in view.spots
            ],
        )
