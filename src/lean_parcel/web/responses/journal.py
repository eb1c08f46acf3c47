"""The journal of a photo."""

from pydantic import BaseModel

from lean_parcel.core.decisions.journal import Difference, EntryStatus
from lean_parcel.store.journal import Entry


class EntryResponse(BaseModel):
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
            entries=[
                EntryResponse(id=e.id, words=e.words, made_at=e.made_at, status=status)
                for e, status in entries
            ]
        )


class ComparisonResponse(BaseModel):
    """What differs between two entries of a journal."""

    differences: list[Difference]
