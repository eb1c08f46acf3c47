"""Treatments."""

from pydantic import BaseModel

from lean_parcel.core.decisions.journal import treatment_words
from lean_parcel.core.page.layout import NamedTreatment
from lean_parcel.work.treatment_file import TreatmentFile


class TreatmentResponse(BaseModel):
    """A treatment, as a file has it, and what it does in words."""

    id: int
    words: str
    file: TreatmentFile

    @classmethod
    def of(cls, named: NamedTreatment) -> "TreatmentResponse":
        """From the layout."""
        return cls(
            id=named.id,
            words=treatment_words(named.treatment),
            file=TreatmentFile.of(named.name, named.treatment),
        )


class TreatmentsResponse(BaseModel):
    """Treatments to choose from, the one that was used last first."""

    treatments: list[TreatmentResponse]
