"""Pages and the photos on them, as one value: every change makes a new layout, and undo restores
the old one.

A photo that is on no page was removed; its row stays, so that an older layout can restore it.
"""

import unicodedata
from dataclasses import dataclass, replace

from lean_parcel.core.errors import NotFoundError, UsageError
from lean_parcel.core.size import MAX_BYTES

_MAX_NAME = 120
_MAX_EXTENSION = 8
#: Unicode categories of control characters and lone surrogates.
_CONTROLS = ("Cc", "Cs")
#: Unicode bidirectional classes of what makes a name read differently from what it is.
_DIRECTIONS = ("LRE", "RLE", "LRO", "RLO", "PDF", "LRI", "RLI", "FSI", "PDI")


@dataclass(frozen=True, slots=True, kw_only=True)
class Spot:
    """A photo on a page, and what it is called there."""

    photo_id: int
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Page:
    """Photos in their order, which may share a budget of bytes."""

    id: int
    name: str
    budget_bytes: int | None = None
    spots: tuple[Spot, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Layout:
    """All pages in their order; there is always one."""

    pages: tuple[Page, ...] = (Page(id=1, name="First page"),)

    def page(self, page_id: int) -> Page:
        """One page. Raises NotFoundError."""
        for page in self.pages:
            if page.id == page_id:
                return page
        raise NotFoundError(f"There is no page {page_id}.")

    def spot(self, photo_id: int) -> Spot:
        """Where a photo is. Raises NotFoundError for one that is on no page."""
        for page in self.pages:
            for spot in page.spots:
                if spot.photo_id == photo_id:
                    return spot
        raise NotFoundError(f"There is no photo {photo_id}.")

    def page_of(self, photo_id: int) -> Page:
        """The page on which a photo is. Raises NotFoundError."""
        self.spot(photo_id)
        return next(p for p in self.pages if any(s.photo_id == photo_id for s in p.spots))

    def photo_ids(self) -> tuple[int, ...]:
        """All photos that are on a page, in order."""
        return tuple(spot.photo_id for page in self.pages for spot in page.spots)


def with_page(layout: Layout, name: str) -> Layout:
    """With a new page at the end."""
    page_id = max((page.id for page in layout.pages), default=0) + 1
    return Layout(pages=(*layout.pages, Page(id=page_id, name=_checked(name))))


def without_page(layout: Layout, page_id: int) -> Layout:
    """Without a page and its photos. Raises UsageError `last_page` for the only one."""
    layout.page(page_id)
    if len(layout.pages) == 1:
        raise UsageError("This is the only page. Make another one first.", "last_page")
    return Layout(pages=tuple(page for page in layout.pages if page.id != page_id))


def with_page_named(layout: Layout, page_id: int, name: str) -> Layout:
    """With a page under another name."""
    return _with(layout, replace(layout.page(page_id), name=_checked(name)))


def with_budget(layout: Layout, page_id: int, budget_bytes: int | None) -> Layout:
    """With another budget for a page, or none."""
    if budget_bytes is not None and not 1 <= budget_bytes <= MAX_BYTES:
        raise UsageError("A budget is 1 byte to 1 TB.", "invalid_size")
    return _with(layout, replace(layout.page(page_id), budget_bytes=budget_bytes))


def with_photo(layout: Layout, page_id: int, photo_id: int, name: str) -> Layout:
    """With a photo at the end of a page."""
    page = layout.page(page_id)
    spot = Spot(photo_id=photo_id, name=_checked(name))
    return _with(layout, replace(page, spots=(*page.spots, spot)))


def without_photo(layout: Layout, photo_id: int) -> Layout:
    """Without a photo."""
    page = layout.page_of(photo_id)
    return _with(
        layout, replace(page, spots=tuple(s for s in page.spots if s.photo_id != photo_id))
    )


def with_photo_named(layout: Layout, photo_id: int, name: str) -> Layout:
    """With a photo under another name."""
    page = layout.page_of(photo_id)
    spots = tuple(
        replace(spot, name=_checked(name)) if spot.photo_id == photo_id else spot
        for spot in page.spots
    )
    return _with(layout, replace(page, spots=spots))


def with_photo_at(layout: Layout, photo_id: int, page_id: int, position: int) -> Layout:
    """With a photo at another position, 0 for the first, of its page or another; a position past
    the end is the end."""
    spot = layout.spot(photo_id)
    rest = without_photo(layout, photo_id)
    spots = list(rest.page(page_id).spots)
    spots.insert(min(max(0, position), len(spots)), spot)
    return _with(rest, replace(rest.page(page_id), spots=tuple(spots)))


def _with(layout: Layout, changed: Page) -> Layout:
    return Layout(pages=tuple(changed if page.id == changed.id else page for page in layout.pages))


def name_of_file(file_name: str) -> str:
    """What a photo is called by its file: without folders and control characters, and no longer
    than a name may be, its extension kept."""
    name = _tidy(file_name.replace("\\", "/").rpartition("/")[2]) or "photo"
    stem, dot, extension = name.rpartition(".")
    if len(name) <= _MAX_NAME:
        return name
    ending = f"{dot}{extension}" if stem and len(extension) <= _MAX_EXTENSION else ""
    return name[: _MAX_NAME - len(ending)].rstrip() + ending


def _tidy(name: str) -> str:
    """Without control characters, changes of direction among them, and with single spaces."""
    return " ".join("".join(" " if _is_control(each) else each for each in name).split())


def _is_control(character: str) -> bool:
    category, direction = unicodedata.category(character), unicodedata.bidirectional(character)
    return category in _CONTROLS or direction in _DIRECTIONS


def _checked(name: str) -> str:
    name = _tidy(name)
    if not 0 < len(name) <= _MAX_NAME:
        raise UsageError(f"A name has 1 to {_MAX_NAME} characters.", "invalid_name")
    return name
