"""Connections to a workspace that stay open between operations: to open one and to read what tables
there are takes longer than most of what is asked of it."""

import os
import sqlite3
from collections import deque
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from lean_parcel.core.errors import StorageError
from lean_parcel.store.file.database import connect
from lean_parcel.store.file.faults import damaged, in_words, is_damage


class Connections:
    """Lends connections, each to one thread at a time.

    One is always open and has read, and so keeps the log and the shared memory of a workspace in
    being. On a full disk they could not be made anew, not even to read.

    What is done with a connection counts only while its files are those that were opened: what is
    written to a file that was deleted or replaced is gone in the end. Once the file was found
    damaged, nothing more is written to it.
    """

    def __init__(self, path: Path, *, is_read_only: bool = False) -> None:
        self._path, self._is_read_only = path, is_read_only
        self._idle: deque[sqlite3.Connection] = deque()
        self._is_open = True
        with in_words():
            self._kept = connect(path, is_read_only=is_read_only)
            self._kept.execute("SELECT count(*) FROM sqlite_schema").fetchone()
        log = path.with_name(f"{path.name}-wal")
        self._opened = {
            file: file.stat()
            for file in ((path,) if is_read_only else (path, log))
            if file.exists()
        }
        self._is_damaged = False

    @contextmanager
    def lent(self) -> Iterator[sqlite3.Connection]:
        """A connection for one operation. One that has failed is not lent again. Raises
        StorageError `workspace_gone` where the file is not the one that was opened, and
        `workspace_damaged` for what cannot be read of a damaged one, or would change it."""
        self._check_is_there()
        connection = self._taken()
        try:
            if self._is_damaged:
                connection.execute("PRAGMA query_only = ON")
            yield connection
        except sqlite3.DatabaseError as error:
            connection.close()
            self._is_damaged = self._is_damaged or is_damage(error)
            if self._is_damaged:
                raise damaged(str(error)) from error
            raise
        except BaseException:
            connection.close()
            raise
        self._idle.append(connection)
        self._check_is_there()
        if not self._is_open:
            self._close_idle()

    def close(self) -> None:
        """Closes what is not lent; what is lent is closed once it comes back."""
        self._is_open = False
        self._opened = {}  # SQLite deletes the log with the last connection
        self._close_idle()
        self._kept.close()

    def _check_is_there(self) -> None:
        for file, opened in self._opened.items():
            try:
                is_there = os.path.samestat(opened, file.stat())
            except OSError:
                is_there = False
            if not is_there:
                raise StorageError(
                    f"{file} was deleted, moved or replaced while it was open, so nothing more can"
                    " be stored in it. End the server, put the file back or restore a backup, and"
                    " start it again.",
                    "workspace_gone",
                )

    def _close_idle(self) -> None:
        with suppress(IndexError):  # another thread may take the last
            while True:
                self._idle.pop().close()

    def _taken(self) -> sqlite3.Connection:
        try:
            return self._idle.pop()
        except IndexError:
            return connect(self._path, is_read_only=self._is_read_only)
