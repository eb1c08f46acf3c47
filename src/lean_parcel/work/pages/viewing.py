"""What the Page screen shows."""

from collections.abc import Collection
from dataclasses import dataclass
from sqlite3 import Connection

from lean_parcel.core.candidates.close_call import close_call, offered
from lean_parcel.core.candidates.ranking import judged, ranked
from lean_parcel.core.decisions.page_settings import SETTINGS
from lean_parcel.core.decisions.state import Setting, State, plan_of
from lean_parcel.core.decisions.treatment import is_as_treated
from lean_parcel.core.framing.plan import Plan
from lean_parcel.core.likeness.levels import LEVELS
from lean_parcel.core.page.layout import Layout, NamedTreatment, Page, Spot
from lean_parcel.core.page.totals import Fetched, Totals, total
from lean_parcel.store import encodes, framed, journal, searches
from lean_parcel.store.encodes import Encode
from lean_parcel.store.file import database
from lean_parcel.store.journal import PAGES
from lean_parcel.store.photos import Photo
from lean_parcel.store.searches import SearchState
from lean_parcel.work.context import Context
from lean_parcel.work.photos.planned_files import Decided, fetched_of


@dataclass(frozen=True, slots=True, kw_only=True)
class PagePhoto:
    """A photo as the pages show it: its pick, and the best that its search has found so far, or why
    it failed; and the treatment that was done to it last."""

    photo: Photo
    name: str
    state: State
    plan: Plan
    spot: Spot
    treatment: NamedTreatment | None
    pick: Encode | None
    fetched: Fetched | None
    best: Encode | None
    search_state: SearchState
    search_error: str | None

    @property
    def is_exception(self) -> bool:
        """Whether the photo was changed since its treatment was done, or that was."""
        named = self.treatment
        if named is None:
            return False
        return not is_as_treated(self.state, named.treatment, self.photo.source)

    @property
    def own(self) -> tuple[Setting, ...]:
        """The settings in which the photo does not follow its page."""
        return tuple(name for name in SETTINGS if name not in self.state.follows)

    @property
    def is_ready(self) -> bool:
        """Whether there is something to take without looking: it meets the aim, is lighter than the
        original, and looks no worse than the last level that has a name."""
        return self.best is not None and self.best.measured.likeness >= LEVELS[-1].least

    @property
    def over_bytes(self) -> int:
        """By how much the pick is over the limit of the photo's aim; 0 where it is not."""
        return self.state.aim.over_bytes(self.pick.measured.size_bytes) if self.pick else 0

    @property
    def came_to(self) -> str:
        """What came of the photo so far, in words: what was taken counts before all else."""
        if self.pick:
            return "taken, over its limit" if self.over_bytes else "taken"
        match self.search_state:
            case "failed":
                return self.search_error or "could not be weighed"
            case "running":
                return "weighing"
            case "stopped":
                return "not weighed yet"
            case "done":
                if self.is_ready:
                    return "ready to take"
                return "damaged within its limit" if self.best else "nothing meets its aim"


@dataclass(frozen=True, slots=True, kw_only=True)
class PagesView:
    """The layout with its photos by id, the totals of each page by its id, and the words of what
    undo and redo would do."""

    layout: Layout
    photos: dict[int, PagePhoto]
    totals: dict[int, Totals]
    undo_words: str | None
    redo_words: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class PageRow:
    """A photo on its page, and what that page comes to."""

    page_id: int
    photo: PagePhoto
    totals: Totals


