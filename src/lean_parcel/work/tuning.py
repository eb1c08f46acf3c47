"""Encodes by hand: one at a time for a photo, before all searches, and none made twice."""

import sqlite3
import threading
from collections.abc import Callable
from concurrent.futures import CancelledError, Future
from contextlib import AbstractContextManager
from dataclasses import replace

from lean_parcel.core.encode import EncoderSettings
from lean_parcel.core.errors import Superseded, UsageError
from lean_parcel.core.knobs import on_background, settled
from lean_parcel.core.scales import drafted
from lean_parcel.core.trial import Trial
from lean_parcel.store import cache, database, encodes, framed, journal, photos, searches
from lean_parcel.store.encodes import Encode
from lean_parcel.store.framed import FramedRow
from lean_parcel.work.changes import Changes
from lean_parcel.work.encoded import keep, load_of
from lean_parcel.work.inspecting import Inspector
from lean_parcel.work.lanes import Lanes
from lean_parcel.work.tasks import Encoded, Load, encode_task

#: A lane of its own, beside those of the photos.
_TUNING = 0


class Tuner:
    """Makes the encodes that a person asks for."""

    def __init__(
        self,
        connection: Callable[[], AbstractContextManager[sqlite3.Connection]],
        lanes: Lanes,
        inspector: Inspector,
        changes: Changes,
        room_bytes: int,
    ) -> None:
        self._connection = connection
        self._lanes = lanes
        self._inspector = inspector
        self._changes = changes
        self._room_bytes = room_bytes
        self._lock = threading.Lock()
        self._waiting: dict[int, Future[Encoded]] = {}

    def encode(
        self,
        photo_id: int,
        settings: EncoderSettings,
        width_px: int | None,
        *,
        may_draft: bool = False,
    ) -> tuple[Encode, bool]:
        """The photo as it is framed, with these settings as they can be, and this many pixels wide
        or all there are: the encode that is kept, or a new one; and whether it is a draft, which
        it `may_draft` where the real one takes its time and is not kept.

        Raises NotFoundError; UsageError `not_framed` before the pixels are made, `invalid_size` for
        more of them than there are, `invalid_settings`; Superseded where the photo's next encode
        was asked for before this one began; a TaskError.
        """
        with self._connection() as connection:
            photo = photos.get(connection, photo_id)
            framing = journal.state_of(connection, photo_id).framing
            framed_id = searches.of_photo(connection, photo_id).framed_id
            if framed_id is None:
                raise UsageError("This photo is still being framed.", "not_framed")
            row = framed.get(connection, framed_id)
            blocks = self._inspector.blocks(connection, photo, framing)
            trial = _trial(row, settled(on_background(settings, framing.background)), width_px)
            kept = {made.trial: made for made in encodes.of_framed(connection, row.id, blocks)}
            draft = _drafted(trial) if may_draft and trial not in kept else trial
            if draft in kept:
                cache.touch(connection, kept[draft])
                return kept[draft], draft != trial
            load = load_of(connection, row, framing, blocks)
        encoded = self._made(photo_id, load, draft)
        with self._connection() as connection, database.transaction(connection):
            encode = keep(
                connection,
                row.id,
                blocks,
                draft,
                data=encoded.data,
                measured=encoded.measured,
                encode_ms=encoded.encode_ms,
                room_bytes=self._room_bytes,
            )
        self._changes.announce(photo_id)
        return encode, draft != trial

    def _made(self, photo_id: int, load: Load, trial: Trial) -> Encoded:
        self._lanes.prefer(_TUNING)
        future = self._lanes.submit(_TUNING, encode_task, load, trial)
        with self._lock:
            older = self._waiting.get(photo_id)
            self._waiting[photo_id] = future
        if older:
            older.cancel()
        try:
            encoded: Encoded = future.result()
        except CancelledError as error:
            raise Superseded("Another encode was asked for in the meantime.") from error
        finally:
            with self._lock:
                if self._waiting.get(photo_id) is future:
                    del self._waiting[photo_id]
        return encoded


def _drafted(trial: Trial) -> Trial:
    """The same with less effort; a JPEG comes at once, and needs no draft."""
    if trial.settings.format == "jpeg":
        return trial
    return replace(trial, settings=drafted(trial.settings))


def _trial(row: FramedRow, settings: EncoderSettings, width_px: int | None) -> Trial:
    full = row.subject.rungs[0]
    width_px = full.width_px if width_px is None else width_px
    if not 1 <= width_px <= full.width_px:
        raise UsageError(f"An encode is 1 to {full.width_px} pixels wide here.", "invalid_size")
    height_px = max(1, round(full.height_px * width_px / full.width_px))
    return Trial(settings=settings, width_px=width_px, height_px=height_px)
