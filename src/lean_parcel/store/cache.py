"""Encodes are a cache: those used longest ago are removed when all files of encodes together exceed
its size, but never a pick, a candidate of a search, or what belongs to a search that runs."""

import sqlite3

from lean_parcel.store.encodes import Encode

_TOUCH = """
UPDATE encode SET used = (SELECT coalesce(max(used), 0) + 1 FROM encode) WHERE id = :id"""
_TOTAL = "SELECT coalesce(sum(size_bytes), 0) AS size_bytes FROM encode"
_EVICTABLE = """
SELECT id, file_sha256, size_bytes FROM encode
WHERE id NOT IN (SELECT encode_id FROM candidate)
  AND id NOT IN (SELECT picked_encode_id FROM entry WHERE picked_encode_id IS NOT NULL)
  AND framed_id NOT IN (
    SELECT framed_id FROM search WHERE state = 'running' AND framed_id IS NOT NULL)
ORDER BY used, id"""
_DROP_ENCODE = "DELETE FROM encode WHERE id = :id"
_DROP_BLOB = """
DELETE FROM blob WHERE sha256 = :sha256
  AND NOT EXISTS (SELECT 1 FROM encode WHERE file_sha256 = :sha256)
  AND NOT EXISTS (SELECT 1 FROM photo WHERE :sha256 IN (original_sha256, thumbnail_sha256))
  AND NOT EXISTS (SELECT 1 FROM inspection WHERE preview_sha256 = :sha256)
  AND NOT EXISTS (
    SELECT 1 FROM framed WHERE :sha256 IN (plain_sha256, pixels_sha256, thumbnail_sha256))"""


def touch(connection: sqlite3.Connection, encode: Encode) -> None:
    """Marks an encode as the one used last."""
    connection.execute(_TOUCH, {"id": encode.id})


def evict(connection: sqlite3.Connection, cache_bytes: int) -> int:
    """Removes encodes, within a transaction, until their files fit into `cache_bytes` or only those
    are left that have to stay; returns how many were removed."""
    size_bytes = int(connection.execute(_TOTAL).fetchone()["size_bytes"])
    if size_bytes <= cache_bytes:
        return 0
    removed = 0
    for row in connection.execute(_EVICTABLE).fetchall():
        connection.execute(_DROP_ENCODE, {"id": row["id"]})
        connection.execute(_DROP_BLOB, {"sha256": row["file_sha256"]})
        size_bytes -= row["size_bytes"]
        removed += 1
        if size_bytes <= cache_bytes:
            break
    return removed
