"""Balancing a page: what each photo would get of its bytes, before and after, and how sure that is.

Nothing changes until it is taken; it is computed anew from what is measured whenever it is asked
for, so it can be left, and come back to, at any time.
"""

import threading
from collections.abc import Sequence
from dataclasses import dataclass

from lean_parcel.core.balance.allocation import (
    NO_MORE_SEEN,
    Allocation,
    Objective,
    allocated,
    reachable_worst,
)
from lean_parcel.core.balance.doubts import Outlook
from lean_parcel.core.decisions import acts
from lean_parcel.core.errors import NotFoundError, UsageError
from lean_parcel.core.page import page_acts
from lean_parcel.core.page.layout import Page, Spot
from lean_parcel.core.page.totals import Fetched
from lean_parcel.store import journal
from lean_parcel.store.encodes import Encode
from lean_parcel.store.file import database
from lean_parcel.work.context import Context
from lean_parcel.work.pages.balance_run import BalanceRun
from lean_parcel.work.pages.editing import PageEditing
from lean_parcel.work.pages.sharing import Sharer, outlook_of, sharers_of, shares_of
from lean_parcel.work.photos.planned_files import Decided, fetched_of

#: Why a photo of a balanced page stands over its own limit.
REASON = "balanced with its page"


@dataclass(frozen=True, slots=True, kw_only=True)
class BalanceWish:
    """What a page's bytes are spent for: `spend_bytes` of them, or its budget, or what is
    fetched of it; no photo below a likeness."""

    objective: Objective = "worst"
    least_likeness: float = 0.0
    spend_bytes: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class BalancedPhoto:
    """A photo before and after, what is fetched of it now, and by how much its likeness is expected
    to change if the encodes were made that are missed (`uncertainty`)."""

    spot: Spot
    sharer: Sharer
    before: Encode | None
    fetched_bytes: int | None
    after: Encode
    uncertainty: float

    @property
    def after_bytes(self) -> int:
        """What will be fetched of it: the encode, or what is fetched now where nothing changes. A
        variant that a browser prefers to the encode is lighter."""
        is_same = self.before is not None and self.before.id == self.after.id
        now = self.fetched_bytes if is_same else None
        return self.after.measured.size_bytes if now is None else now

    @property
    def is_too_heavy(self) -> bool:
        """Whether nothing that was measured is within the most that it may weigh."""
        most_bytes = self.spot.most_bytes
        return most_bytes is not None and self.after.measured.size_bytes > most_bytes

    @property
    def is_too_unlike(self) -> bool:
        """Whether nothing that it could get has the likeness that it asks for itself."""
        least = self.spot.least_likeness
        return least is not None and self.after.measured.likeness < least


@dataclass(frozen=True, slots=True, kw_only=True)
class BalanceView:
    """A balance of a page: photos, those that are not weighed yet, the bytes to spend and those
    that are spent, by how many they are missed, the likeness that would be in reach then, and how
    many photos miss an encode that can be made; `made` of which were made, while it
    `is_measuring`."""

    wish: BalanceWish
    photos: tuple[BalancedPhoto, ...]
    unweighed: tuple[Spot, ...]
    budget_bytes: int
    spent_bytes: int
    missing_bytes: int
    reachable_likeness: float | None
    gap: float
    doubts: int
    is_measuring: bool
    made: int


