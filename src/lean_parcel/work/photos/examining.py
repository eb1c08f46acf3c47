"""Looking for damage in encodes: once in each, and what is found is stored with it."""

import threading
from concurrent.futures import Future
from contextlib import suppress
from dataclasses import dataclass

from lean_parcel.core.damage.bought import Bought, bought
from lean_parcel.core.damage.found import Damage
from lean_parcel.core.damage.kinds import Kind
from lean_parcel.core.damage.overlay import overlay_png
from lean_parcel.core.damage.spots import TroubleSpot, trouble_spots
from lean_parcel.core.decisions.marks import placed
from lean_parcel.core.decisions.state import State, plan_of
from lean_parcel.core.errors import StorageError, UsageError
from lean_parcel.store import damages, journal
from lean_parcel.store.file import database
from lean_parcel.work.context import Context
from lean_parcel.work.photos.missing import ensure_framed_pixels
from lean_parcel.work.queue.work_queue import Priority
from lean_parcel.work.results.damages import examine_args, store_examined
from lean_parcel.work.results.encodes import PhotoEncode, encode_of
from lean_parcel.work.tasks.damage import Examined, examine_task


@dataclass(frozen=True, slots=True, kw_only=True)
class DamageView:
    """What was found in an encode, and its trouble spots where the photo is marked as it is."""

    damage: Damage
    spots: tuple[TroubleSpot, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class BoughtView:
    """What the heavier of two encodes has over the lighter."""

    lighter_id: int
    heavier_id: int
    bought: Bought


class Examining:
    """Looks for damage, or hands out what was found before."""

    def __init__(self, context: Context) -> None:
        self._context = context
        self._lock = threading.Lock()
        self._under_way: dict[int, Future[Examined]] = {}

    def encode(self, photo_id: int, encode_id: int) -> DamageView:
        """The damage of an encode of a photo; looks for it now if nobody has, so this may wait for
        a worker. Raises NotFoundError, or a TaskError."""
        found, state = self._of(photo_id, encode_id)
        damage = self._damage(found, state)
        full = found.framed.search_input.rungs[0]
        plan = plan_of(state, found.photo.source)
        size_px = full.width_px, full.height_px
        spots = trouble_spots(damage, size_px, placed(state.marks, plan))
        return DamageView(damage=damage, spots=tuple(spots))

    def bought(self, photo_id: int, one_id: int, other_id: int) -> BoughtView:
        """What the heavier of two encodes has over the lighter. Raises UsageError `not_comparable`
        for encodes of other framed pixels, and as `encode` does."""
        pair = [self._of(photo_id, encode_id) for encode_id in (one_id, other_id)]
        (lighter, state), (heavier, _) = sorted(
            pair, key=lambda each: each[0].encode.measured.size_bytes
        )
        if lighter.framed.id != heavier.framed.id:
            message = "These two are of other pixels, and cannot be compared place by place."
            raise UsageError(message, "not_comparable")
        full = lighter.framed.search_input.rungs[0]
        return BoughtView(
            lighter_id=lighter.encode.id,
            heavier_id=heavier.encode.id,
            bought=bought(
                self._damage(lighter, state),
                self._damage(heavier, state),
                (full.width_px, full.height_px),
                heavier.encode.measured.size_bytes - lighter.encode.measured.size_bytes,
            ),
        )

    def map(self, photo_id: int, encode_id: int, kind: Kind) -> bytes:
        """The strength of a kind by cell as a PNG, opaque where it is strong. Raises as `encode`
        does."""
        return overlay_png(self._damage(*self._of(photo_id, encode_id)).maps[kind])

    def _of(self, photo_id: int, encode_id: int) -> tuple[PhotoEncode, State]:
        with self._context.connection() as connection, database.snapshot(connection):
            found = encode_of(connection, photo_id, encode_id)
            return found, journal.state_of(connection, photo_id)

    def _damage(self, found: PhotoEncode, state: State) -> Damage:
        encode = found.encode
        with self._context.connection() as connection:
            known = damages.find(connection, encode.id)
        if known:
            return known
        ensure_framed_pixels(self._context, encode.framed_id)
        with self._lock, self._context.connection() as connection:
            known = damages.find(connection, encode.id)
            if known:
                return known
            future = self._under_way.get(encode.id)
            if future is None:
                args = examine_args(connection, self._context, encode, state)
                future = self._context.queue.submit(Priority.ANSWER, examine_task, *args)
                self._under_way[encode.id] = future
        try:
            examined: Examined = self._context.queue.awaited(future)
            self._store(found.photo.id, encode.id, examined)
        finally:  # only now: whoever asks next finds it stored
            with self._lock:
                self._under_way.pop(encode.id, None)
        return examined.damage

    def _store(self, photo_id: int, encode_id: int, examined: Examined) -> None:
        with suppress(StorageError):  # what cannot be written can still be shown
            with self._context.connection() as connection, database.transaction(connection):
                store_examined(connection, encode_id, examined)
            self._context.changes.announce_photo(photo_id)
