"""What the Page screen shows."""

import sqlite3
from dataclasses import dataclass

from lean_parcel.core.candidates.ranking import judged, ranked
from lean_parcel.core.decisions.state import State
from lean_parcel.core.framing.plan import Plan, plan_framing
from lean_parcel.core.metadata.embed import SegmentSizes
from lean_parcel.core.page.layout import Layout, Page
from lean_parcel.core.page.totals import Totals, total
from lean_parcel.store import database, encodes, framed, inspections, journal, photos, searches
from lean_parcel.store.encodes import Encode
from lean_parcel.store.journal import PAGES
from lean_parcel.store.photos import Photo
from lean_parcel.store.searches import Search, SearchState
from lean_parcel.work.context import Context


@dataclass(frozen=True, slots=True, kw_only=True)
class PagePhoto:
    """A photo as the pages show it: its pick, and the best that its search has found so far."""

    photo: Photo
    state: State
    plan: Plan
    pick: Encode | None
    best: Encode | None
    search_state: SearchState


@dataclass(frozen=True, slots=True, kw_only=True)
class PagesView:
    """The layout with its photos by id, the totals of each page by its id, and the words of what
    undo and redo would do."""

    layout: Layout
    photos: dict[int, PagePhoto]
    totals: dict[int, Totals]
    undo_words: str | None
    redo_words: str | None


class PageViewing:
    """Reads what is shown of the pages."""

    def __init__(self, context: Context) -> None:
        self._context = context

    def pages(self) -> PagesView:
        """All pages with their photos."""
        with self._context.connection() as connection, database.snapshot(connection):
            entry = journal.current(connection, PAGES)
            after = journal.following(connection, entry)
            layout = journal.read_layout(entry)
            shown = {i: _page_photo(connection, i) for i in layout.photo_ids()}
            return PagesView(
                layout=layout,
                photos=shown,
                totals={page.id: _totals(page, shown) for page in layout.pages},
                undo_words=entry.words if entry.parent_id is not None else None,
                redo_words=after.words if after else None,
            )


def _totals(page: Page, shown: dict[int, PagePhoto]) -> Totals:
    photos_here = [shown[spot.photo_id] for spot in page.spots]
    sizes_bytes = [
        (here.pick.measured.size_bytes, here.photo.source.size_bytes)
        for here in photos_here
        if here.pick
    ]
    return total(sizes_bytes, page.budget_bytes)


def _page_photo(connection: sqlite3.Connection, photo_id: int) -> PagePhoto:
    photo = photos.get(connection, photo_id)
    state = journal.state_of(connection, photo_id)
    search = searches.of_photo(connection, photo_id)
    pick_id = state.picked_encode_id
    sizes = inspections.segment_sizes(connection, photo_id, state.framing.metadata)
    return PagePhoto(
        photo=photo,
        state=state,
        plan=plan_framing(photo.source, state.framing, state.aim.place),
        pick=encodes.get(connection, pick_id, sizes) if pick_id else None,
        best=_best(connection, state, search, sizes),
        search_state=search.state,
    )


def _best(
    connection: sqlite3.Connection, state: State, search: Search, sizes: SegmentSizes
) -> Encode | None:
    """The first candidate of a search, if it meets the aim."""
    found = [
        encodes.get(connection, each.encode_id, sizes) for each in search.found if each.meets_aim
    ]
    if not found or search.framed_id is None:
        return None
    best, *_ = ranked(
        [judged(encode.trial, encode.measured, state.aim) for encode in found],
        state.aim,
        is_transparent=framed.get(connection, search.framed_id).search_input.is_transparent,
    )
    return next(encode for encode in found if encode.trial == best.trial)
