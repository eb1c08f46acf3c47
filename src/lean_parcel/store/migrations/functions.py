"""What migrations call that SQL cannot do, as functions of their connection."""

import hashlib
import sqlite3

from lean_parcel.core.formats import Format
from lean_parcel.core.metadata import embed


def add_functions(connection: sqlite3.Connection) -> None:
    """Makes the functions known to a connection."""
    functions = (("bare", 2, _bare), ("container_bytes", 2, _container_bytes), ("sha256", 1, _hash))
    for name, count, function in functions:
        connection.create_function(name, count, function, deterministic=True)


def _bare(data: bytes, name: Format) -> bytes | None:
    """A file without metadata; NULL where it cannot be taken out."""
    try:
        return embed.stripped(data, name)
    except ValueError:
        return None


def _container_bytes(data: bytes, name: Format) -> int:
    try:
        return embed.container_bytes(data, name)
    except ValueError:
        return 0


def _hash(data: bytes | None) -> str | None:
    return None if data is None else hashlib.sha256(data).hexdigest()
