"""Encodes by hand: one at a time for a photo, before all searches, and none made twice; a glimpse
of what is in sight before the whole is made, and before that what is to be expected."""

import threading
from concurrent.futures import CancelledError, Future
from contextlib import suppress
from dataclasses import dataclass
from sqlite3 import Connection, OperationalError

from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.state import State
from lean_parcel.core.encoding.glimpse import Glimpse
from lean_parcel.core.encoding.knobs import resolved
from lean_parcel.core.encoding.settings import EncoderSettings, PassThrough, on_background
from lean_parcel.core.errors import NotFoundError, Superseded, TaskCrashed, UsageError
from lean_parcel.core.framing.framing import background_behind
from lean_parcel.core.picture.box import Box
from lean_parcel.core.search.forecast import QualityStep, along_quality
from lean_parcel.store import blobs, encodes, framed, inspections, photos, room, searches
from lean_parcel.store.encodes import Encode
from lean_parcel.store.file import database
from lean_parcel.store.framed import FramedRow
from lean_parcel.store.searches import OWN
from lean_parcel.work.context import Context
from lean_parcel.work.photos.missing import Inspections, ensure_pixels
from lean_parcel.work.queue.work_queue import Priority
from lean_parcel.work.results.encodes import store_encode
from lean_parcel.work.searches.starting import state_of_search
from lean_parcel.work.tasks.encoder_input import EncoderInput
from lean_parcel.work.tasks.encoding import Encoded, encode_task, glimpse_task


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """What a person asks for: an encode of a photo as it is framed, or of its variants at a
    density, with these settings as far as the rules allow, this many pixels wide or with all there
    are."""

    photo_id: int
    settings: EncoderSettings
    width_px: int | None = None
    density: float = OWN


@dataclass(frozen=True, slots=True, kw_only=True)
class Tuned:
    """An encode that was asked for, and the aim of its photo."""

    encode: Encode
    aim: Aim


@dataclass(frozen=True, slots=True, kw_only=True)
class _Subject:
    """A photo in a state, its framed pixels, and the trial that was asked for."""

    state: State
    row: FramedRow
    trial: Trial


