"""A workspace copied to a file, and back from one, by SQLite's own online backup: also while a
server writes to it, whole at one moment.

Source: https://www.sqlite.org/backup.html.
"""

import os
import sqlite3
from contextlib import closing, suppress
from pathlib import Path

from lean_parcel.store import database
from lean_parcel.store.file.faults import in_words


def back_up(path: Path, to: Path) -> None:
    """Copies a workspace to a file, in the place of what is there, once all of it is written.
    Raises UsageError for what is no workspace, and StorageError."""
    part = to.with_name(f".{to.name}.part")
    try:
        with closing(_source(path)) as source, in_words():
            _drop(part)
            with closing(sqlite3.connect(part)) as target:
                source.backup(target)
                target.execute("PRAGMA journal_mode = DELETE")  # one file, without a log beside it
        _synchronise(part)
        part.replace(to)
        _synchronise(to.parent)
    finally:
        _drop(part)


def restore(path: Path, backup: Path) -> Path | None:
    """Puts a copy of a backup in the place of a workspace, whole or damaged, which is moved aside
    with its log; returns where to. Whoever calls holds its lock. Raises as `back_up` does."""
    restored = path.with_name(f"{path.name}.restored")
    back_up(backup, restored)
    before = path.with_name(f"{path.name}.before-restore") if path.exists() else None
    if before:
        for each in ("-wal", "-shm", ""):
            before.with_name(before.name + each).unlink(missing_ok=True)
            with suppress(FileNotFoundError):
                path.with_name(path.name + each).replace(before.with_name(before.name + each))
    restored.replace(path)
    return before


def _source(path: Path) -> sqlite3.Connection:
    database.check_is_workspace(path)
    return database.connect(path, is_read_only=True)


def _drop(path: Path) -> None:
    for each in (path, path.with_name(f"{path.name}-journal"), path.with_name(f"{path.name}-wal")):
        with suppress(FileNotFoundError):
            each.unlink()


def _synchronise(path: Path) -> None:
    """Waits until a file, or what a folder names, is on the disk."""
    descriptor = os.open(path, os.O_RDONLY)
    try:
        os.fsync(descriptor)
    finally:
        os.close(descriptor)
