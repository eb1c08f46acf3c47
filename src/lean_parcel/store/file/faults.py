"""What SQLite cannot do, in words for the person: a full disk, a file that can only be read."""

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager

from lean_parcel.core.errors import StorageError

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
}


@contextmanager
def in_words() -> Iterator[None]:
    """Turns SQLite's operational errors into StorageErrors."""
    try:
        yield
    except sqlite3.OperationalError as error:
        # Extended codes have more bits above; errors of Python's module have no code.
        primary = getattr(error, "sqlite_errorcode", 0) & 0xFF
        if primary not in _WORDS:
            raise
        code, message = _WORDS[primary]
        raise StorageError(message, code, str(error)) from error
