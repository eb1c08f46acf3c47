"""Pages and the photos on them, as one value: every change makes a new layout, and undo restores
the old one.

A photo that is on no page was removed; its row stays, so that an older layout can restore it.
"""

from dataclasses import dataclass

from lean_parcel.core.decisions.aim import check_likeness, check_limit
from lean_parcel.core.decisions.page_settings import PageSettings
from lean_parcel.core.decisions.treatment import Treatment
from lean_parcel.core.errors import NotFoundError, UsageError
from lean_parcel.core.formats import Format
from lean_parcel.core.framing.place import Place
from lean_parcel.core.packing.handed import FetchPriority, Loading
from lean_parcel.core.packing.names import CONTROL, DEFAULT_PATTERN

MAX_WEIGHT = 100.0
MAX_ALT_TEXT = 1_000
_MAX_SIZES = 500
_MAX_CREDIT = 300


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
    set. In page code it has an alternative text, None while that is not written, and a `credit`,
    None for the one that the photo brought, and stands as HandedPhoto says; its files have names by
    the pattern of the page, or `own_names`. Photos that were dropped together have a rising
    `order`."""

    photo_id: int
    name: str
    weight: float = 1.0
    least_likeness: float | None = None
    most_bytes: int | None = None
    alt_text: str | None = None
    credit: str | None = None
    loading: Loading = "lazy"
    fetch_priority: FetchPriority = "auto"
    sizes: str = ""
    own_names: tuple[OwnName, ...] = ()
    order: int = 0

    def __post_init__(self) -> None:
        if len(self.alt_text or "") > MAX_ALT_TEXT or len(self.sizes) > _MAX_SIZES:
            raise UsageError(
                f"An alternative text has up to {MAX_ALT_TEXT:,} characters.", "invalid_text"
            )
        if len(self.credit or "") > _MAX_CREDIT or CONTROL.search(self.credit or ""):
            raise UsageError(
                f"A credit is one line of up to {_MAX_CREDIT} characters.", "invalid_text"
            )
        if not 0 < self.weight <= MAX_WEIGHT:
            raise UsageError(f"A weight is above 0 and up to {MAX_WEIGHT:g}.", "invalid_weight")
        if self.most_bytes is not None:
            check_limit(self.most_bytes)
        check_likeness(self.least_likeness)


_FIRST_SETTINGS = PageSettings()


@dataclass(frozen=True, slots=True, kw_only=True)
class Page:
    """Photos in their order, which may share a budget of bytes, and follow the page's `settings` in
    all that was not decided for one alone. Their files have names by a pattern, and page code finds
    them below a path."""

    id: int
    name: str
    budget_bytes: int | None = None
    settings: PageSettings = _FIRST_SETTINGS
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
