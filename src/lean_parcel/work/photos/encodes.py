"""Keeping what the encode task makes."""

from sqlite3 import Connection

from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.metadata.embed import NO_SIZES, SegmentSizes
from lean_parcel.store import blobs, encodes, room
from lean_parcel.store.encodes import Encode
from lean_parcel.work.context import Context
from lean_parcel.work.tasks.encoding import Encoded


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
