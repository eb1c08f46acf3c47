"""Acts on the pages: each is made by a function, and has its words for the journal."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from lean_parcel.core.errors import UsageError
from lean_parcel.core.formats import Format
from lean_parcel.core.packing.names import checked_pattern, own_name
from lean_parcel.core.packing.page_code import checked_prefix
from lean_parcel.core.page.layout import Layout, OwnName, Page, Spot
from lean_parcel.core.page.names import checked_name
from lean_parcel.core.size import MAX_BYTES


@dataclass(frozen=True, slots=True)
class PageAct:
    """What is done to the pages, in one line, and the function from a layout to the layout after.
    That raises NotFoundError or UsageError where it cannot be done."""

    words: str
    done: Callable[[Layout], Layout]


def add_page(name: str) -> PageAct:
    """Adds a page at the end."""

    def done(layout: Layout) -> Layout:
        page_id = max((page.id for page in layout.pages), default=0) + 1
        return replace(layout, pages=(*layout.pages, Page(id=page_id, name=checked_name(name))))

    return PageAct(f"New page {name}", done)


def remove_page(page_id: int) -> PageAct:
    """Removes a page with its photos; `last_page` for the only one."""

    def done(layout: Layout) -> Layout:
        layout.page(page_id)
        if len(layout.pages) == 1:
            raise UsageError("This is the only page. Make another one first.", "last_page")
        return replace(layout, pages=tuple(page for page in layout.pages if page.id != page_id))

    return PageAct("Removed a page", done)


def rename_page(page_id: int, name: str) -> PageAct:
    """Gives a page another name."""
    return PageAct(
        f"Named a page {name}", lambda layout: _with(layout, page_id, name=checked_name(name))
    )


def set_budget(page_id: int, budget_bytes: int | None) -> PageAct:
    """Gives a page another budget, or none."""

    def done(layout: Layout) -> Layout:
        if budget_bytes is not None and not 1 <= budget_bytes <= MAX_BYTES:
            raise UsageError("A budget is 1 byte to 1 TB.", "invalid_size")
        return _with(layout, page_id, budget_bytes=budget_bytes)

    return PageAct("Budget", done)


def change_settings(page_id: int, changes: Mapping[str, Any]) -> PageAct:
    """Changes settings of a page, by name, for the photos that follow them."""

    def done(layout: Layout) -> Layout:
        settings = replace(layout.page(page_id).settings, **changes)
        return _with(layout, page_id, settings=settings)

    return PageAct("Settings of a page", done)


def set_delivery(page_id: int, changes: Mapping[str, str]) -> PageAct:
    """Changes the `name_pattern` of a page's files, or the `path_prefix` in its page code."""

    def done(layout: Layout) -> Layout:
        page = layout.page(page_id)
        pattern = checked_pattern(changes.get("name_pattern", page.name_pattern))
        prefix = checked_prefix(changes.get("path_prefix", page.path_prefix))
        return _with(layout, page_id, name_pattern=pattern, path_prefix=prefix)

    return PageAct("Names and path of a page's files", done)


def set_shares(photo_ids: Sequence[int], changes: Mapping[str, Any]) -> PageAct:
    """Changes what photos get of their page's bytes: fields of their spots, by name."""
    return PageAct(
        "What photos get of a page", lambda layout: _with_spots(layout, photo_ids, changes)
    )


def set_code(photo_ids: Sequence[int], changes: Mapping[str, Any]) -> PageAct:
    """Changes how photos stand in page code: fields of their spots, by name."""
    return PageAct(
        "How photos stand in page code", lambda layout: _with_spots(layout, photo_ids, changes)
    )


def name_file(photo_id: int, density: float, name: Format, own: str | None) -> PageAct:
    """Gives a file of a photo a name of its own, made safe, or with None the one by the page's
    pattern."""

    def done(layout: Layout) -> Layout:
        rest = [
            each
            for each in layout.spot(photo_id).own_names
            if (each.density, each.format) != (density, name)
        ]
        if own is not None:
            rest.append(OwnName(density=density, format=name, name=own_name(own, name)))
        return _with_spots(layout, [photo_id], {"own_names": tuple(rest)})

    return PageAct("The name of a file", done)


def add_photo(page_id: int, photo_id: int, name: str, order: int = 0) -> PageAct:
    """Puts a stored photo at the end of a page, but before those at the end of a higher order."""

    def done(layout: Layout) -> Layout:
        spots = list(layout.page(page_id).spots)
        at = len(spots)
        while at > 0 and spots[at - 1].order > order > 0:
            at -= 1
        spots.insert(at, Spot(photo_id=photo_id, name=checked_name(name), order=order))
        return _with(layout, page_id, spots=tuple(spots))

    return PageAct(f"Added {name}", done)


def remove_photos(photo_ids: Sequence[int]) -> PageAct:
    """Takes photos off their pages."""

    def done(layout: Layout) -> Layout:
        for photo_id in photo_ids:
            layout = _without(layout, photo_id)
        return layout

    return PageAct(f"Removed {counted(photo_ids)}", done)


def rename_photo(photo_id: int, name: str) -> PageAct:
    """Gives a photo another name."""

    def done(layout: Layout) -> Layout:
        return _with_spots(layout, [photo_id], {"name": checked_name(name)})

    return PageAct(f"Named a photo {name}", done)


def move_photo(photo_id: int, page_id: int, position: int) -> PageAct:
    """Moves a photo to another position, 0 for the first, of its page or another; a position past
    the end is the end."""
    return PageAct("Moved a photo", lambda layout: _moved(layout, photo_id, page_id, position))


def move_photos(photo_ids: Sequence[int], page_id: int) -> PageAct:
    """Moves photos to the end of a page."""

    def done(layout: Layout) -> Layout:
        end = len(layout.photo_ids())
        for photo_id in photo_ids:
            layout = _moved(layout, photo_id, page_id, end)
        return layout

    return PageAct(f"Moved {counted(photo_ids)}", done)


def together(words: str) -> PageAct:
    """Does something to many photos, which is no act on the pages themselves, in these words."""
    return PageAct(words, lambda layout: layout)


def counted(photo_ids: Sequence[int]) -> str:
    """So many photos, in words."""
    return "a photo" if len(photo_ids) == 1 else f"{len(photo_ids)} photos"


def _with(layout: Layout, page_id: int, **changes: Any) -> Layout:
    changed = replace(layout.page(page_id), **changes)
    pages = tuple(changed if page.id == page_id else page for page in layout.pages)
    return replace(layout, pages=pages)


def _with_spots(layout: Layout, photo_ids: Sequence[int], changes: Mapping[str, Any]) -> Layout:
    for photo_id in photo_ids:
        page, spot = layout.page_of(photo_id), layout.spot(photo_id)
        changed = replace(spot, **changes)
        spots = tuple(changed if each is spot else each for each in page.spots)
        layout = _with(layout, page.id, spots=spots)
    return layout


def _without(layout: Layout, photo_id: int) -> Layout:
    page = layout.page_of(photo_id)
    return _with(layout, page.id, spots=tuple(s for s in page.spots if s.photo_id != photo_id))


def _moved(layout: Layout, photo_id: int, page_id: int, position: int) -> Layout:
    spot, rest = layout.spot(photo_id), _without(layout, photo_id)
    spots = list(rest.page(page_id).spots)
    spots.insert(min(max(0, position), len(spots)), spot)
    return _with(rest, page_id, spots=tuple(spots))
