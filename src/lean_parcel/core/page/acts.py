"""Acts on the pages, as plain values: each can be stored, and has its words for the journal.

`done` does an act: a layout before in, the layout after out.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, cast

from lean_parcel.core.decisions.aim import PageAim
from lean_parcel.core.formats import Format
from lean_parcel.core.page import layout as pages
from lean_parcel.core.page.choices import ChoiceAct, choice_words, chosen
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
class SetDefault:
    """Gives a page another default aim, or none."""

    page_id: int
    default: PageAim | None


@dataclass(frozen=True, slots=True)
class SetShares:
    """Changes what photos get of their page's bytes: fields of their spots, by name."""

    photo_ids: tuple[int, ...]
    changes: Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class SetCode:
    """Changes how photos stand in page code: fields of their spots, by name."""

    photo_ids: tuple[int, ...]
    changes: Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class NameFile:
    """Gives a file of a photo a name of its own, or with None the one by the page's pattern."""

    photo_id: int
    density: float
    format: Format
    name: str | None


@dataclass(frozen=True, slots=True)
class SetDelivery:
    """Changes the pattern of a page's file names, or the path in its page code, by name."""

    page_id: int
    changes: Mapping[str, str]


@dataclass(frozen=True, slots=True)
class AddPhoto:
    """Puts a stored photo at the end of a page."""

    page_id: int
    photo_id: int
    name: str


@dataclass(frozen=True, slots=True)
class RemovePhotos:
    """Takes photos off their pages."""

    photo_ids: tuple[int, ...]


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


@dataclass(frozen=True, slots=True)
class MovePhotos:
    """Moves photos to the end of a page."""

    photo_ids: tuple[int, ...]
    page_id: int


@dataclass(frozen=True, slots=True)
class Together:
    """Does something to many photos, which is no act on the pages themselves, in these words."""

    words: str


PageAct = (
    AddPage
    | RemovePage
    | RenamePage
    | SetBudget
    | SetDefault
    | SetShares
    | SetCode
    | NameFile
    | SetDelivery
    | AddPhoto
    | RemovePhotos
    | RenamePhoto
    | MovePhoto
    | MovePhotos
    | ChoiceAct
    | Together
)


def done(act: PageAct, layout: Layout) -> Layout:
    """The layout after an act. Raises NotFoundError or UsageError."""
    match act:
        case AddPage() | RemovePage() | RenamePage() | SetBudget() | SetDefault() | SetDelivery():
            return _done_to_page(act, layout)
        case AddPhoto(page_id, photo_id, name):
            return pages.with_photo(layout, page_id, photo_id, name)
        case RenamePhoto(photo_id, name):
            return pages.with_photo_named(layout, photo_id, name)
        case MovePhoto(photo_id, page_id, position):
            return pages.with_photo_at(layout, photo_id, page_id, position)
        case NameFile(photo_id, density, name, own):
            return pages.with_own_name(layout, photo_id, density, name, own)
        case SetShares() | SetCode() | RemovePhotos() | MovePhotos():
            return _done_to_photos(act, layout)
        case Together():
            return layout
        case _:
            return chosen(act, layout)


def _done_to_page(
    act: AddPage | RemovePage | RenamePage | SetBudget | SetDefault | SetDelivery, layout: Layout
) -> Layout:
    match act:
        case AddPage(name):
            return pages.with_page(layout, name)
        case RemovePage(page_id):
            return pages.without_page(layout, page_id)
        case RenamePage(page_id, name):
            return pages.with_page_named(layout, page_id, name)
        case SetBudget(page_id, budget_bytes):
            return pages.with_budget(layout, page_id, budget_bytes)
        case SetDefault(page_id, default):
            return pages.with_default(layout, page_id, default)
        case SetDelivery(page_id, changes):
            return pages.with_delivery(layout, page_id, changes)


def _done_to_photos(act: SetShares | SetCode | RemovePhotos | MovePhotos, layout: Layout) -> Layout:
    match act:
        case SetShares(photo_ids, changes) | SetCode(photo_ids, changes):
            return pages.with_spots(layout, photo_ids, changes)
        case RemovePhotos(photo_ids):
            for photo_id in photo_ids:
                layout = pages.without_photo(layout, photo_id)
            return layout
        case MovePhotos(photo_ids, page_id):
            end = len(layout.photo_ids())
            for photo_id in photo_ids:
                layout = pages.with_photo_at(layout, photo_id, page_id, end)
            return layout


def words(act: PageAct, before: Layout) -> str:
    """An act in one line; `before` is the layout to which it is done."""
    match act:
        case Together(told):
            return told
        case AddPage(name):
            return f"New page {name}"
        case RenamePage(_, name):
            return f"Named a page {name}"
        case AddPhoto(_, _, name):
            return f"Added {name}"
        case RenamePhoto(_, name):
            return f"Named a photo {name}"
        case RemovePhotos(photo_ids):
            return f"Removed {_counted(photo_ids)}"
        case MovePhotos(photo_ids):
            return f"Moved {_counted(photo_ids)}"
        case _ if type(act) in _PLAIN:
            return _PLAIN[type(act)]
        case _:
            return choice_words(cast(ChoiceAct, act), before)


_PLAIN: dict[type, str] = {
    RemovePage: "Removed a page",
    SetBudget: "Budget",
    SetDefault: "Aim of a page",
    SetShares: "What photos get of a page",
    SetCode: "How photos stand in page code",
    NameFile: "The name of a file",
    SetDelivery: "Names and path of a page's files",
    MovePhoto: "Moved a photo",
}


def _counted(photo_ids: tuple[int, ...]) -> str:
    return "a photo" if len(photo_ids) == 1 else f"{len(photo_ids)} photos"
