"""The batch and batch_photo tables: photos weighed together, the latest batch of each page."""

import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass

from lean_parcel.store.rows import as_a


@dataclass(frozen=True, slots=True, kw_only=True)
class Batch:
    """A row of the batch table with its photos."""

    id: int
    words: str
    begun_at: str
    photo_ids: tuple[int, ...]


_DROP = "DELETE FROM batch WHERE page_id = :page_id"
_ADD = "INSERT INTO batch (page_id, words) VALUES (:page_id, :words) RETURNING id"
_ADD_PHOTO = "INSERT INTO batch_photo (batch_id, photo_id) VALUES (:batch_id, :photo_id)"
_OF_PAGE = "SELECT id, words, begun_at FROM batch WHERE page_id = :page_id"
_PHOTOS = "SELECT photo_id FROM batch_photo WHERE batch_id = :batch_id ORDER BY photo_id"


def begin(
    connection: sqlite3.Connection, page_id: int, words: str, photo_ids: Iterable[int]
) -> None:
    """Puts a new batch in the place of a page's older one."""
    end(connection, page_id)
    row = connection.execute(_ADD, {"page_id": page_id, "words": words}).fetchone()
    for photo_id in photo_ids:
        connection.execute(_ADD_PHOTO, {"batch_id": row["id"], "photo_id": photo_id})


def end(connection: sqlite3.Connection, page_id: int) -> None:
    """Forgets the batch of a page; what it made stays."""
    connection.execute(_DROP, {"page_id": page_id})


def of_page(connection: sqlite3.Connection, page_id: int) -> Batch | None:
    """The batch of a page, if it has one."""
    row = connection.execute(_OF_PAGE, {"page_id": page_id}).fetchone()
    if row is None:
        return None
    found = connection.execute(_PHOTOS, {"batch_id": row["id"]})
    return as_a(Batch, row, photo_ids=tuple(each["photo_id"] for each in found))
