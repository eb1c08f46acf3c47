"""What goes to an encode task, and what is kept of its file."""

from sqlite3 import Connection

from lean_parcel.core.framing import Framing
from lean_parcel.core.metadata import Blocks
from lean_parcel.core.trial import Measured, Trial
from lean_parcel.store import blobs, cache, encodes
from lean_parcel.store.encodes import Encode
from lean_parcel.store.framed import FramedRow
from lean_parcel.work.tasks import Load


def load_of(connection: Connection, row: FramedRow, framing: Framing, blocks: Blocks) -> Load:
    """Framed pixels, and what travels with them."""
    pixels_png = blobs.get(connection, row.pixels_sha256)
    return Load(pixels_png=pixels_png, gamut=framing.gamut, blocks=blocks)


def keep(
    connection: Connection,
    framed_id: int,
    blocks: Blocks,
    trial: Trial,
    *,
    data: bytes,
    measured: Measured,
    encode_ms: float,
    room_bytes: int,
) -> Encode:
    """Keeps a file as the encode used last, within a transaction, and makes room for it."""
    encode = encodes.add(
        connection,
        framed_id=framed_id,
        blocks=blocks,
        trial=trial,
        measured=measured,
        encode_ms=encode_ms,
        file_sha256=blobs.put(connection, data),
    )
    cache.touch(connection, encode)
    cache.evict(connection, room_bytes)
    return encode