class PageViewing:
    """Reads what is shown of the pages, in as many queries for one photo as for hundreds."""

    def __init__(self, context: Context) -> None:
        self._context = context

    def pages(self) -> PagesView:
        """All pages with their photos."""
        with self._context.connection() as connection, database.snapshot(connection):
            entry = journal.current(connection, PAGES)
            after = journal.following(connection, entry)
            layout = journal.read_layout(entry)
            decided = Decided.of(connection, layout.photo_ids())
            fetched = _fetched(decided, layout)
            shown = _page_photos(connection, layout, decided, fetched)
        return PagesView(
            layout=layout,
            photos=shown,
            totals={page.id: _totals(page, fetched) for page in layout.pages},
            undo_words=entry.words if entry.parent_id is not None else None,
            redo_words=after.words if after else None,
        )

    def layout(self) -> Layout:
        """Pages, places and treatments as they are decided."""
        with self._context.connection() as connection:
            return journal.layout_of(connection)

    def rows(self, photo_ids: Collection[int]) -> dict[int, PagePhoto]:
        """Photos by their ids. Raises NotFoundError for one that is on no page."""
        with self._context.connection() as connection, database.snapshot(connection):
            layout = journal.layout_of(connection)
            for photo_id in photo_ids:
                layout.spot(photo_id)
            decided = Decided.of(connection, photo_ids)
            return _page_photos(connection, layout, decided, _fetched(decided, layout))

    def row(self, photo_id: int) -> PageRow:
        """A photo on its page. Raises NotFoundError for one that is on none."""
        with self._context.connection() as connection, database.snapshot(connection):
            layout = journal.layout_of(connection)
            page = layout.page_of(photo_id)
            decided = Decided.of(connection, [spot.photo_id for spot in page.spots])
            fetched = _fetched(decided, layout)
            own = {photo_id: fetched[photo_id]}
            shown = _page_photos(connection, layout, decided, own)
        return PageRow(page_id=page.id, photo=shown[photo_id], totals=_totals(page, fetched))


def _fetched(decided: Decided, layout: Layout) -> dict[int, Fetched | None]:
    """What is fetched of the photos that were read, each at the usual density of its page."""
    return {
        spot.photo_id: fetched_of(decided, spot.photo_id, page.settings.density)
        for page in layout.pages
        for spot in page.spots
        if spot.photo_id in decided.states
    }


def _totals(page: Page, fetched: dict[int, Fetched | None]) -> Totals:
    return total(filter(None, (fetched[spot.photo_id] for spot in page.spots)), page.budget_bytes)


def _page_photos(
    connection: Connection,
    layout: Layout,
    decided: Decided,
    fetched: dict[int, Fetched | None],
) -> dict[int, PagePhoto]:
    """The photos of which it is told what is fetched of them."""
    photo_ids = fetched.keys()
    outcomes = searches.outcomes_of(connection, photo_ids)
    wanted = {
        encode_id: decided.sizes[i] for i in photo_ids for encode_id in outcomes[i].fitting_ids
    }
    made = encodes.get_all(connection, wanted)
    framed_ids = [each.framed_id for each in outcomes.values() if each.framed_id is not None]
    transparent_ids = framed.transparent_of(connection, framed_ids)
    treatments = {named.id: named for named in layout.treatments}
    spots = {spot.photo_id: spot for page in layout.pages for spot in page.spots}
    shown = {}
    for i in photo_ids:
        photo, state = decided.rows[i], decided.states[i]
        spot = spots[i]
        shown[i] = PagePhoto(
            photo=photo,
            name=spot.name,
            spot=spot,
            treatment=treatments.get(state.treatment_id or 0),
            state=state,
            plan=plan_of(state, photo.source),
            pick=decided.pick(i),
            fetched=fetched[i],
            best=_best(
                state,
                [made[encode_id] for encode_id in outcomes[i].fitting_ids],
                is_transparent=outcomes[i].framed_id in transparent_ids,
            ),
            search_state=outcomes[i].state,
            search_error=outcomes[i].error_message,
        )
    return shown


def _best(state: State, found: list[Encode], *, is_transparent: bool) -> Encode | None:
    """The first of the candidates that meet the aim."""
    if not found:
        return None
    in_order = ranked(
        [judged(encode.trial, encode.measured, state.aim) for encode in found],
        state.aim,
        is_transparent=is_transparent,
    )
    call = close_call(in_order, state.aim, is_transparent=is_transparent)
    best, *_ = offered(in_order, call)
    return next(encode for encode in found if encode.trial == best.trial)
