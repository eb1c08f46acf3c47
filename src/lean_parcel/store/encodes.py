"""The encode table: every encode made, by framing, settings and pixels sent."""

import json
import sqlite3
from dataclasses import dataclass

from lean_parcel.core.encode import settings_from, settings_values
from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.fit import Measured, Trial


@dataclass(frozen=True, slots=True, kw_only=True)
class Encode:
    """A row of the encode table; the file itself is a blob."""

    id: int
    framing_id: int
    trial: Trial
    measured: Measured
    encode_ms: float
    file_sha256: str


_ADD = """
INSERT INTO encode (framing_id, settings, width_px, height_px, file_sha256, size_bytes, likeness,
  encode_ms)
VALUES (:framing_id, :settings, :width_px, :height_px, :file_sha256, :size_bytes, :likeness,
  :encode_ms)
ON CONFLICT (framing_id, settings, width_px, height_px) DO UPDATE SET encode_ms = encode_ms
RETURNING id, framing_id, settings, width_px, height_px, file_sha256, size_bytes, likeness,
  encode_ms"""
_GET = """
SELECT id, framing_id, settings, width_px, height_px, file_sha256, size_bytes, likeness,
  encode_ms
FROM encode WHERE id = :id"""
_OF_FRAMING = """
SELECT id, framing_id, settings, width_px, height_px, file_sha256, size_bytes, likeness,
  encode_ms
FROM encode WHERE framing_id = :framing_id ORDER BY id"""


def add(
    connection: sqlite3.Connection,
    *,
    framing_id: int,
    trial: Trial,
    measured: Measured,
    encode_ms: float,
    file_sha256: str,
) -> Encode:
    """Keeps an encode; one with the same settings and pixels stays."""
    row = connection.execute(
        _ADD,
        {
            "framing_id": framing_id,
            "settings": json.dumps(settings_values(trial.settings), sort_keys=True),
            "width_px": trial.width_px,
            "height_px": trial.height_px,
            "file_sha256": file_sha256,
            "size_bytes": measured.size_bytes,
            "likeness": measured.likeness,
            "encode_ms": encode_ms,
        },
    ).fetchone()
    return _encode(row)


def get(connection: sqlite3.Connection, encode_id: int) -> Encode:
    """One encode. Raises NotFoundError."""
    row = connection.execute(_GET, {"id": encode_id}).fetchone()
    if row is None:
        raise NotFoundError(f"There is no candidate {encode_id}.")
    return _encode(row)


def of_framing(connection: sqlite3.Connection, framing_id: int) -> list[Encode]:
    """All encodes of a framing, in the order in which they were made."""
    return [_encode(row) for row in connection.execute(_OF_FRAMING, {"framing_id": framing_id})]


def _encode(row: sqlite3.Row) -> Encode:
    return Encode(
        id=row["id"],
        framing_id=row["framing_id"],
        trial=Trial(
            settings=settings_from(json.loads(row["settings"])),
            width_px=row["width_px"],
            height_px=row["height_px"],
        ),
        measured=Measured(size_bytes=row["size_bytes"], likeness=row["likeness"]),
        encode_ms=row["encode_ms"],
        file_sha256=row["file_sha256"],
    )
