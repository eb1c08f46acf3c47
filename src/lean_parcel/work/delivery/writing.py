"""Writing files, whole or not at all."""

import stat
from pathlib import Path
from uuid import uuid4

#: What is being written, until it is whole.
PART_GLOB = ".lean-parcel-*.part"


def write_whole(path: Path, data: bytes, mode: int | None = None) -> None:
    """Writes a file, with a mode where one is given, so that a reader sees the old one or the whole
    new one. Raises OSError, and then leaves nothing behind."""
    part = path.with_name(PART_GLOB.replace("*", uuid4().hex))
    try:
        part.write_bytes(data)
        if mode is not None:
            part.chmod(stat.S_IMODE(mode))
        part.replace(path)
    except OSError:
        part.unlink(missing_ok=True)
        raise
