"""Blind rounds."""

from lean_parcel.core.eye.outcome import Outcome, RoundsKind
from lean_parcel.web.responses.told import Told
from lean_parcel.work.photos.eye import Series


class EyeResponse(Told):
    """A series of blind rounds: the number of the present one, how many there are where that is
    known, and what came of it once it is done."""

    id: int
    kind: RoundsKind
    round: int
    rounds: int | None
    outcome: Outcome | None

    @classmethod
    def of(cls, series: Series) -> "EyeResponse":
        """From a series."""
        rounds = None if series.stairs else len(series.rounds.is_first_a)
        return cls.of_all(series, rounds=rounds)
