"""Opening a workspace file, bringing it to the newest form, and transactions."""

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from importlib import resources
from pathlib import Path

from lean_parcel.core.errors import UsageError


def connect(path: Path) -> sqlite3.Connection:
    """A connection to a migrated workspace, to be used by one thread; transactions are explicit."""
    connection = sqlite3.connect(path, timeout=30, isolation_level=None)
    connection.row_factory = sqlite3.Row
    connection.execute("PRAGMA foreign_keys = ON")
    connection.execute("PRAGMA journal_mode = WAL")
    connection.execute("PRAGMA synchronous = FULL")
    return connection


@contextmanager
def transaction(connection: sqlite3.Connection) -> Iterator[None]:
    """All or nothing: commits at the end, rolls back on any exception."""
    connection.execute("BEGIN IMMEDIATE")
    try:
        yield
    except BaseException:
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


def migrate(path: Path) -> None:
    """Applies the migrations that a workspace lacks, each in one transaction with its number.

    Raises UsageError `workspace_too_new` for a file of a later version of this software, and
    `not_a_workspace` for one that is no SQLite database.
    """
    connection = sqlite3.connect(path, timeout=30, isolation_level=None)
    try:
        _apply_missing(connection, path)
    except sqlite3.DatabaseError as error:
        raise UsageError(f"{path} is not a workspace.", "not_a_workspace", str(error)) from error
    finally:
        connection.close()


def _apply_missing(connection: sqlite3.Connection, path: Path) -> None:
    scripts = _scripts()
    version: int = connection.execute("PRAGMA user_version").fetchone()[0]
    if version > len(scripts):
        raise UsageError(
            f"{path} was written by a newer version of Lean Parcel.", "workspace_too_new"
        )
    for number, script in enumerate(scripts[version:], start=version + 1):
        connection.executescript(
            f"BEGIN IMMEDIATE;\n{script}\nPRAGMA user_version = {number};\nCOMMIT;"
        )


def _scripts() -> list[str]:
    folder = resources.files("lean_parcel.store") / "migrations"
    files = sorted((f for f in folder.iterdir() if f.name.endswith(".sql")), key=lambda f: f.name)
    return [file.read_text() for file in files]
