"""The framing table: an original in a place, framed once."""

import json
import sqlite3
from dataclasses import asdict, dataclass

from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.fit import Rung, Subject


@dataclass(frozen=True, slots=True, kw_only=True)
class Framing:
    """A row of the framing table."""

    id: int
    original_sha256: str
    pixels_sha256: str
    subject: Subject


_ADD = """
INSERT INTO framing (original_sha256, device_width_px, pixels_sha256, subject)
VALUES (:original_sha256, :device_width_px, :pixels_sha256, :subject)
ON CONFLICT (original_sha256, device_width_px) DO UPDATE SET subject = excluded.subject
RETURNING id, original_sha256, pixels_sha256, subject"""
_FIND = """
SELECT id, original_sha256, pixels_sha256, subject FROM framing
WHERE original_sha256 = :original_sha256 AND device_width_px = :device_width_px"""
_GET = """
SELECT id, original_sha256, pixels_sha256, subject FROM framing WHERE id = :id"""


def add(
    connection: sqlite3.Connection,
    *,
    original_sha256: str,
    device_width_px: int,
    pixels_sha256: str,
    subject: Subject,
) -> Framing:
    """Keeps a framing; one that is there already stays."""
    row = connection.execute(
        _ADD,
        {
            "original_sha256": original_sha256,
            "device_width_px": device_width_px,
            "pixels_sha256": pixels_sha256,
            "subject": json.dumps(asdict(subject)),
        },
    ).fetchone()
    return _framing(row)


def find(
    connection: sqlite3.Connection, original_sha256: str, device_width_px: int
) -> Framing | None:
    """The framing of an original at a width in device pixels, if it was made."""
    row = connection.execute(
        _FIND, {"original_sha256": original_sha256, "device_width_px": device_width_px}
    ).fetchone()
    return _framing(row) if row else None


def get(connection: sqlite3.Connection, framing_id: int) -> Framing:
    """One framing. Raises NotFoundError."""
    row = connection.execute(_GET, {"id": framing_id}).fetchone()
    if row is None:
        raise NotFoundError(f"There is no framing {framing_id}.")
    return _framing(row)


def _framing(row: sqlite3.Row) -> Framing:
    values = json.loads(row["subject"])
    rungs = tuple(Rung(**rung) for rung in values.pop("rungs"))
    return Framing(
        id=row["id"],
        original_sha256=row["original_sha256"],
        pixels_sha256=row["pixels_sha256"],
        subject=Subject(rungs=rungs, **values),
    )
