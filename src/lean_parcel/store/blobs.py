"""The blob table: bytes by their SHA-256. What can be made again may be let go: its row stays, with
no data, since others name it."""

import hashlib
import sqlite3

from lean_parcel.core.errors import BytesChanged, NotFoundError

_PUT = """
INSERT INTO blob (sha256, data) VALUES (:sha256, :data)
ON CONFLICT (sha256) DO UPDATE SET data = excluded.data WHERE blob.data <> excluded.data"""
_RESTORE = "UPDATE blob SET data = :data WHERE sha256 = :sha256 AND length(data) = 0"
_GET = "SELECT data FROM blob WHERE sha256 = :sha256 AND length(data) > 0"
_HAS = "SELECT 1 FROM blob WHERE sha256 = :sha256 AND length(data) > 0"


def put(connection: sqlite3.Connection, data: bytes) -> str:
    """Stores bytes, once for each content, and returns their hash in hex. What was let go, or is
    damaged, is whole again."""
    sha256 = hashlib.sha256(data).hexdigest()
    connection.execute(_PUT, {"sha256": sha256, "data": data})
    return sha256


def restore(connection: sqlite3.Connection, data: bytes) -> None:
    """Stores bytes that were let go, and nothing that no row names."""
    sha256 = hashlib.sha256(data).hexdigest()
    connection.execute(_RESTORE, {"sha256": sha256, "data": data})


def has(connection: sqlite3.Connection, sha256: str) -> bool:
    """Whether the bytes of a hash are here."""
    return connection.execute(_HAS, {"sha256": sha256}).fetchone() is not None


def get(connection: sqlite3.Connection, sha256: str) -> bytes:
    """The bytes of a hash. Raises NotFoundError, and BytesChanged where they are
    not those that were stored."""
    row = connection.execute(_GET, {"sha256": sha256}).fetchone()
    if row is None:
        raise NotFoundError("These bytes are not in the workspace.")
    data = bytes(row["data"])
    if hashlib.sha256(data).hexdigest() != sha256:
        raise BytesChanged(
            "The disk gives back other bytes than were stored, so they are not handed out. Run"
            " `lean-parcel check`, which says what to do.",
            sha256,
        )
    return data
