"""The journal of a photo."""

from pydantic import BaseModel

from lean_parcel.core.decisions.journal import Difference, EntryStatus
from lean_parcel.store.journal import Entry
from lean_parcel.web.responses.told import Told


class EntryResponse(Told):
    """A step of a journal: the `current` one, one that led to it (`done`), or one that did not
    (`undone`)."""

    id: int
    words: str
    made_at: str
    status: EntryStatus


class JournalResponse(BaseModel):
    """A photo's journal, oldest first."""

    entries: list[EntryResponse]

    @classmethod
    def of(cls, entries: list[tuple[Entry, EntryStatus]]) -> "JournalResponse":
        """From rows and their statuses."""
        return cls(
            entries=[EntryResponse.of_all(entry, status=status) for entry, status in entries]
        )


class ComparisonResponse(BaseModel):
    """What differs between two entries of a journal."""

    differences: list[Difference]
