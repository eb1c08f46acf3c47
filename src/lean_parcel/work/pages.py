"""The pages at work: photos on them, their order and names; every act can be undone."""

import sqlite3
from collections.abc import Callable
from contextlib import AbstractContextManager
from dataclasses import dataclass

from lean_parcel.core.journal import State
from lean_parcel.core.layout import (
    Layout,
    Page,
    with_budget,
    with_page,
    with_page_named,
    with_photo_at,
    with_photo_named,
    without_page,
    without_photo,
)
from lean_parcel.core.place import Place
from lean_parcel.core.plan import Plan, plan_framing
from lean_parcel.core.totals import Totals, total
from lean_parcel.store import database, encodes, journal, photos, places, searches
from lean_parcel.store.encodes import Encode
from lean_parcel.store.journal import Entry
from lean_parcel.store.photos import Photo
from lean_parcel.store.places import NamedPlace
from lean_parcel.work.changes import Changes
from lean_parcel.work.search_desk import SearchDesk


@dataclass(frozen=True, slots=True, kw_only=True)
class PagePhoto:
    """A photo as the pages show it: its pick, and the best that its search has found so far."""

    photo: Photo
    state: State
    plan: Plan
    pick: Encode | None
    best: Encode | None
    search_state: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PagesView:
    """The layout with its photos by id, the totals of each page by its id, and the words of what
    undo and redo would do."""

    layout: Layout
    photos: dict[int, PagePhoto]
    totals: dict[int, Totals]
    undo_words: str | None
    redo_words: str | None


class Pages:
    """Acts on the pages of a workspace."""

    def __init__(
        self,
        connection: Callable[[], AbstractContextManager[sqlite3.Connection]],
        desk: SearchDesk,
        changes: Changes,
    ) -> None:
        self._connection = connection
        self._desk = desk
        self._changes = changes

    def view(self) -> PagesView:
        """All pages with their photos."""
        with self._connection() as connection, database.snapshot(connection):
            entry = journal.current(connection, None)
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

    def add_page(self, name: str) -> int:
        """One more page; returns its id."""
        layout = self._change(f"New page {name}", lambda layout: with_page(layout, name))
        return layout.pages[-1].id

    def remove_page(self, page_id: int) -> None:
        """A page less, with its photos."""
        self._change("Removed a page", lambda layout: without_page(layout, page_id))

    def rename_page(self, page_id: int, name: str) -> None:
        """A page under another name."""
        self._change(f"Named a page {name}", lambda layout: with_page_named(layout, page_id, name))

    def set_budget(self, page_id: int, budget_bytes: int | None) -> None:
        """A page with another budget, or none."""
        self._change("Budget", lambda layout: with_budget(layout, page_id, budget_bytes))

    def rename_photo(self, photo_id: int, name: str) -> None:
        """A photo under another name."""
        self._change(
            f"Named a photo {name}", lambda layout: with_photo_named(layout, photo_id, name)
        )

    def move_photo(self, photo_id: int, page_id: int, position: int) -> None:
        """A photo at another position of its page, or of another."""
        self._change(
            "Moved a photo", lambda layout: with_photo_at(layout, photo_id, page_id, position)
        )

    def remove_photo(self, photo_id: int) -> None:
        """A photo less; its original is kept, so that undo can bring it back."""
        self._change("Removed a photo", lambda layout: without_photo(layout, photo_id))

    def undo(self) -> None:
        """Takes the last act on the pages back. Raises UsageError `nothing_to_undo`."""
        self._move(lambda connection: journal.undo(connection, None))

    def redo(self) -> None:
        """Takes an act that was taken back again. Raises UsageError `nothing_to_redo`."""
        self._move(lambda connection: journal.redo(connection, None))

    def list_places(self) -> list[NamedPlace]:
        """Places to choose from."""
        with self._connection() as connection:
            return places.list_all(connection)

    def add_place(self, name: str, place: Place) -> int:
        """A place more; returns its id."""
        with self._connection() as connection:
            return places.add(connection, name, place)

    def change_place(self, place_id: int, name: str, place: Place) -> None:
        """Another name and other numbers for a place. Raises NotFoundError."""
        with self._connection() as connection:
            places.replace(connection, place_id, name, place)

    def remove_place(self, place_id: int) -> None:
        """A place less. Raises NotFoundError."""
        with self._connection() as connection:
            places.remove(connection, place_id)

    def _change(self, words: str, act: Callable[[Layout], Layout]) -> Layout:
        with self._connection() as connection, database.transaction(connection):
            before = journal.layout_of(connection)
            after = act(before)
            if after != before:
                journal.append_layout(connection, words, after)
            started = _settle_searches(connection, before, after)
        self._follow(before, after, started)
        return after

    def _move(self, move: Callable[[sqlite3.Connection], Entry]) -> None:
        with self._connection() as connection, database.transaction(connection):
            before = journal.layout_of(connection)
            after = journal.read_layout(move(connection))
            started = _settle_searches(connection, before, after)
        self._follow(before, after, started)

    def _follow(self, before: Layout, after: Layout, started: dict[int, int]) -> None:
        """Ends the searches for what went, and runs those for what came back."""
        for photo_id in set(before.photo_ids()) - set(after.photo_ids()):
            self._desk.stop(photo_id)
        for photo_id, search_id in started.items():
            self._desk.start(photo_id, search_id)
        self._changes.announce(None)


def _settle_searches(
    connection: sqlite3.Connection, before: Layout, after: Layout
) -> dict[int, int]:
    """Stops what runs for photos that went, and starts again, by photo, what was stopped so."""
    for photo_id in set(before.photo_ids()) - set(after.photo_ids()):
        search = searches.of_photo(connection, photo_id)
        if search.state == "running":
            searches.end(connection, search.id, "stopped")
    started = {}
    for photo_id in set(after.photo_ids()) - set(before.photo_ids()):
        if searches.of_photo(connection, photo_id).state == "stopped":
            aim = journal.state_of(connection, photo_id).aim
            started[photo_id] = searches.start(connection, photo_id, aim.limit_bytes, aim.formats)
    return started


def _totals(page: Page, shown: dict[int, PagePhoto]) -> Totals:
    photos_here = [shown[spot.photo_id] for spot in page.spots]
    sizes_bytes = [
        (here.pick.measured.size_bytes, here.photo.source.size_bytes)
        for here in photos_here
        if here.pick
    ]
    return total(sizes_bytes, page.budget_bytes)


def _page_photo(connection: sqlite3.Connection, photo_id: int) -> PagePhoto:
    state = journal.state_of(connection, photo_id)
    search = searches.of_photo(connection, photo_id)
    found = [encodes.get(connection, f.encode_id) for f in search.found if f.within_limit]
    is_for_bytes = state.aim.likeness is None
    best = max(
        found,
        key=lambda encode: (
            encode.measured.likeness if is_for_bytes else -encode.measured.size_bytes
        ),
        default=None,
    )
    pick_id = state.picked_encode_id
    photo = photos.get(connection, photo_id)
    source = photo.source
    return PagePhoto(
        photo=photo,
        state=state,
        plan=plan_framing(source.width_px, source.height_px, state.framing, state.aim.place),
        pick=encodes.get(connection, pick_id) if pick_id else None,
        best=best,
        search_state=search.state,
    )
