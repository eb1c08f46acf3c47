"""Encodes by hand: one at a time for a photo, before all searches, and none made twice."""

import threading
from concurrent.futures import CancelledError, Future
from contextlib import suppress
from dataclasses import dataclass, replace
from sqlite3 import OperationalError

from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.knobs import resolved
from lean_parcel.core.encoding.settings import (
    EncoderSettings,
    Settings,
    draft_settings,
    on_background,
)
from lean_parcel.core.errors import NotFoundError, Superseded, UsageError
from lean_parcel.core.framing.framing import background_behind
from lean_parcel.store import (
    blobs,
    database,
    encodes,
    framed,
    inspections,
    photos,
    room,
    searches,
)
from lean_parcel.store.encodes import Encode
from lean_parcel.store.framed import FramedRow
from lean_parcel.store.searches import OWN
from lean_parcel.work.context import Context
from lean_parcel.work.photos.encodes import store_encode
from lean_parcel.work.photos.inspections import Inspections
from lean_parcel.work.photos.pixels import ensure_pixels
from lean_parcel.work.queue.work_queue import Priority
from lean_parcel.work.searches.starting import state_of_search
from lean_parcel.work.tasks.encoder_input import EncoderInput
from lean_parcel.work.tasks.encoding import Encoded, encode_task


@dataclass(frozen=True, slots=True, kw_only=True)
class Tuned:
    """An encode that was asked for, or a draft of it; the settings that were asked for, as the
    rules allow them; and the aim of its photo."""

    encode: Encode
    is_draft: bool
    wanted: Settings
    aim: Aim


class Tuning:
    """Makes the encodes that a person asks for."""

    def __init__(self, context: Context, inspections: Inspections) -> None:
        self._context = context
        self._inspections = inspections
        self._lock = threading.Lock()
        #: The newest encode that was asked for of each photo, until it is made.
        self._newest: dict[int, Future[Encoded]] = {}

    def encode(
        self,
        photo_id: int,
        settings: EncoderSettings,
        width_px: int | None,
        *,
        may_draft: bool = False,
        density: float = OWN,
    ) -> Tuned:
        """An encode of the photo as it is framed, or of its variants at a density, with these
        settings as far as the rules allow, this many pixels wide or with all there are.

        A stored encode is used again. Where `may_draft` is set, an encode that takes its time and
        is not stored is answered by a draft of it. Raises NotFoundError; UsageError `not_framed`
        before the pixels are made, `invalid_size` for more pixels than there are,
        `invalid_settings`; Superseded where the photo's next encode was asked for before this one
        began; a TaskError.
        """
        self._inspections.of_photo(photo_id)
        ensure_pixels(self._context, photo_id, density)
        with self._context.connection() as connection:
            state = state_of_search(connection, photos.get(connection, photo_id), density)
            search = searches.at_density(connection, photo_id, density)
            if state is None or search is None:
                raise NotFoundError(f"This photo has no variants at {density:g}×.")
            framing, framed_id = state.framing, search.framed_id
            if framed_id is None:
                raise UsageError("This photo is still being framed.", "not_framed")
            row = framed.get(connection, framed_id)
            sizes = inspections.segment_sizes(connection, photo_id, framing.metadata)
            behind = background_behind(framing, is_transparent=row.search_input.is_transparent)
            wanted = _trial(row, resolved(on_background(settings, behind)), width_px)
            stored = {made.trial: made for made in encodes.of_framed(connection, row.id, sizes)}
            trial = _draft_of(wanted) if may_draft and wanted not in stored else wanted
            if trial in stored:
                with suppress(OperationalError):  # what cannot be written can still be shown
                    room.touch(connection, stored[trial])
                return Tuned(
                    encode=stored[trial],
                    is_draft=trial != wanted,
                    wanted=wanted.settings,
                    aim=state.aim,
                )
            pixels_png = blobs.get(connection, row.pixels_sha256)
            encoder_input = EncoderInput(pixels_png=pixels_png, gamut=framing.gamut)
        encoded = self._make(photo_id, encoder_input, trial)
        with self._context.connection() as connection, database.transaction(connection):
            encode = store_encode(connection, self._context, row.id, trial, encoded, sizes)
        self._context.changes.announce_photo(photo_id)
        return Tuned(encode=encode, is_draft=trial != wanted, wanted=wanted.settings, aim=state.aim)

    def _make(self, photo_id: int, encoder_input: EncoderInput, trial: Trial) -> Encoded:
        """Makes an encode, in the place of an older one of the photo that still waits."""
        future = self._context.queue.submit(Priority.ANSWER, encode_task, encoder_input, trial)
        with self._lock:
            older = self._newest.get(photo_id)
            self._newest[photo_id] = future
        if older:
            older.cancel()
        try:
            encoded: Encoded = self._context.queue.awaited(future)
        except CancelledError as error:
            raise Superseded("Another encode was asked for in the meantime.") from error
        finally:
            with self._lock:
                if self._newest.get(photo_id) is future:
                    del self._newest[photo_id]
        return encoded


def _draft_of(trial: Trial) -> Trial:
    """The draft of a trial; a JPEG is quick, and needs none."""
    if trial.settings.format == "jpeg":
        return trial
    return replace(trial, settings=draft_settings(trial.settings))


def _trial(row: FramedRow, settings: EncoderSettings, width_px: int | None) -> Trial:
    full = row.search_input.rungs[0]
    width_px = full.width_px if width_px is None else width_px
    if not 1 <= width_px <= full.width_px:
        raise UsageError(f"An encode is 1 to {full.width_px} pixels wide here.", "invalid_size")
    height_px = max(1, round(full.height_px * width_px / full.width_px))
    return Trial(settings=settings, width_px=width_px, height_px=height_px)
