"""The photo table: originals, and what came in with them."""

import json
import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass

from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.original.source import Source
from lean_parcel.store.rows import as_a


@dataclass(frozen=True, slots=True, kw_only=True)
class Photo:
    """A row of the photo table; `name` is that of the file, and `folder` the one it came in."""

    id: int
    name: str
    folder: str
    original_sha256: str
    thumbnail_sha256: str
    source: Source


_ADD = """
INSERT INTO photo (name, folder, original_sha256, thumbnail_sha256, format, size_bytes, width_px,
  height_px, has_alpha, is_photograph)
VALUES (:name, :folder, :original_sha256, :thumbnail_sha256, :format, :size_bytes, :width_px,
  :height_px, :has_alpha, :is_photograph)
RETURNING id"""
_GET = """
SELECT id, name, folder, original_sha256, thumbnail_sha256, format, size_bytes, width_px, height_px,
  has_alpha, is_photograph
FROM photo WHERE id = :id"""
_GET_ALL = """
SELECT id, name, folder, original_sha256, thumbnail_sha256, format, size_bytes, width_px, height_px,
  has_alpha, is_photograph
FROM photo WHERE id IN (SELECT value FROM json_each(:ids))"""
_OF_ORIGINAL = "SELECT id FROM photo WHERE original_sha256 = :original_sha256 ORDER BY id"
_SET_THUMBNAIL = "UPDATE photo SET thumbnail_sha256 = :thumbnail_sha256 WHERE id = :id"


def add(
    connection: sqlite3.Connection,
    *,
    name: str,
    folder: str,
    original_sha256: str,
    thumbnail_sha256: str,
    source: Source,
) -> int:
    """Stores a photo and returns its id."""
    row = connection.execute(
        _ADD,
        {
            "name": name,
            "folder": folder,
            "original_sha256": original_sha256,
            "thumbnail_sha256": thumbnail_sha256,
            "format": source.format,
            "size_bytes": source.size_bytes,
            "width_px": source.width_px,
            "height_px": source.height_px,
            "has_alpha": source.has_alpha,
            "is_photograph": source.is_photograph,
        },
    ).fetchone()
    return int(row["id"])


def get(connection: sqlite3.Connection, photo_id: int) -> Photo:
    """One photo. Raises NotFoundError."""
    row = connection.execute(_GET, {"id": photo_id}).fetchone()
    if row is None:
        raise NotFoundError(f"There is no photo {photo_id}.")
    return _photo(row)


def of_original(connection: sqlite3.Connection, original_sha256: str) -> list[int]:
    """The ids of the photos of an original."""
    rows = connection.execute(_OF_ORIGINAL, {"original_sha256": original_sha256})
    return [row["id"] for row in rows]


def get_all(connection: sqlite3.Connection, photo_ids: Iterable[int]) -> dict[int, Photo]:
    """Photos by their ids."""
    rows = connection.execute(_GET_ALL, {"ids": json.dumps(list(photo_ids))})
    return {row["id"]: _photo(row) for row in rows}


def set_thumbnail(connection: sqlite3.Connection, photo_id: int, thumbnail_sha256: str) -> None:
    """Replaces a photo's small picture, which shows it as it is framed."""
    connection.execute(_SET_THUMBNAIL, {"id": photo_id, "thumbnail_sha256": thumbnail_sha256})


def _photo(row: sqlite3.Row) -> Photo:
    flags = {name: bool(row[name]) for name in ("has_alpha", "is_photograph")}
    return as_a(Photo, row, source=as_a(Source, row, **flags))
