"""Opening a workspace file, bringing it to the newest form, and transactions."""

import os
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from importlib import resources
from pathlib import Path
from threading import RLock, get_ident
from urllib.parse import quote

from lean_parcel.core.errors import UsageError
from lean_parcel.store.file import identity
from lean_parcel.store.file.faults import in_words
from lean_parcel.store.migrations.functions import add_functions

#: Tells a workspace from the databases of other programs; the first versions had none.
_APPLICATION_ID = 0x4C50574B
_FIRST_TABLES = {"blob", "photo"}
#: Whose turn it is to write.
_TURN = RLock()


def is_writable(path: Path) -> bool:
    """Whether a workspace, and the log beside it, may be written."""
    return os.access(path if path.exists() else path.parent, os.W_OK) and os.access(
        path.parent, os.W_OK
    )


def connect(path: Path, *, is_read_only: bool = False) -> sqlite3.Connection:
    """A connection to a migrated workspace, to be used by one thread at a time; transactions are
    explicit."""
    connection = _opened(path, is_read_only=is_read_only)
    connection.row_factory = sqlite3.Row
    connection.execute("PRAGMA foreign_keys = ON")
    connection.execute("PRAGMA synchronous = FULL")
    return connection


def _opened(path: Path, *, is_read_only: bool) -> sqlite3.Connection:
    """A read-only file in a folder that may not be written either has no log to be read with it;
    SQLite has to be told that nobody changes it."""
    if not is_read_only:
        return sqlite3.connect(path, timeout=30, isolation_level=None, check_same_thread=False)
    log = path.with_name(f"{path.name}-wal")
    has_log = log.exists() and log.stat().st_size > 0
    how = "mode=ro" if has_log or os.access(path.parent, os.W_OK) else "mode=ro&immutable=1"
    address = f"file:{quote(str(path.absolute()))}?{how}"
    return sqlite3.connect(
        address, uri=True, timeout=30, isolation_level=None, check_same_thread=False
    )


@contextmanager
def transaction(connection: sqlite3.Connection) -> Iterator[None]:
    """All or nothing: commits at the end, rolls back on any exception. The threads of a process
    take turns; SQLite alone would let each try again now and then, and some wait for seconds."""
    with _TURN:
        connection.execute("BEGIN IMMEDIATE")
        try:
            yield
        except BaseException:
            if connection.in_transaction:  # on a full disk SQLite has rolled back itself
                connection.execute("ROLLBACK")
            raise
        connection.execute("COMMIT")


@contextmanager
def snapshot(connection: sqlite3.Connection) -> Iterator[None]:
    """All reads inside see the workspace as it was at the first of them."""
    connection.execute("BEGIN")
    try:
        yield
    finally:
        connection.execute("COMMIT")


def check_newest(path: Path) -> None:
    """Looks whether a workspace that can only be read has the newest form. Raises UsageError as
    `migrate` does, and `workspace_too_old` for one of an earlier version."""
    if _looked_at(path):
        raise UsageError(
            f"{path} was written by an earlier version of Lean Parcel, and can only be read, so it"
            " cannot be brought up to date. Copy it to where it can be written.",
            "workspace_too_old",
        )


def check_is_workspace(path: Path) -> None:
    """Looks whether a file is a workspace, of this version or an earlier one. Raises UsageError as
    `migrate` does, and StorageError where it is not there."""
    _looked_at(path)


def _looked_at(path: Path) -> list[str]:
    """The scripts that a workspace lacks, without a change to it."""
    _check_has_bytes(path)
    with in_words(), closing(_opened(path, is_read_only=True)) as connection:
        try:
            return _missing_scripts(connection, path)
        except sqlite3.OperationalError:
            raise
        except sqlite3.DatabaseError as error:
            raise _no_workspace(path, error) from error


