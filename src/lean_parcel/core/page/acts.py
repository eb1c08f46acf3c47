"""Acts on the pages, as plain values: each can be stored, and has its words for the journal.

`done` does an act: a layout before in, the layout after out.
"""

from dataclasses import dataclass

from lean_parcel.core.page import layout as pages
from lean_parcel.core.page.layout import Layout


@dataclass(frozen=True, slots=True)
class AddPage:
    """Adds a page at the end."""

    name: str


@dataclass(frozen=True, slots=True)
class RemovePage:
    """Removes a page with its photos."""

    page_id: int


@dataclass(frozen=True, slots=True)
class RenamePage:
    """Gives a page another name."""

    page_id: int
    name: str


@dataclass(frozen=True, slots=True)
class SetBudget:
    """Gives a page another budget, or none."""

    page_id: int
    budget_bytes: int | None


@dataclass(frozen=True, slots=True)
class AddPhoto:
    """Puts a stored photo at the end of a page."""

    page_id: int
    photo_id: int
    name: str


@dataclass(frozen=True, slots=True)
class RemovePhoto:
    """Takes a photo off its page."""

    photo_id: int


@dataclass(frozen=True, slots=True)
class RenamePhoto:
    """Gives a photo another name."""

    photo_id: int
    name: str


@dataclass(frozen=True, slots=True)
class MovePhoto:
    """Moves a photo to another position, 0 for the first, of its page or another."""

    photo_id: int
    page_id: int
    position: int


PageAct = (
    AddPage | RemovePage | RenamePage | SetBudget | AddPhoto | RemovePhoto | RenamePhoto | MovePhoto
)


def done(act: PageAct, layout: Layout) -> Layout:
    """The layout after an act. Raises NotFoundError or UsageError."""
    match act:
        case AddPage(name):
            return pages.with_page(layout, name)
        case RemovePage(page_id):
            return pages.without_page(layout, page_id)
        case RenamePage(page_id, name):
            return pages.with_page_named(layout, page_id, name)
        case SetBudget(page_id, budget_bytes):
            return pages.with_budget(layout, page_id, budget_bytes)
        case AddPhoto(page_id, photo_id, name):
            return pages.with_photo(layout, page_id, photo_id, name)
        case RemovePhoto(photo_id):
            return pages.without_photo(layout, photo_id)
        case RenamePhoto(photo_id, name):
            return pages.with_photo_named(layout, photo_id, name)
        case MovePhoto(photo_id, page_id, position):
            return pages.with_photo_at(layout, photo_id, page_id, position)


def words(act: PageAct) -> str:
    """An act in one line."""
    match act:
        case AddPage(name):
            return f"New page {name}"
        case RemovePage():
            return "Removed a page"
        case RenamePage(_, name):
            return f"Named a page {name}"
        case SetBudget():
            return "Budget"
        case AddPhoto(_, _, name):
            return f"Added {name}"
        case RemovePhoto():
            return "Removed a photo"
        case RenamePhoto(_, name):
            return f"Named a photo {name}"
        case MovePhoto():
            return "Moved a photo"
