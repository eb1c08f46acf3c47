"""The blob table: bytes by their SHA-256."""

import hashlib
import sqlite3

from lean_parcel.core.errors import NotFoundError

_PUT = "INSERT INTO blob (sha256, data) VALUES (:sha256, :data) ON CONFLICT DO NOTHING"
_GET = "SELECT data FROM blob WHERE sha256 = :sha256"


def put(connection: sqlite3.Connection, data: bytes) -> str:
    """Stores bytes, once for each content, and returns their hash in hex."""
    sha256 = hashlib.sha256(data).hexdigest()
    connection.execute(_PUT, {"sha256": sha256, "data": data})
    return sha256


def get(connection: sqlite3.Connection, sha256: str) -> bytes:
    """The bytes of a hash. Raises NotFoundError."""
    row = connection.execute(_GET, {"sha256": sha256}).fetchone()
    if row is None:
        raise NotFoundError("These bytes are not in the workspace.")
    return bytes(row["data"])
