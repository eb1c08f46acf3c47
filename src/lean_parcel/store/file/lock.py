"""One server a workspace: whoever opens it locks its file, until the process ends."""

import fcntl
import os
from pathlib import Path
from typing import IO

from lean_parcel.core.errors import UsageError


def hold(path: Path) -> IO[bytes]:
    """Locks a file that is there until the returned one is closed, whichever name or link it is
    reached by. Raises UsageError `workspace_in_use` and FileNotFoundError.

    The lock is `flock`'s, which SQLite does not use. To close a file drops the locks that SQLite
    has on it in this process, so connections are closed before their lock.
    """
    while True:
        lock = path.open("rb")
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError as error:
            lock.close()
            raise UsageError(
                f"{path} is open in another Lean Parcel. Use that one, close it, or name another"
                " file with --workspace.",
                "workspace_in_use",
            ) from error
        if os.path.samestat(os.fstat(lock.fileno()), path.stat()):
            return lock
        lock.close()  # it was replaced meanwhile
