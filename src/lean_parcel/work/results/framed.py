"""Storing framed pixels."""

from sqlite3 import Connection

from lean_parcel.store import blobs, framed
from lean_parcel.store.framed import FramedRow
from lean_parcel.work.tasks.framing import FramedFiles


def store_framed(connection: Connection, original_sha256: str, made: FramedFiles) -> FramedRow:
    """Stores what a worker framed, within a transaction."""
    plain_sha256 = blobs.put(connection, made.plain_png)
    pixels_sha256 = blobs.put(connection, made.pixels_png)
    row = framed.add(
        connection,
        original_sha256=original_sha256,
        plan=made.plan,
        plain_sha256=plain_sha256,
        pixels_sha256=pixels_sha256,
        thumbnail_sha256=blobs.put(connection, made.thumbnail_webp),
        search_input=made.search_input,
    )
    framed.set_pixels(connection, row.id, plain_sha256, pixels_sha256)
    return framed.get(connection, row.id)
