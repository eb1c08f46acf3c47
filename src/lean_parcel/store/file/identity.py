"""The identity table: which workspace a file is, and whether it is a backup of it."""

import sqlite3
from dataclasses import dataclass

_MAKE = """
INSERT INTO identity (workspace_id)
SELECT lower(hex(randomblob(16))) WHERE NOT EXISTS (SELECT 1 FROM identity)"""
_MARK = "UPDATE identity SET is_backup = :is_backup WHERE is_backup <> :is_backup"
_HAS_TABLE = "SELECT 1 FROM sqlite_schema WHERE type = 'table' AND name = 'identity'"
_GET = "SELECT workspace_id, is_backup FROM identity"


@dataclass(frozen=True, slots=True, kw_only=True)
class Identity:
    """A workspace, in 32 hexadecimal digits, and whether the file is a backup of it."""

    workspace_id: str
    is_backup: bool


def ensure(connection: sqlite3.Connection) -> None:
    """Gives a workspace that has none its identity, for good; and one that is opened to be worked
    with is no backup any more."""
    connection.execute(_MAKE)
    mark(connection, is_backup=False)


def mark(connection: sqlite3.Connection, *, is_backup: bool) -> None:
    """Says whether the file is a backup."""
    connection.execute(_MARK, {"is_backup": is_backup})


def get(connection: sqlite3.Connection) -> Identity | None:
    """Which workspace a file is; None for one of an earlier version, which does not say."""
    if connection.execute(_HAS_TABLE).fetchone() is None:
        return None
    row = connection.execute(_GET).fetchone()
    return Identity(workspace_id=row[0], is_backup=bool(row[1])) if row else None
