"""Keeping what the encode task makes, and finding it for its photo."""

from dataclasses import dataclass
from sqlite3 import Connection

from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.metadata.embed import NO_SIZES, SegmentSizes
from lean_parcel.store import blobs, encodes, framed, photos, room
from lean_parcel.store.encodes import Encode
from lean_parcel.store.framed import FramedRow
from lean_parcel.store.photos import Photo
from lean_parcel.work.context import Context
from lean_parcel.work.tasks.encoding import Encoded


@dataclass(frozen=True, slots=True, kw_only=True)
class PhotoEncode:
    """An encode, without metadata, of a photo, and the framed pixels that it was made of."""

    photo: Photo
    framed: FramedRow
    encode: Encode


def encode_of(connection: Connection, photo_id: int, encode_id: int) -> PhotoEncode:
    """An encode of a photo, in whichever framing. Raises NotFoundError."""
    photo = photos.get(connection, photo_id)
    encode = encodes.get(connection, encode_id)
    row = framed.get(connection, encode.framed_id)
    if row.original_sha256 != photo.original_sha256:
        raise NotFoundError(f"There is no candidate {encode_id} for this photo.")
    return PhotoEncode(photo=photo, framed=row, encode=encode)


def store_encode(
    connection: Connection,
    context: Context,
    framed_id: int,
    trial: Trial,
    encoded: Encoded,
    sizes: SegmentSizes = NO_SIZES,
) -> Encode:
    """Stores a file as the encode that was used last, within a transaction, and makes room for it;
    returns it as it is handed out with metadata of these sizes."""
    encode = encodes.add(
        connection,
        framed_id=framed_id,
        trial=trial,
        measured=encoded.measured,
        container_bytes=encoded.container_bytes,
        encode_ms=encoded.encode_ms,
        file_sha256=blobs.put(connection, encoded.data),
        sizes=sizes,
    )
    room.touch(connection, encode)
    context.room.added(connection, len(encoded.data))
    return encode