def begin(path: Path) -> None:
    """Makes a workspace where there is no file yet, whole before it has its name. Raises
    StorageError."""
    if path.exists():
        return
    part = path.with_name(f".{path.name}.{os.getpid()}.{get_ident()}.new")
    try:
        with in_words(), closing(sqlite3.connect(part, timeout=30, isolation_level=None)) as made:
            made.execute("PRAGMA auto_vacuum = INCREMENTAL")
            made.execute("PRAGMA synchronous = OFF")  # it is synced once, before it has its name
            made.execute("PRAGMA journal_mode = OFF")
            _apply(made, _scripts(), first=1)
        with in_words(), part.open("rb") as whole:
            os.fsync(whole.fileno())
        try:
            os.link(part, path)
        except OSError:  # another began at the same moment, or the disk knows no links
            if not path.exists():
                part.replace(path)
    finally:
        for each in (part, part.with_name(f"{part.name}-wal"), part.with_name(f"{part.name}-shm")):
            each.unlink(missing_ok=True)


def migrate(path: Path) -> None:
    """Applies the migrations that a workspace lacks, each in one transaction with its number.

    Raises UsageError `workspace_too_new` for a file of a later version of this software,
    `not_a_workspace` for one that is no SQLite database, is empty, or another program's,
    `damaged_workspace` for one that SQLite cannot follow, and StorageError for one that cannot be
    read or written.
    """
    _check_has_bytes(path)
    with in_words():
        connection = sqlite3.connect(path, timeout=30, isolation_level=None)
        try:
            missing = _missing_scripts(connection, path)
            _apply(connection, missing, first=len(_scripts()) - len(missing) + 1)
        except sqlite3.OperationalError:
            raise
        except sqlite3.DatabaseError as error:
            raise _no_workspace(path, error) from error
        finally:
            connection.close()


def _check_has_bytes(path: Path) -> None:
    if path.exists() and path.stat().st_size == 0:
        raise UsageError(
            f"{path} has 0 bytes, so there is no workspace in it. Restore a backup of it; or remove"
            " it, and a new one is begun.",
            "not_a_workspace",
        )


def _no_workspace(path: Path, error: sqlite3.DatabaseError) -> UsageError:
    if error.sqlite_errorcode & 0xFF == sqlite3.SQLITE_NOTADB:
        return UsageError(f"{path} is not a workspace.", "not_a_workspace", str(error))
    message = f"{path} is damaged: `lean-parcel check` says what to do."
    return UsageError(message, "damaged_workspace", str(error))


def _missing_scripts(connection: sqlite3.Connection, path: Path) -> list[str]:
    """The scripts that a workspace lacks. Raises UsageError for what is none."""
    scripts = _scripts()
    version: int = connection.execute("PRAGMA user_version").fetchone()[0]
    application_id: int = connection.execute("PRAGMA application_id").fetchone()[0]
    tables = {row[0] for row in connection.execute("SELECT name FROM sqlite_schema")}
    if application_id not in (0, _APPLICATION_ID) or not tables >= _FIRST_TABLES:
        raise UsageError(
            f"{path} is the database of another program. Name another file with --workspace.",
            "not_a_workspace",
        )
    if version > len(scripts):
        raise UsageError(
            f"{path} was written by a newer version of Lean Parcel.", "workspace_too_new"
        )
    return scripts[version:]


def _apply(connection: sqlite3.Connection, scripts: list[str], *, first: int) -> None:
    """Applies migrations, of which the first has this number."""
    add_functions(connection)
    for number, script in enumerate(scripts, start=first):
        connection.executescript(
            f"BEGIN IMMEDIATE;\n{script}\nPRAGMA user_version = {number};\nCOMMIT;"
        )
    connection.execute("PRAGMA journal_mode = WAL")  # of the file, for good
    if connection.execute("PRAGMA application_id").fetchone()[0] != _APPLICATION_ID:
        connection.execute(f"PRAGMA application_id = {_APPLICATION_ID}")
    identity.ensure(connection)


def _scripts() -> list[str]:
    folder = resources.files("lean_parcel.store") / "migrations"
    files = sorted((f for f in folder.iterdir() if f.name.endswith(".sql")), key=lambda f: f.name)
    return [file.read_text() for file in files]
