"""The encode and estimate tables: every encode made, and what drafts of a part estimate of one, by
framed pixels, settings, pixels sent, and the version of the encoder: an encode that is made in
another way now is kept where it was taken, and not found.

Files are kept without metadata; an encode is read as it is handed out with the metadata of its
photo, whose sizes are given.
"""

import json
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

from lean_parcel.core.candidates.delivered import delivered_measure
from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.damage.found import Worst
from lean_parcel.core.encoding.settings import (
    Settings,
    encoder_version,
    settings_from,
    settings_values,
)
from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.metadata.embed import NO_SIZES, SegmentSizes
from lean_parcel.store.rows import as_a


@dataclass(frozen=True, slots=True, kw_only=True)
class Encode:
    """A row of the encode table, measured as it is handed out; the file without metadata is a
    blob. `worst` is the worst damage, and `flip` the second
    opinion, where somebody has looked."""

    id: int
    framed_id: int
    trial: Trial
    measured: Measured
    encode_ms: float
    file_sha256: str
    worst: Worst | None
    flip: float | None


_ADD = """
INSERT INTO encode (framed_id, settings, width_px, height_px, version, file_sha256, size_bytes,
  container_bytes, likeness, encode_ms)
VALUES (:framed_id, :settings, :width_px, :height_px, :version, :file_sha256, :size_bytes,
  :container_bytes, :likeness, :encode_ms)
ON CONFLICT (framed_id, settings, width_px, height_px, version)
DO UPDATE SET encode_ms = encode_ms
RETURNING id, framed_id, settings, width_px, height_px, file_sha256, size_bytes, container_bytes,
  likeness, encode_ms,
  (SELECT json_object('kind', worst_kind, 'strength', worst_strength, 'flip', flip) FROM damage
    WHERE encode_id = encode.id) AS examined"""
_GET = """
SELECT id, framed_id, settings, width_px, height_px, file_sha256, size_bytes, container_bytes,
  likeness, encode_ms,
  (SELECT json_object('kind', worst_kind, 'strength', worst_strength, 'flip', flip) FROM damage
    WHERE encode_id = encode.id) AS examined
FROM encode WHERE id = :id"""
_GET_ALL = """
SELECT id, framed_id, settings, width_px, height_px, file_sha256, size_bytes, container_bytes,
  likeness, encode_ms,
  (SELECT json_object('kind', worst_kind, 'strength', worst_strength, 'flip', flip) FROM damage
    WHERE encode_id = encode.id) AS examined
FROM encode WHERE id IN (SELECT value FROM json_each(:ids))"""
_FIND = """
SELECT id, framed_id, settings, width_px, height_px, file_sha256, size_bytes, container_bytes,
  likeness, encode_ms,
  (SELECT json_object('kind', worst_kind, 'strength', worst_strength, 'flip', flip) FROM damage
    WHERE encode_id = encode.id) AS examined
FROM encode
WHERE framed_id = :framed_id AND settings = :settings AND width_px = :width_px
  AND height_px = :height_px AND version = :version"""
_OF_FRAMED = """
SELECT id, framed_id, settings, width_px, height_px, version, file_sha256, size_bytes,
  container_bytes, likeness, encode_ms,
  (SELECT json_object('kind', worst_kind, 'strength', worst_strength, 'flip', flip) FROM damage
    WHERE encode_id = encode.id) AS examined
FROM encode WHERE framed_id = :framed_id ORDER BY id"""

_ADD_ESTIMATE = """
INSERT INTO estimate (framed_id, settings, width_px, height_px, version, size_bytes, likeness)
VALUES (:framed_id, :settings, :width_px, :height_px, :version, :size_bytes, :likeness)
ON CONFLICT DO NOTHING"""
_ESTIMATES = """
SELECT settings, width_px, height_px, version, size_bytes, likeness FROM estimate
WHERE framed_id = :framed_id"""


