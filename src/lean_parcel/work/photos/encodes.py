"""Encodes between the store and the encode task: what goes in, and keeping what comes out."""

from sqlite3 import Connection

from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.metadata.values import Segments
from lean_parcel.store import blobs, cache, encodes
from lean_parcel.store.encodes import Encode
from lean_parcel.store.framed import FramedRow
from lean_parcel.work.tasks.encoder_input import EncoderInput
from lean_parcel.work.tasks.encoding import Encoded


def encoder_input_of(
    connection: Connection, row: FramedRow, framing: Framing, segments: Segments
) -> EncoderInput:
    """Stored framed pixels as the input of a task."""
    pixels_png = blobs.get(connection, row.pixels_sha256)
    return EncoderInput(pixels_png=pixels_png, gamut=framing.gamut, segments=segments)


def store_encode(
    connection: Connection,
    framed_id: int,
    segments: Segments,
    trial: Trial,
    encoded: Encoded,
    *,
    cache_bytes: int,
) -> Encode:
    """Stores a file as the encode that was used last, within a transaction, and makes room for
    it."""
    encode = encodes.add(
        connection,
        framed_id=framed_id,
        segments=segments,
        trial=trial,
        measured=encoded.measured,
        encode_ms=encoded.encode_ms,
        file_sha256=blobs.put(connection, encoded.data),
    )
    cache.touch(connection, encode)
    cache.evict(connection, cache_bytes)
    return encode
