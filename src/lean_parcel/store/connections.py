"""Connections to a workspace that stay open between operations: to open one and to read what tables
there are takes longer than most of what is asked of it."""

import sqlite3
from collections import deque
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from lean_parcel.store.database import connect


class Connections:
    """Lends connections, each to one thread at a time.

    One is always open and has read, and so keeps the log and the shared memory of a workspace in
    being. On a full disk they could not be made anew, not even to read.
    """

    def __init__(self, path: Path, *, is_read_only: bool = False) -> None:
        self._path, self._is_read_only = path, is_read_only
        self._idle: deque[sqlite3.Connection] = deque()
        self._is_open = True
        self._kept = connect(path, is_read_only=is_read_only)
        self._kept.execute("SELECT count(*) FROM sqlite_schema").fetchone()

    @contextmanager
    def lent(self) -> Iterator[sqlite3.Connection]:
        """A connection for one operation. One that has failed is not lent again."""
        connection = self._taken()
        try:
            yield connection
        except BaseException:
            connection.close()
            raise
        self._idle.append(connection)
        if not self._is_open:
            self._close_idle()

    def close(self) -> None:
        """Closes what is not lent; what is lent is closed once it comes back."""
        self._is_open = False
        self._close_idle()
        self._kept.close()

    def _close_idle(self) -> None:
        with suppress(IndexError):  # another thread may take the last
            while True:
                self._idle.pop().close()

    def _taken(self) -> sqlite3.Connection:
        try:
            return self._idle.pop()
        except IndexError:
            return connect(self._path, is_read_only=self._is_read_only)