class Balancing:
    """Balances pages."""

    def __init__(self, context: Context, editing: PageEditing) -> None:
        self._context = context
        self._editing = editing
        self._lock = threading.Lock()
        self._runs: dict[int, BalanceRun] = {}

    def view(self, page_id: int, wish: BalanceWish) -> BalanceView:
        """What a page would be. Raises NotFoundError, or UsageError `invalid_size` or
        `invalid_likeness`."""
        with self._context.connection() as connection, database.snapshot(connection):
            page = journal.layout_of(connection).page(page_id)
            sharers, unweighed = sharers_of(connection, page)
            decided = Decided.of(connection, [sharer.spot.photo_id for sharer in sharers])
        fetched = [
            fetched_of(decided, sharer.spot.photo_id, page.settings.density) for sharer in sharers
        ]
        picks = [decided.pick(sharer.spot.photo_id) for sharer in sharers]
        shares = shares_of(sharers, wish.least_likeness)
        budget_bytes = _budget(page, wish, fetched)
        found = allocated(shares, budget_bytes, wish.objective)
        outlook = outlook_of(sharers, shares, budget_bytes, wish.objective)
        balanced = _balanced(sharers, found, outlook, picks, fetched)
        run = self._runs.get(page_id)
        return BalanceView(
            wish=wish,
            photos=balanced,
            unweighed=tuple(unweighed),
            budget_bytes=budget_bytes,
            spent_bytes=sum(photo.after_bytes for photo in balanced),
            missing_bytes=found.missing_bytes,
            reachable_likeness=(
                reachable_worst(shares, budget_bytes) if found.missing_bytes else None
            ),
            gap=found.gap,
            doubts=len(outlook.missing()),
            is_measuring=run is not None,
            made=run.made if run else 0,
        )

    def measure(self, page_id: int, wish: BalanceWish) -> None:
        """Begins to make the encodes that a balance misses, in the place of an older run. Raises as
        `view` does."""
        view = self.view(page_id, wish)
        run = BalanceRun(
            self._context,
            [photo.sharer for photo in view.photos],
            view.budget_bytes,
            wish.objective,
            wish.least_likeness,
            on_end=lambda ended: self._forget(page_id, ended),
        )
        self.stop(page_id)
        with self._lock:
            self._runs[page_id] = run
        self._context.queue.add(run)
        self._context.changes.announce_pages()

    def stop(self, page_id: int) -> None:
        """Ends the making of encodes for a balance, if there is any; what was made stays."""
        with self._lock:
            run = self._runs.pop(page_id, None)
        if run:
            self._context.queue.cancel(run)
            self._context.changes.announce_pages()

    def take(self, page_id: int, picks: dict[int, int]) -> None:
        """Takes encodes by the ids of their photos, as they were shown, as one step. Raises
        NotFoundError where a photo is not on the page or was framed anew since, and then nothing
        is taken."""
        with self._context.connection() as connection, database.snapshot(connection):
            page = journal.layout_of(connection).page(page_id)
            sharers, _ = sharers_of(connection, page)
        if elsewhere := set(picks) - {spot.photo_id for spot in page.spots}:
            raise NotFoundError(f"There is no photo {min(elsewhere)} on this page.")
        over = {
            encode.id
            for sharer in sharers
            for encode in sharer.encodes
            if sharer.subject.state.aim.over_bytes(encode.measured.size_bytes)
        }
        taken = {
            photo_id: acts.pick(encode_id, REASON if encode_id in over else "")
            for photo_id, encode_id in picks.items()
        }
        self._editing.do(page_acts.together(f"Balanced {page.name}"), taken)

    def _forget(self, page_id: int, run: BalanceRun) -> None:
        with self._lock:
            if self._runs.get(page_id) is run:
                del self._runs[page_id]


def _budget(page: Page, wish: BalanceWish, fetched: Sequence[Fetched | None]) -> int:
    spend = wish.spend_bytes or page.budget_bytes
    if spend is None:
        spend = sum(each.fetched_bytes for each in fetched if each)
    if spend < 1:
        raise UsageError("Say how many bytes the page may spend.", "budget_missing")
    return spend


def _balanced(
    sharers: Sequence[Sharer],
    found: Allocation,
    outlook: Outlook,
    picks: Sequence[Encode | None],
    fetched: Sequence[Fetched | None],
) -> tuple[BalancedPhoto, ...]:
    changes = outlook.changes(found.chosen)
    return tuple(
        BalancedPhoto(
            spot=sharer.spot,
            sharer=sharer,
            before=pick,
            fetched_bytes=now.fetched_bytes if now else None,
            after=sharer.encodes[index],
            uncertainty=change,
        )
        for sharer, index, change, pick, now in zip(
            sharers, found.chosen, changes, picks, fetched, strict=True
        )
    )


def worst_of(photos: Sequence[BalancedPhoto], *, before: bool) -> float | None:
    """The likeness of the worst photo; None where one has no pick, or there are none."""
    found = [photo.before if before else photo.after for photo in photos]
    if not found or None in found:
        return None
    return min(encode.measured.likeness for encode in found if encode)


def mean_of(photos: Sequence[BalancedPhoto], *, before: bool) -> float | None:
    """The mean likeness by importance, as far as it is seen; None as for the worst."""
    found = [photo.before if before else photo.after for photo in photos]
    if not found or None in found:
        return None
    weights = [photo.sharer.importance for photo in photos]
    seen = [min(encode.measured.likeness, NO_MORE_SEEN) for encode in found if encode]
    return sum(w * s for w, s in zip(weights, seen, strict=True)) / sum(weights)