class Tuning:
    """Makes the encodes that a person asks for."""

    def __init__(self, context: Context, inspections: Inspections) -> None:
        self._context = context
        self._inspections = inspections
        self._lock = threading.Lock()
        #: The newest encode that was asked for of each photo, until it is made.
        self._newest: dict[int, Future[Encoded]] = {}

    def encode(self, wanted: Wanted) -> Tuned:
        """The encode that is wanted; a stored one is used again.

        Raises NotFoundError; UsageError `not_framed` before the pixels are made, `invalid_size` for
        more pixels than there are, `invalid_settings`; Superseded where something else was asked
        for of the photo before this was made; a TaskError.
        """
        photo_id = wanted.photo_id
        self._prepare(wanted)
        with self._context.connection() as connection:
            subject = _subject(connection, wanted)
            row, policy = subject.row, subject.state.framing.metadata
            sizes = inspections.segment_sizes(connection, photo_id, policy)
            stored = {made.trial: made for made in encodes.of_framed(connection, row.id, sizes)}
            encode = stored.get(subject.trial)
            if encode:
                with suppress(OperationalError):  # what cannot be written can still be shown
                    room.touch(connection, encode)
                return Tuned(encode=encode, aim=subject.state.aim)
            encoder_input = _encoder_input(connection, subject)
        encoded = self._make(photo_id, encoder_input, subject.trial)
        with self._context.connection() as connection, database.transaction(connection):
            encode = store_encode(connection, self._context, row.id, subject.trial, encoded, sizes)
        self._context.changes.announce_photo(photo_id)
        return Tuned(encode=encode, aim=subject.state.aim)

    def along_quality(self, wanted: Wanted) -> tuple[QualityStep, ...]:
        """What the wanted settings come to at each step of quality, rising: measured, or expected;
        nothing where they have none, or the ladder is not measured. Raises as `encode` does, before
        anything is made."""
        with self._context.connection() as connection:
            subject = _subject(connection, wanted)
            sizes = inspections.segment_sizes(
                connection, wanted.photo_id, subject.state.framing.metadata
            )
            made = encodes.of_framed(connection, subject.row.id, sizes)
        search_input = subject.row.search_input
        settings = subject.trial.settings
        if not search_input.is_measured or isinstance(settings, PassThrough):
            return ()
        return along_quality(
            settings,
            subject.trial.width_px,
            search_input,
            {encode.trial: encode.measured for encode in made},
            background_behind(subject.state.framing, is_transparent=search_input.is_transparent),
            subject.state.aim.held,
        )

    def glimpse(self, wanted: Wanted, box: Box) -> Glimpse:
        """How a box of the framed pixels will look in what is wanted; nothing is stored. An encode
        of the photo that is under way is given up. Raises as `encode` does."""
        self._take_the_place(wanted.photo_id, None)
        self._prepare(wanted)
        with self._context.connection() as connection:
            subject = _subject(connection, wanted)
            encoder_input = _encoder_input(connection, subject)
        full, trial = subject.row.search_input.rungs[0], subject.trial
        share = trial.width_px / full.width_px
        seen = box.within(full.width_px, full.height_px)
        sent_box = Box(
            left_px=round(seen.left_px * share),
            top_px=round(seen.top_px * share),
            width_px=round(seen.width_px * share),
            height_px=round(seen.height_px * share),
        )
        args = (encoder_input, trial, sent_box)
        return self._context.queue.run(Priority.ANSWER, glimpse_task, *args)

    def _prepare(self, wanted: Wanted) -> None:
        self._inspections.of_photo(wanted.photo_id)
        ensure_pixels(self._context, wanted.photo_id, wanted.density)

    def _make(self, photo_id: int, encoder_input: EncoderInput, trial: Trial) -> Encoded:
        """Makes an encode, in the place of an older one of the photo."""
        future = self._context.queue.submit(Priority.ANSWER, encode_task, encoder_input, trial)
        self._take_the_place(photo_id, future)
        try:
            encoded: Encoded = self._context.queue.awaited(future)
        except CancelledError as error:
            raise _superseded() from error
        except TaskCrashed as error:
            if self._newest.get(photo_id) is not future:
                raise _superseded() from error
            raise
        finally:
            with self._lock:
                if self._newest.get(photo_id) is future:
                    del self._newest[photo_id]
        return encoded

    def _take_the_place(self, photo_id: int, future: Future[Encoded] | None) -> None:
        """Ends the encode of a photo that is under way, if there is one; another is now, or
        none."""
        with self._lock:
            older = self._newest.pop(photo_id, None)
            if future:
                self._newest[photo_id] = future
        if older:
            self._context.queue.withdraw(older)


def _superseded() -> Superseded:
    return Superseded("Something else was asked for in the meantime.")


def _subject(connection: Connection, wanted: Wanted) -> _Subject:
    photo_id, density = wanted.photo_id, wanted.density
    state = state_of_search(connection, photos.get(connection, photo_id), density)
    search = searches.at_density(connection, photo_id, density)
    if state is None or search is None:
        raise NotFoundError(f"This photo has no variants at {density:g}×.")
    if search.framed_id is None:
        raise UsageError("This photo is still being framed.", "not_framed")
    row = framed.get(connection, search.framed_id)
    behind = background_behind(state.framing, is_transparent=row.search_input.is_transparent)
    settings = resolved(on_background(wanted.settings, behind))
    return _Subject(state=state, row=row, trial=_trial(row, settings, wanted.width_px))


def _encoder_input(connection: Connection, subject: _Subject) -> EncoderInput:
    pixels_png = blobs.get(connection, subject.row.pixels_sha256)
    return EncoderInput(
        pixels_png=pixels_png, gamut=subject.state.framing.gamut, density=subject.row.density
    )


def _trial(row: FramedRow, settings: EncoderSettings, width_px: int | None) -> Trial:
    full = row.search_input.rungs[0]
    width_px = full.width_px if width_px is None else width_px
    if not 1 <= width_px <= full.width_px:
        raise UsageError(f"An encode is 1 to {full.width_px} pixels wide here.", "invalid_size")
    height_px = max(1, round(full.height_px * width_px / full.width_px))
    return Trial(settings=settings, width_px=width_px, height_px=height_px)
