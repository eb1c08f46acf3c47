"""The photo table: originals, their aims and picks."""

import json
import sqlite3
from dataclasses import dataclass

from lean_parcel.core.aim import Aim
from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.frame import Place
from lean_parcel.core.photo import Source


@dataclass(frozen=True, slots=True, kw_only=True)
class Photo:
    """A row of the photo table."""

    id: int
    name: str
    original_sha256: str
    thumbnail_sha256: str
    source: Source
    aim: Aim
    picked_encode_id: int | None


_ADD = """
INSERT INTO photo (name, original_sha256, thumbnail_sha256, format, size_bytes, width_px, height_px,
  has_alpha, css_width_px, density, limit_bytes, background, formats, aim_order)
VALUES (:name, :original_sha256, :thumbnail_sha256, :format, :size_bytes, :width_px, :height_px,
  :has_alpha, :css_width_px, :density, :limit_bytes, :background, :formats,
  (SELECT coalesce(max(aim_order), 0) + 1 FROM photo))
RETURNING id"""
_GET = """
SELECT id, name, original_sha256, thumbnail_sha256, format, size_bytes, width_px, height_px,
  has_alpha, css_width_px, density, limit_bytes, background, formats, picked_encode_id
FROM photo WHERE id = :id"""
_LIST = """
SELECT id, name, original_sha256, thumbnail_sha256, format, size_bytes, width_px, height_px,
  has_alpha, css_width_px, density, limit_bytes, background, formats, picked_encode_id
FROM photo ORDER BY id"""
_LATEST_AIM = """
SELECT id, name, original_sha256, thumbnail_sha256, format, size_bytes, width_px, height_px,
  has_alpha, css_width_px, density, limit_bytes, background, formats, picked_encode_id
FROM photo ORDER BY aim_order DESC LIMIT 1"""
_SET_AIM = """
UPDATE photo SET css_width_px = :css_width_px, density = :density, limit_bytes = :limit_bytes,
  background = :background, formats = :formats,
  aim_order = (SELECT max(aim_order) + 1 FROM photo)
WHERE id = :id"""
_SET_PICK = "UPDATE photo SET picked_encode_id = :encode_id WHERE id = :id"


def add(
    connection: sqlite3.Connection,
    *,
    name: str,
    original_sha256: str,
    thumbnail_sha256: str,
    source: Source,
    aim: Aim,
) -> int:
    """Stores a photo and returns its id."""
    row = connection.execute(
        _ADD,
        {
            "name": name,
            "original_sha256": original_sha256,
            "thumbnail_sha256": thumbnail_sha256,
            "format": source.format,
            "size_bytes": source.size_bytes,
            "width_px": source.width_px,
            "height_px": source.height_px,
            "has_alpha": source.has_alpha,
            **_aim_values(aim),
        },
    ).fetchone()
    return int(row["id"])


def get(connection: sqlite3.Connection, photo_id: int) -> Photo:
    """One photo. Raises NotFoundError."""
    row = connection.execute(_GET, {"id": photo_id}).fetchone()
    if row is None:
        raise NotFoundError(f"There is no photo {photo_id}.")
    return _photo(row)


def list_all(connection: sqlite3.Connection) -> list[Photo]:
    """All photos in the order in which they came."""
    return [_photo(row) for row in connection.execute(_LIST)]


def latest_aim(connection: sqlite3.Connection) -> Aim | None:
    """The aim that was set last, for the next photo to start from."""
    row = connection.execute(_LATEST_AIM).fetchone()
    return _photo(row).aim if row else None


def set_aim(connection: sqlite3.Connection, photo_id: int, aim: Aim) -> None:
    """Replaces a photo's aim."""
    connection.execute(_SET_AIM, {"id": photo_id, **_aim_values(aim)})


def set_pick(connection: sqlite3.Connection, photo_id: int, encode_id: int | None) -> None:
    """Replaces a photo's pick, or takes it back."""
    connection.execute(_SET_PICK, {"id": photo_id, "encode_id": encode_id})


def _aim_values(aim: Aim) -> dict[str, object]:
    return {
        "css_width_px": aim.place.css_width_px,
        "density": aim.place.density,
        "limit_bytes": aim.limit_bytes,
        "background": aim.background,
        "formats": json.dumps(aim.formats),
    }


def _photo(row: sqlite3.Row) -> Photo:
    return Photo(
        id=row["id"],
        name=row["name"],
        original_sha256=row["original_sha256"],
        thumbnail_sha256=row["thumbnail_sha256"],
        source=Source(
            format=row["format"],
            size_bytes=row["size_bytes"],
            width_px=row["width_px"],
            height_px=row["height_px"],
            has_alpha=bool(row["has_alpha"]),
        ),
        aim=Aim(
            place=Place(css_width_px=row["css_width_px"], density=row["density"]),
            limit_bytes=row["limit_bytes"],
            background=row["background"],
            formats=tuple(json.loads(row["formats"])),
        ),
        picked_encode_id=row["picked_encode_id"],
    )
