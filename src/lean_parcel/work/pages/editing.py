"""Changing the pages, alone or together with many photos: every act is one entry of the pages'
journal, with an entry of each photo that it changed, and all of that is undone as one.

An entry of a photo is taken back, or done again, only where the photo is still as the step left it,
or as it found it: what somebody decided about a single photo since stays.
"""

import sqlite3
from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, field

from lean_parcel.core.decisions import acts
from lean_parcel.core.decisions.acts import Act
from lean_parcel.core.decisions.page_settings import PageSettings
from lean_parcel.core.page.layout import Layout
from lean_parcel.core.page.page_acts import PageAct
from lean_parcel.store import journal, photos, searches
from lean_parcel.store.file import database
from lean_parcel.store.journal import PAGES, Entry
from lean_parcel.store.searches import SearchRef
from lean_parcel.work.context import Context
from lean_parcel.work.photos.carrying_out import Step, carry_out, step_of, visit
from lean_parcel.work.photos.picks import MissingPick, with_picks
from lean_parcel.work.searches.runs import SearchRuns
from lean_parcel.work.searches.starting import (
    NewSearch,
    SearchChanges,
    start_search,
    state_of_search,
)


@dataclass(slots=True)
class _Following:
    """What follows a step once it is stored: searches that were stopped; those that follow for each
    photo that changed."""

    stopped: list[SearchRef] = field(default_factory=list)
    changed: dict[int, SearchChanges] = field(default_factory=dict)


class PageEditing:
    """Does acts on the pages of a workspace."""

    def __init__(self, context: Context, runs: SearchRuns) -> None:
        self._context = context
        self._runs = runs

    def do(self, act: PageAct, on_photos: Mapping[int, Act] | None = None) -> Layout:
        """Does an act, and acts on photos with it, and returns the layout after it. Raises
        NotFoundError, a UsageError or a TaskError, and then nothing is stored."""
        return with_picks(self._context, lambda without: self._done(act, on_photos or {}, without))

    def _done(
        self, act: PageAct, on_photos: Mapping[int, Act], without_pick: Collection[int]
    ) -> Layout | MissingPick:
        follows = _Following()
        with self._context.connection() as connection, database.transaction(connection):
            before = journal.layout_of(connection)
            after = act.done(before)
            acts_on = {**_following_settings(connection, before, after), **on_photos}
            for photo_id in acts_on:
                after.spot(photo_id)
            steps: list[Step] = []
            for photo_id, on_photo in acts_on.items():
                step = step_of(connection, photo_id, on_photo, without_pick)
                if isinstance(step, MissingPick):
                    return step
                steps.append(step)
            changed = [step for step in steps if step.after != step.before]
            of_pages = None
            if after != before or changed:
                of_pages = journal.append_layout(connection, act.words, after).id
            for step in steps:
                follows.changed[step.photo.id] = carry_out(connection, step, of_pages)
            _stop_and_restart(connection, before, after, follows)
        self._follow(follows)
        return after

    def undo(self) -> None:
        """Takes the last act on the pages back. Raises UsageError `nothing_to_undo`."""
        self._move(journal.undo, is_back=True)

    def redo(self) -> None:
        """Does an act again that was undone. Raises UsageError `nothing_to_redo`."""
        self._move(journal.redo, is_back=False)

    def _move(
        self,
        move: Callable[[sqlite3.Connection, journal.JournalKey], Entry],
        *,
        is_back: bool,
    ) -> None:
        follows = _Following()
        with self._context.connection() as connection, database.transaction(connection):
            left = journal.current(connection, PAGES)
            arrived = move(connection, PAGES)
            step = left if is_back else arrived
            for entry in journal.of_step(connection, step.id):
                expected, target = entry.id, entry.parent_id
                if not is_back:
                    expected, target = entry.parent_id or 0, entry.id
                if entry.current_id == expected and target is not None:
                    changes = visit(connection, entry.photo_id, target)
                    follows.changed[entry.photo_id] = changes
            before, after = journal.read_layout(left), journal.read_layout(arrived)
            _stop_and_restart(connection, before, after, follows)
        self._follow(follows)

    def _follow(self, follows: _Following) -> None:
        for ref in follows.stopped:
            self._runs.stop(ref)
        for photo_id, changes in follows.changed.items():
            self._runs.follow(changes)
            self._context.changes.announce_photo(photo_id)
        self._context.changes.announce_pages()


def _following_settings(
    connection: sqlite3.Connection, before: Layout, after: Layout
) -> dict[int, Act]:
    """Acts on the photos that follow their page, where its settings are others now, or they are on
    another page."""
    settings = {
        spot.photo_id: page.settings
        for page in after.pages
        for spot in page.spots
        if page.settings != _settings_of(before, spot.photo_id)
    }
    states = journal.states_of(connection, settings)
    return {
        photo_id: acts.follow_page(settings[photo_id], state.follows)
        for photo_id, state in states.items()
        if state.follows
    }


def _settings_of(layout: Layout, photo_id: int) -> PageSettings | None:
    for page in layout.pages:
        if any(spot.photo_id == photo_id for spot in page.spots):
            return page.settings
    return None


def _stop_and_restart(
    connection: sqlite3.Connection, before: Layout, after: Layout, follows: _Following
) -> None:
    """Stops what runs for photos that were removed, and starts again what was stopped of photos
    that were restored."""
    for photo_id in set(before.photo_ids()) - set(after.photo_ids()):
        follows.changed.pop(photo_id, None)
        for ref in searches.all_of(connection, photo_id):
            searches.end(connection, ref.id, "stopped")
            follows.stopped.append(ref)
    for photo_id in set(after.photo_ids()) - set(before.photo_ids()):
        photo = photos.get(connection, photo_id)
        cut_off = [ref for ref in searches.all_of(connection, photo_id) if ref.state == "stopped"]
        states = [(ref.density, state_of_search(connection, photo, ref.density)) for ref in cut_off]
        started = [
            NewSearch(start_search(connection, photo, state, density))
            for density, state in states
            if state
        ]
        if started:
            follows.changed[photo_id] = SearchChanges(tuple(started))