def add(
    connection: sqlite3.Connection,
    *,
    framed_id: int,
    trial: Trial,
    measured: Measured,
    container_bytes: int,
    encode_ms: float,
    file_sha256: str,
    sizes: SegmentSizes,
) -> Encode:
    """Stores an encode, measured without metadata; one with the same settings and pixels stays as
    it is."""
    row = connection.execute(
        _ADD,
        {
            "framed_id": framed_id,
            **_trial_values(trial),
            "file_sha256": file_sha256,
            "size_bytes": measured.size_bytes,
            "container_bytes": container_bytes,
            "likeness": measured.likeness,
            "encode_ms": encode_ms,
        },
    ).fetchone()
    return _encode(row, sizes)


def get(connection: sqlite3.Connection, encode_id: int, sizes: SegmentSizes = NO_SIZES) -> Encode:
    """One encode. Raises NotFoundError."""
    row = connection.execute(_GET, {"id": encode_id}).fetchone()
    if row is None:
        raise NotFoundError(f"There is no candidate {encode_id}.")
    return _encode(row, sizes)


def get_all(connection: sqlite3.Connection, sizes: Mapping[int, SegmentSizes]) -> dict[int, Encode]:
    """Encodes by their ids, each with the sizes of its metadata."""
    rows = connection.execute(_GET_ALL, {"ids": json.dumps(list(sizes))})
    return {row["id"]: _encode(row, sizes[row["id"]]) for row in rows}


def find(connection: sqlite3.Connection, framed_id: int, trial: Trial) -> Encode | None:
    """The encode of a trial, if it was made."""
    row = connection.execute(_FIND, {"framed_id": framed_id, **_trial_values(trial)}).fetchone()
    return _encode(row, NO_SIZES) if row else None


def of_framed(connection: sqlite3.Connection, framed_id: int, sizes: SegmentSizes) -> list[Encode]:
    """All encodes of framed pixels as they are made now, in the order in which they were made."""
    rows = connection.execute(_OF_FRAMED, {"framed_id": framed_id})
    return [
        _encode(row, sizes)
        for row in rows
        if row["version"] == encoder_version(_settings(row["settings"]))
    ]


def add_estimate(
    connection: sqlite3.Connection, framed_id: int, trial: Trial, estimate: Measured
) -> None:
    """Stores what is estimated of a trial, without metadata."""
    values = {"size_bytes": estimate.size_bytes, "likeness": estimate.likeness}
    connection.execute(_ADD_ESTIMATE, {"framed_id": framed_id, **_trial_values(trial), **values})


def estimates(
    connection: sqlite3.Connection, framed_id: int, sizes: SegmentSizes
) -> dict[Trial, Measured]:
    """What is estimated of trials of framed pixels, with metadata of these sizes."""
    found = {}
    for row in connection.execute(_ESTIMATES, {"framed_id": framed_id}):
        trial = _trial(row)
        if row["version"] == encoder_version(trial.settings):
            found[trial] = delivered_measure(trial, as_a(Measured, row), 0, sizes)
    return found


def _trial_values(trial: Trial) -> dict[str, object]:
    return {
        "settings": json.dumps(settings_values(trial.settings), sort_keys=True),
        "width_px": trial.width_px,
        "height_px": trial.height_px,
        "version": encoder_version(trial.settings),
    }


@lru_cache(maxsize=4_096)
def _settings(text: str) -> Settings:
    return settings_from(json.loads(text))


def _trial(row: sqlite3.Row) -> Trial:
    return as_a(Trial, row, settings=_settings(row["settings"]))


def _encode(row: sqlite3.Row, sizes: SegmentSizes) -> Encode:
    trial = _trial(row)
    examined = json.loads(row["examined"]) if row["examined"] else None
    return as_a(
        Encode,
        row,
        trial=trial,
        measured=delivered_measure(trial, as_a(Measured, row), row["container_bytes"], sizes),
        worst=Worst(kind=examined["kind"], strength=examined["strength"]) if examined else None,
        flip=examined["flip"] if examined else None,
    )
