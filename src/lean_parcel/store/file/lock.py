"""One server a workspace: whoever opens it holds a lock, which ends with the process."""

import fcntl
from pathlib import Path
from typing import IO

from lean_parcel.core.errors import UsageError


def hold(path: Path) -> IO[bytes]:
    """Locks a workspace until the returned file is closed. Raises UsageError `workspace_in_use`.

    The lock is on a file of its own: to close the workspace's file would drop SQLite's locks.
    """
    lock = path.with_name(f"{path.name}.lock").open("ab")
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError as error:
        lock.close()
        raise UsageError(
            f"{path} is open in another Lean Parcel. Use that one, close it, or name another file"
            " with --workspace.",
            "workspace_in_use",
        ) from error
    return lock
