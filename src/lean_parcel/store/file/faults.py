"""What SQLite cannot do, in words for the person: a full disk, a file that can only be read, one
that is damaged."""

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager

from lean_parcel.core.errors import NotFoundError, StorageError

_DAMAGED = (
    "workspace_damaged",
    "The workspace's file is damaged, so nothing more is stored in it. End the server, and run"
    " `lean-parcel check`, which says what to do.",
)
#: Stable codes and words by SQLite's primary result codes.
_WORDS = {
    sqlite3.SQLITE_FULL: (
        "disk_full",
        "The disk is full, so nothing was stored. Make room on it, then try it again.",
    ),
    sqlite3.SQLITE_READONLY: (
        "workspace_read_only",
        "The workspace can only be read: its file, or its folder, may not be written to.",
    ),
    sqlite3.SQLITE_BUSY: (
        "workspace_busy",
        "Another program is writing to the workspace. Try it again in a moment.",
    ),
    sqlite3.SQLITE_CANTOPEN: (
        "workspace_unreachable",
        "The workspace cannot be opened. Is its folder there, and may it be written to?",
    ),
    sqlite3.SQLITE_IOERR: (
        "workspace_unreachable",
        "The disk that the workspace is on does not answer. Look whether it is connected.",
    ),
    sqlite3.SQLITE_CORRUPT: _DAMAGED,
    sqlite3.SQLITE_NOTADB: _DAMAGED,
}


@contextmanager
def in_words() -> Iterator[None]:
    """Turns SQLite's errors of its file into StorageErrors; and what names a row that another has
    removed meanwhile into a NotFoundError."""
    try:
        yield
    except sqlite3.DatabaseError as error:
        if getattr(error, "sqlite_errorcode", 0) == sqlite3.SQLITE_CONSTRAINT_FOREIGNKEY:
            message = "What this belongs to was let go in the meantime, so it was not stored."
            raise NotFoundError(message, str(error)) from error
        primary = _primary_code(error)
        if primary not in _WORDS:
            raise
        code, message = _WORDS[primary]
        raise StorageError(message, code, str(error)) from error


def damaged(detail: str) -> StorageError:
    """What is said of a damaged workspace."""
    code, message = _DAMAGED
    return StorageError(message, code, detail)


def is_damage(error: sqlite3.DatabaseError) -> bool:
    """Whether an error tells of a damaged file."""
    return _WORDS.get(_primary_code(error)) is _DAMAGED


def _primary_code(error: sqlite3.DatabaseError) -> int:
    """Extended codes have more bits above; errors of Python's module have no code."""
    return getattr(error, "sqlite_errorcode", 0) & 0xFF
