"""The files of photos: originals, thumbnails, framed pixels, and encodes under safe names."""

from contextlib import suppress
from sqlite3 import OperationalError

from lean_parcel.core.candidates.delivered import delivered_file
from lean_parcel.core.decisions.state import plan_of
from lean_parcel.core.errors import UsageError
from lean_parcel.core.framing.sharpened_part import sharpened_part
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.sharpen import Sharpen
from lean_parcel.store import blobs, encodes, framed, inspections, journal, photos, room
from lean_parcel.store.encodes import Encode
from lean_parcel.store.framed import FramedRow
from lean_parcel.store.photos import Photo
from lean_parcel.work.context import Context
from lean_parcel.work.photos.missing import Inspections, ensure_framed_pixels
from lean_parcel.work.queue.work_queue import Priority
from lean_parcel.work.results.encodes import encode_of
from lean_parcel.work.tasks.framing import frame_task


class Files:
    """Hands out stored bytes. Everything here raises NotFoundError for what is not stored."""

    def __init__(self, context: Context, inspections: Inspections) -> None:
        self._context = context
        self._inspections = inspections

    def original(self, photo_id: int) -> tuple[Photo, bytes]:
        """A photo and the bytes that came in."""
        with self._context.connection() as connection:
            photo = photos.get(connection, photo_id)
            return photo, blobs.get(connection, photo.original_sha256)

    def thumbnail(self, photo_id: int) -> bytes:
        """A small WebP of a photo, as it is framed."""
        with self._context.connection() as connection:
            return blobs.get(connection, photos.get(connection, photo_id).thumbnail_sha256)

    def preview(self, photo_id: int) -> bytes:
        """A WebP of the whole original, upright, to frame it by."""
        inspection = self._inspections.of_photo(photo_id)
        with self._context.connection() as connection:
            return blobs.get(connection, inspection.preview_sha256)

    def framed(self, framed_id: int) -> FramedRow:
        """What is stored of framed pixels."""
        with self._context.connection() as connection:
            return framed.get(connection, framed_id)

    def framed_pixels(self, framed_id: int) -> bytes:
        """Framed pixels, after sharpening, as a lossless PNG."""
        ensure_framed_pixels(self._context, framed_id)
        with self._context.connection() as connection:
            return blobs.get(connection, framed.get(connection, framed_id).pixels_sha256)

    def pixels_of_entry(self, photo_id: int, entry_id: int) -> bytes:
        """The framed pixels of a step of a photo's journal, as a lossless PNG; those that were let
        go are made again, and not kept. Raises a PhotoError or TaskError too."""
        with self._context.connection() as connection:
            photo = photos.get(connection, photo_id)
            state = journal.read_state(
                journal.get(connection, journal.of_photo(photo_id), entry_id)
            )
            plan = plan_of(state, photo.source)
            row = framed.find(connection, photo.original_sha256, plan)
            if row and blobs.has(connection, row.pixels_sha256):
                return blobs.get(connection, row.pixels_sha256)
            original = blobs.get(connection, photo.original_sha256)
        args = (original, photo.name, state.framing, state.aim.place, self._context.limits)
        return self._context.queue.run(Priority.ANSWER, frame_task, *args).pixels_png

    def sharpened(self, framed_id: int, sharpen: Sharpen, box: Box) -> bytes:
        """A part of framed pixels with other sharpening, as a PNG: to judge a setting before it is
        taken."""
        ensure_framed_pixels(self._context, framed_id)
        with self._context.connection() as connection:
            plain_png = blobs.get(connection, framed.get(connection, framed_id).plain_sha256)
        return sharpened_part(plain_png, sharpen, box)

    def encoded(self, encode_id: int) -> tuple[Encode, bytes]:
        """An encode and its file, without metadata."""
        with self._context.connection() as connection:
            encode = encodes.get(connection, encode_id)
            with suppress(OperationalError):  # a file that cannot be written can still be read
                room.touch(connection, encode)
            return encode, blobs.get(connection, encode.file_sha256)

    def delivered(self, photo_id: int, encode_id: int) -> tuple[Encode, bytes]:
        """An encode of a photo, and its file as it is handed out: with what the metadata policy
        that holds now lets through, and no more. Raises UsageError `metadata_not_allowed` for an
        original that cannot go out without its own."""
        encode, data = self.encoded(encode_id)
        self._inspections.of_photo(photo_id)
        with self._context.connection() as connection:
            encode_of(connection, photo_id, encode_id)
            policy = journal.state_of(connection, photo_id).framing.metadata
            segments = inspections.segments_of(connection, photo_id, policy)
        args = (encode.trial, data, segments, policy)
        try:
            if encode.trial.is_pass_through:  # a foreign file is taken apart in a worker
                return encode, self._context.queue.run(Priority.ANSWER, delivered_file, *args)
            return encode, delivered_file(*args)
        except ValueError as error:
            message = "This original carries metadata that may not go out, and cannot be rid of it."
            raise UsageError(message, "metadata_not_allowed", str(error)) from error
