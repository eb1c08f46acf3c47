"""Pages and the photos on them, as one value: every change makes a new layout, and undo restores
the old one.

A photo that is on no page was removed; its row stays, so that an older layout can restore it.
"""

from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace
from typing import Any

from lean_parcel.core.decisions.aim import PageAim, check_likeness, check_limit
from lean_parcel.core.decisions.treatment import Treatment
from lean_parcel.core.errors import NotFoundError, UsageError
from lean_parcel.core.formats import Format
from lean_parcel.core.framing.place import Place
from lean_parcel.core.packing.handed import FetchPriority, Loading
from lean_parcel.core.packing.names import DEFAULT_PATTERN, checked_pattern, own_name
from lean_parcel.core.packing.page_code import checked_prefix
from lean_parcel.core.page.names import checked_name
from lean_parcel.core.size import MAX_BYTES

MAX_WEIGHT = 100.0
MAX_ALT_TEXT = 1_000
_MAX_SIZES = 500


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnName:
    """The name that a person gave the file of a density and a format."""

    density: float
    format: Format
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Spot:
    """A photo on a page, what it is called there, and what it gets of the page's bytes: it counts
    by its `weight`, and is no worse than `least_likeness` and at most `most_bytes` where those are
    set. In page code it has an alternative text, None while that is not written, and stands as
    HandedPhoto says; its files have names by the pattern of the page, or `own_names`."""

    photo_id: int
    name: str
    weight: float = 1.0
    least_likeness: float | None = None
    most_bytes: int | None = None
    alt_text: str | None = None
    loading: Loading = "lazy"
    fetch_priority: FetchPriority = "auto"
    sizes: str = ""
    own_names: tuple[OwnName, ...] = ()

    def __post_init__(self) -> None:
        if len(self.alt_text or "") > MAX_ALT_TEXT or len(self.sizes) > _MAX_SIZES:
            raise UsageError(
                f"An alternative text has up to {MAX_ALT_TEXT:,} characters.", "invalid_text"
            )
        if not 0 < self.weight <= MAX_WEIGHT:
            raise UsageError(f"A weight is above 0 and up to {MAX_WEIGHT:g}.", "invalid_weight")
        if self.most_bytes is not None:
            check_limit(self.most_bytes)
        check_likeness(self.least_likeness)


@dataclass(frozen=True, slots=True, kw_only=True)
class Page:
    """Photos in their order, which may share a budget of bytes; those without an aim of their own
    follow the page's `default`. Their files have names by a pattern, and page code finds them below
    a path."""

    id: int
    name: str
    budget_bytes: int | None = None
    default: PageAim | None = None
    name_pattern: str = DEFAULT_PATTERN
    path_prefix: str = ""
    spots: tuple[Spot, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class NamedPlace:
    """A place to choose. A photo keeps the numbers of its place, not its id."""

    id: int
    name: str
    place: Place


@dataclass(frozen=True, slots=True, kw_only=True)
class NamedTreatment:
    """A treatment to choose, and what it is for."""

    id: int
    name: str
    treatment: Treatment


@dataclass(frozen=True, slots=True, kw_only=True)
class Layout:
    """All pages in their order, of which there is always one; and the places and treatments to
    choose from, of these the one that was used last first."""

    pages: tuple[Page, ...] = (Page(id=1, name="First page"),)
    places: tuple[NamedPlace, ...] = ()
    treatments: tuple[NamedTreatment, ...] = ()

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
    return replace(layout, pages=(*layout.pages, Page(id=page_id, name=checked_name(name))))


def without_page(layout: Layout, page_id: int) -> Layout:
    """Without a page and its photos. Raises UsageError `last_page` for the only one."""
    layout.page(page_id)
    if len(layout.pages) == 1:
        raise UsageError("This is the only page. Make another one first.", "last_page")
    return replace(layout, pages=tuple(page for page in layout.pages if page.id != page_id))


def with_page_named(layout: Layout, page_id: int, name: str) -> Layout:
    """With a page under another name."""
    return _with(layout, replace(layout.page(page_id), name=checked_name(name)))


def with_budget(layout: Layout, page_id: int, budget_bytes: int | None) -> Layout:
    """With another budget for a page, or none."""
    if budget_bytes is not None and not 1 <= budget_bytes <= MAX_BYTES:
        raise UsageError("A budget is 1 byte to 1 TB.", "invalid_size")
    return _with(layout, replace(layout.page(page_id), budget_bytes=budget_bytes))


def with_default(layout: Layout, page_id: int, default: PageAim | None) -> Layout:
    """With another aim for the photos of a page that have none of their own, or none."""
    return _with(layout, replace(layout.page(page_id), default=default))


def with_delivery(layout: Layout, page_id: int, changes: Mapping[str, str]) -> Layout:
    """With another `name_pattern` or `path_prefix`. Raises UsageError for what is none."""
    page = layout.page(page_id)
    pattern = checked_pattern(changes.get("name_pattern", page.name_pattern))
    prefix = checked_prefix(changes.get("path_prefix", page.path_prefix))
    return _with(layout, replace(page, name_pattern=pattern, path_prefix=prefix))


def with_own_name(
    layout: Layout, photo_id: int, density: float, name: Format, own: str | None
) -> Layout:
    """With another name for a file of a photo, made safe, or the one by the pattern."""
    rest = [
        each
        for each in layout.spot(photo_id).own_names
        if (each.density, each.format) != (density, name)
    ]
    if own is not None:
        rest.append(OwnName(density=density, format=name, name=own_name(own, name)))
    return with_spots(layout, [photo_id], {"own_names": tuple(rest)})


def with_spots(layout: Layout, photo_ids: Collection[int], changes: Mapping[str, Any]) -> Layout:
    """With other fields, by name, of the spots of some photos."""
    for photo_id in photo_ids:
        page, spot = layout.page_of(photo_id), layout.spot(photo_id)
        changed = replace(spot, **changes)
        spots = tuple(changed if each is spot else each for each in page.spots)
        layout = _with(layout, replace(page, spots=spots))
    return layout


def with_photo(layout: Layout, page_id: int, photo_id: int, name: str) -> Layout:
    """With a photo at the end of a page."""
    page = layout.page(page_id)
    spot = Spot(photo_id=photo_id, name=checked_name(name))
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
        replace(spot, name=checked_name(name)) if spot.photo_id == photo_id else spot
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
    pages = tuple(changed if page.id == changed.id else page for page in layout.pages)
    return replace(layout, pages=pages)
