"""Whether a workspace is whole: SQLite's own checks, the hash of all bytes, and what names what."""

import hashlib
import sqlite3
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

DefectKind = Literal[
    "damaged_file", "lost_reference", "changed_bytes", "lost_original", "lost_file"
]

_MOST_TOLD = 20
_BLOBS = "SELECT sha256, data FROM blob WHERE length(data) > 0"
#: Photos on a page, or that undo brings back, whose original is not there.
_LOST_ORIGINALS = """
SELECT name FROM photo WHERE original_sha256 NOT IN (SELECT sha256 FROM blob WHERE length(data) > 0)
"""
#: What was taken for a photo at last, and is not there.
_LOST_FILES = """
SELECT photo.name FROM photo
JOIN entry ON entry.id = (
  SELECT id FROM entry AS last WHERE last.photo_id = photo.id ORDER BY visited DESC LIMIT 1)
LEFT JOIN encode ON encode.id = entry.picked_encode_id
WHERE entry.picked_encode_id IS NOT NULL
  AND (encode.id IS NULL
    OR encode.file_sha256 NOT IN (SELECT sha256 FROM blob WHERE length(data) > 0))"""


@dataclass(frozen=True, slots=True, kw_only=True)
class Defect:
    """Something that is not right: what kind of problem, and what it is about."""

    problem: DefectKind
    about: str


def findings(connection: sqlite3.Connection) -> Iterator[Defect]:
    """All that is not right in a workspace, within a snapshot. Raises sqlite3.DatabaseError where
    the file cannot be read any further."""
    damage = f"PRAGMA integrity_check({_MOST_TOLD})"
    for (words,) in connection.execute(damage).fetchall():
        if words != "ok":
            yield Defect(problem="damaged_file", about=words)
    for row in connection.execute("PRAGMA foreign_key_check").fetchmany(_MOST_TOLD):
        about = f"{row['table']} {row['rowid']} names a {row['parent']} that is not there"
        yield Defect(problem="lost_reference", about=about)
    for row in connection.execute(_BLOBS):
        if hashlib.sha256(row["data"]).hexdigest() != row["sha256"]:
            yield Defect(problem="changed_bytes", about=row["sha256"])
    for row in connection.execute(_LOST_ORIGINALS):
        yield Defect(problem="lost_original", about=row["name"])
    for row in connection.execute(_LOST_FILES):
        yield Defect(problem="lost_file", about=row["name"])
