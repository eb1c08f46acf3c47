"""The encode table: every encode made, by framed pixels, metadata, settings and pixels sent."""

import hashlib
import json
import sqlite3
from dataclasses import dataclass

from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.encoding.settings import settings_from, settings_values
from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.metadata.values import NO_SEGMENTS, Segments


@dataclass(frozen=True, slots=True, kw_only=True)
class Encode:
    """A row of the encode table; the file itself is a blob."""

    id: int
    framed_id: int
    trial: Trial
    measured: Measured
    encode_ms: float
    file_sha256: str


_ADD = """
INSERT INTO encode (framed_id, settings, width_px, height_px, segments_sha256, file_sha256,
  size_bytes, likeness, encode_ms)
VALUES (:framed_id, :settings, :width_px, :height_px, :segments_sha256, :file_sha256,
  :size_bytes, :likeness, :encode_ms)
ON CONFLICT (framed_id, segments_sha256, settings, width_px, height_px)
DO UPDATE SET encode_ms = encode_ms
RETURNING id, framed_id, settings, width_px, height_px, file_sha256, size_bytes, likeness,
  encode_ms"""
_GET = """
SELECT id, framed_id, settings, width_px, height_px, file_sha256, size_bytes, likeness,
  encode_ms
FROM encode WHERE id = :id"""
_OF_FRAMED = """
SELECT id, framed_id, settings, width_px, height_px, file_sha256, size_bytes, likeness,
  encode_ms
FROM encode WHERE framed_id = :framed_id AND segments_sha256 = :segments_sha256 ORDER BY id"""


def add(
    connection: sqlite3.Connection,
    *,
    framed_id: int,
    segments: Segments,
    trial: Trial,
    measured: Measured,
    encode_ms: float,
    file_sha256: str,
) -> Encode:
    """Stores an encode; one with the same metadata, settings and pixels stays as it is."""
    row = connection.execute(
        _ADD,
        {
            "framed_id": framed_id,
            "settings": json.dumps(settings_values(trial.settings), sort_keys=True),
            "width_px": trial.width_px,
            "height_px": trial.height_px,
            "segments_sha256": _hash(segments),
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


def of_framed(connection: sqlite3.Connection, framed_id: int, segments: Segments) -> list[Encode]:
    """All encodes of framed pixels that carry these segments, in the order in which they were
    made."""
    key = {"framed_id": framed_id, "segments_sha256": _hash(segments)}
    return [_encode(row) for row in connection.execute(_OF_FRAMED, key)]


def _hash(segments: Segments) -> str:
    """A hash of all segments; empty for none."""
    if segments == NO_SEGMENTS:
        return ""
    parts = (segments.exif, segments.xmp, segments.icc)
    return hashlib.sha256(b"".join(hashlib.sha256(part).digest() for part in parts)).hexdigest()


def _encode(row: sqlite3.Row) -> Encode:
    return Encode(
        id=row["id"],
        framed_id=row["framed_id"],
        trial=Trial(
            settings=settings_from(json.loads(row["settings"])),
            width_px=row["width_px"],
            height_px=row["height_px"],
        ),
        measured=Measured(size_bytes=row["size_bytes"], likeness=row["likeness"]),
        encode_ms=row["encode_ms"],
        file_sha256=row["file_sha256"],
    )
