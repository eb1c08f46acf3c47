"""The journal of a photo."""

from pydantic import BaseModel

from lean_parcel.core.decisions.journal import Difference, EntryStatus
from lean_parcel.store.journal import Entry
from lean_parcel.work.photos.viewing import Comparison


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
    """Two entries of a journal: what differs, and their framed pixels where they were made."""

    differences: list[Difference]
    framed_ids: tuple[int | None, ...]

    @classmethod
    def of(cls, comparison: Comparison) -> "ComparisonResponse":
        """From what the workspace shows."""
        return cls(differences=list(comparison.differences), framed_ids=comparison.framed_ids)
