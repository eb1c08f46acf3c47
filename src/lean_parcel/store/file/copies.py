"""A workspace copied to a file, and back from one, by SQLite's own online backup: also while a
server writes to it, whole at one moment.

Source: https://www.sqlite.org/backup.html.
"""

import os
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from itertools import count
from pathlib import Path
from urllib.parse import quote

from lean_parcel.core.errors import UsageError
from lean_parcel.store.file import database, identity
from lean_parcel.store.file.faults import in_words
from lean_parcel.store.file.lock import hold


def back_up(path: Path, to: Path) -> None:
    """Copies a workspace to a file, in the place of an earlier backup of it, once all of it is
    written. Raises UsageError for what is no workspace, `workspace_in_use` and `not_its_backup`
    for what may not be replaced, and StorageError."""
    with closing(_source(path)) as source, _replaceable(to, source):
        part = _beside(to, "part")
        try:
            _copy(source, part, is_backup=True)
            part.replace(to)
            _synchronise(to.parent)
        finally:
            _drop(part)


def restore(path: Path, backup: Path) -> Path | None:
    """Puts a copy of a backup in the place of a workspace, whole or damaged, which is moved aside
    with its log, under a name that nothing has; returns where to. Whoever calls holds its lock.
    Raises as `back_up` does."""
    restored = _beside(path, "restored")
    try:
        with closing(_source(backup)) as source:
            _copy(source, restored, is_backup=False)
        kept = _unused(path) if path.exists() else None
        if kept:
            for log in ("-wal", "-shm", ""):
                with suppress(FileNotFoundError):
                    path.with_name(path.name + log).rename(kept.with_name(kept.name + log))
        restored.replace(path)
        _synchronise(path.parent)
    finally:
        _drop(restored)
    return kept


@contextmanager
def _replaceable(to: Path, source: sqlite3.Connection) -> Iterator[None]:
    """Holds what a backup replaces, if there is something. Raises UsageError where that is not a
    backup of the same workspace that nobody has opened to work with."""
    if not to.exists():
        yield
        return
    with hold(to):
        mine, other = identity.get(source), _identity_of(to)
        is_own = mine and other and other.workspace_id == mine.workspace_id and other.is_backup
        if not is_own or any(to.with_name(to.name + log).exists() for log in ("-wal", "-journal")):
            raise UsageError(
                f"{to} is there already, and no backup of this workspace, so it is not replaced."
                " Name another file.",
                "not_its_backup",
            )
        yield


def _identity_of(path: Path) -> identity.Identity | None:
    """Which workspace a file is that nobody else has open; None for what does not say."""
    address = f"file:{quote(str(path.absolute()))}?mode=ro&immutable=1"
    try:
        with closing(sqlite3.connect(address, uri=True)) as connection:
            return identity.get(connection)
    except sqlite3.DatabaseError:
        return None


def _copy(source: sqlite3.Connection, to: Path, *, is_backup: bool) -> None:
    """Copies a workspace to a new file of its own, without a log beside it."""
    with in_words(), closing(sqlite3.connect(to)) as target:
        source.backup(target)
        target.execute("PRAGMA journal_mode = DELETE")
        if identity.get(target):
            with target:
                identity.mark(target, is_backup=is_backup)
    _synchronise(to)


def _source(path: Path) -> sqlite3.Connection:
    database.check_is_workspace(path)
    return database.connect(path, is_read_only=True)


def _unused(path: Path) -> Path:
    """A name beside a workspace for what it was."""
    for number in count(1):
        kept = path.with_name(f"{path.name}.before-restore{f'-{number}' if number > 1 else ''}")
        if not any(kept.with_name(kept.name + log).exists() for log in ("", "-wal", "-shm")):
            return kept
    raise AssertionError("there is always another number")


def _beside(path: Path, what: str) -> Path:
    """A hidden name beside a file, of this process."""
    return path.with_name(f".{path.name}.{os.getpid()}.{what}")


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
