"""Blind rounds."""

from pydantic import BaseModel

from lean_parcel.core.eye.outcome import Kind, Outcome
from lean_parcel.work.photos.eye import Series


class EyeResponse(BaseModel):
    """A series of blind rounds: the number of the present one, how many there are where that is
    known, and what came of it once it is done."""

    id: int
    kind: Kind
    round: int
    rounds: int | None
    outcome: Outcome | None

    @classmethod
    def of(cls, series: Series) -> "EyeResponse":
        """From a series."""
        return cls(
            id=series.id,
            kind=series.kind,
            round=series.round,
            rounds=None if series.stairs else len(series.rounds.is_first_a),
            outcome=series.outcome,
        )
