"""Room that is kept for a full disk: to give room back, SQLite has to write first."""

import os
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

#: What the log grows by while some two gigabytes are let go.
_RESERVE_BYTES = 8_000_000


def ensure_reserve(path: Path) -> None:
    """Keeps the reserve of a workspace beside it; on a disk that is full already there is none."""
    reserve = _reserve_of(path)
    with suppress(OSError), reserve.open("xb") as file:
        try:
            os.posix_fallocate(file.fileno(), 0, _RESERVE_BYTES)
        except OSError:
            reserve.unlink()
            raise


@contextmanager
def reserve_given(path: Path) -> Iterator[None]:
    """Gives the reserve of a workspace, if it has one, to the disk while something is let go; then
    it is kept again."""
    reserve = _reserve_of(path)
    is_kept = reserve.exists()
    reserve.unlink(missing_ok=True)
    try:
        yield
    finally:
        if is_kept:
            ensure_reserve(path)


def _reserve_of(path: Path) -> Path:
    return path.with_name(f"{path.name}-reserve")
