"""Looking for damage in encodes: once in each, and what is found is stored with it."""

import threading
from concurrent.futures import Future
from contextlib import suppress
from dataclasses import dataclass
from sqlite3 import Connection

from lean_parcel.core.damage.found import Damage, Worst
from lean_parcel.core.damage.kinds import Kind
from lean_parcel.core.damage.measures.view import CELL_PX
from lean_parcel.core.damage.overlay import overlay_png
from lean_parcel.core.damage.spots import Spot, trouble_spots
from lean_parcel.core.decisions.marks import placed
from lean_parcel.core.decisions.state import State
from lean_parcel.core.errors import NotFoundError, StorageError
from lean_parcel.core.framing.plan import plan_framing
from lean_parcel.store import blobs, damages, database, encodes, framed, journal, photos
from lean_parcel.store.encodes import Encode
from lean_parcel.work.context import Context
from lean_parcel.work.queue.work_queue import Priority
from lean_parcel.work.tasks.damage import Examined, examine_task
from lean_parcel.work.tasks.encoder_input import EncoderInput


@dataclass(frozen=True, slots=True, kw_only=True)
class DamageView:
    """What was found in an encode, and its trouble spots where the photo is marked as it is."""

    damage: Damage
    spots: tuple[Spot, ...]


class Examining:
    """Looks for damage, or hands out what was found before."""

    def __init__(self, context: Context) -> None:
        self._context = context
        self._lock = threading.Lock()
        self._under_way: dict[int, Future[Examined]] = {}

    def encode(self, photo_id: int, encode_id: int) -> DamageView:
        """The damage of an encode of a photo; looks for it now if nobody has, so this may wait for
        a worker. Raises NotFoundError, or a TaskError."""
        with self._context.connection() as connection, database.snapshot(connection):
            photo = photos.get(connection, photo_id)
            state = journal.state_of(connection, photo_id)
            encode = encodes.get(connection, encode_id)
            row = framed.get(connection, encode.framed_id)
            if row.original_sha256 != photo.original_sha256:
                raise NotFoundError(f"There is no candidate {encode_id} for this photo.")
            found = damages.find(connection, encode_id)
        damage = found or self._examined(photo_id, encode, state)
        full = row.search_input.rungs[0]
        areas = placed(state.marks, plan_framing(photo.source, state.framing, state.aim.place))
        spots = trouble_spots(damage, (full.width_px, full.height_px), areas)
        return DamageView(damage=damage, spots=tuple(spots))

    def map(self, photo_id: int, encode_id: int, kind: Kind) -> bytes:
        """The strength of a kind by cell as a PNG, opaque where it is strong. Raises as `encode`
        does."""
        return overlay_png(self.encode(photo_id, encode_id).damage.maps[kind])

    def _examined(self, photo_id: int, encode: Encode, state: State) -> Damage:
        with self._lock:
            future = self._under_way.get(encode.id)
            if future is None:
                with self._context.connection() as connection:
                    args = examine_args(connection, self._context, encode, state)
                future = self._context.queue.submit(Priority.ANSWER, examine_task, *args)
                self._under_way[encode.id] = future
        try:
            examined: Examined = self._context.queue.awaited(future)
        finally:
            with self._lock:
                self._under_way.pop(encode.id, None)
        with suppress(StorageError):  # what cannot be written can still be shown
            with self._context.connection() as connection, database.transaction(connection):
                store_examined(connection, encode.id, examined)
            self._context.changes.announce_photo(photo_id)
        return examined.damage


def examine_args(
    connection: Connection, context: Context, encode: Encode, state: State
) -> tuple[object, ...]:
    """What `examine_task` takes for an encode of a photo in a state."""
    row = framed.get(connection, encode.framed_id)
    encoder_input = EncoderInput(
        pixels_png=blobs.get(connection, row.pixels_sha256), gamut=state.framing.gamut
    )
    file = blobs.get(connection, encode.file_sha256)
    return encoder_input, file, encode.trial.settings, context.limits


def store_examined(connection: Connection, encode_id: int, examined: Examined) -> None:
    """Stores what was found in an encode, within a transaction."""
    damage = examined.damage
    rows, columns = next(iter(damage.maps.values())).shape
    spots = trouble_spots(damage, (columns * CELL_PX, rows * CELL_PX))
    worst = (
        Worst(kind=spots[0].kind, strength=spots[0].strength)
        if spots
        else Worst(kind=None, strength=0)
    )
    damages.add(connection, encode_id, damage, worst, examined.flip)
