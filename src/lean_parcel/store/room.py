"""Room: one size for all that can be made again or was removed, and what goes when it is exceeded.

Counted is everything but the originals of photos that are on a page: encodes, framed pixels,
previews, and photos that were removed. The first to go is what nobody can come back to: photos
whose removal undo does not reach, and framings that no photo has any more; then the encodes that
were used longest ago. What stays is said by the views of `0008_room.sql`.
"""

import json
import sqlite3
from collections.abc import Collection
from dataclasses import dataclass

from lean_parcel.store.encodes import Encode

#: How many steps on the pages can be undone once room had to be made.
UNDO_STEPS = 50
#: Room is made for some time, not for one file.
_FILL = 0.9
_TOUCH = """
UPDATE encode SET used = (SELECT coalesce(max(used), 0) + 1 FROM encode) WHERE id = :id"""
_COUNTED = """
SELECT coalesce(sum(length(data)), 0) AS size_bytes FROM blob INDEXED BY blob_by_size
WHERE sha256 NOT IN (
  SELECT original_sha256 FROM photo WHERE id IN (SELECT id FROM kept_photo))"""
_UNKEPT = """
SELECT coalesce(sum(length(data)), 0) AS size_bytes FROM blob INDEXED BY blob_by_size
WHERE sha256 NOT IN (SELECT sha256 FROM kept_blob)"""
_FORGET_STEPS = """
WITH old AS (
  SELECT id FROM entry WHERE photo_id IS NULL ORDER BY visited DESC LIMIT -1 OFFSET :steps)
DELETE FROM entry WHERE id IN (SELECT id FROM old)"""
_CUT_OFF_STEPS = """
WITH old AS (
  SELECT id FROM entry WHERE photo_id IS NULL ORDER BY visited DESC LIMIT -1 OFFSET :steps)
UPDATE entry SET parent_id = NULL WHERE parent_id IN (SELECT id FROM old)"""
_REMOVED_TABLES = ("search", "inspection", "metadata_choice", "entry")
_DROP_UNKEPT_FRAMED = "DELETE FROM framed WHERE id NOT IN (SELECT id FROM kept_framed)"
_DROP_ENCODES_OF_UNKEPT = """
DELETE FROM encode WHERE framed_id NOT IN (SELECT id FROM kept_framed)"""
_UNKEPT_ENCODES = """
SELECT id, size_bytes FROM encode
WHERE id NOT IN (SELECT id FROM kept_encode) AND used < (SELECT max(used) FROM encode)
ORDER BY used, id"""
_DROP_ENCODE = "DELETE FROM encode WHERE id = :id"
#: Pages that are given back at a time.
_SHRUNK_PAGES = 1_000
#: What a photo is made of, and shown by: originals, framed pixels and previews.
_LET_GO = """
UPDATE blob SET data = x'' WHERE sha256 IN (
  SELECT original_sha256 FROM photo WHERE id = :photo_id
  UNION SELECT preview_sha256 FROM inspection WHERE photo_id = :photo_id
  UNION SELECT plain_sha256 FROM framed JOIN photo USING (original_sha256)
    WHERE photo.id = :photo_id
  UNION SELECT pixels_sha256 FROM framed JOIN photo USING (original_sha256)
    WHERE photo.id = :photo_id)"""
_DROP_OTHER_CANDIDATES = """
DELETE FROM candidate
WHERE search_id IN (SELECT id FROM search WHERE photo_id = :photo_id)
  AND encode_id NOT IN (SELECT value FROM json_each(:handed_ids))"""
_DROP_UNNAMED = "DELETE FROM blob WHERE sha256 NOT IN (SELECT sha256 FROM named_blob)"


@dataclass(frozen=True, slots=True, kw_only=True)
class Room:
    """What a workspace takes: all of it, what could go at once, and what of photos that were
    removed could go too, if undo need not bring them back."""

    file_bytes: int
    free_bytes: int
    removed_bytes: int


def touch(connection: sqlite3.Connection, encode: Encode) -> None:
    """Marks an encode as the one used last."""
    connection.execute(_TOUCH, {"id": encode.id})


def make_room(connection: sqlite3.Connection, most_bytes: int) -> None:
    """Lets go, within a transaction, of what can go where more than this is counted."""
    if _number(connection, _COUNTED) <= most_bytes:
        return
    _drop_what_nobody_can_come_back_to(connection, UNDO_STEPS)
    size_bytes = _number(connection, _COUNTED)
    for row in connection.execute(_UNKEPT_ENCODES).fetchall():
        if size_bytes <= _FILL * most_bytes:
            break
        connection.execute(_DROP_ENCODE, {"id": row["id"]})
        size_bytes -= row["size_bytes"]
    connection.execute(_DROP_UNNAMED)


def ready_to_reclaim(connection: sqlite3.Connection) -> None:
    """Makes that letting go takes little of the disk: no temporary files, no pages written over
    before they leave the file, and a log that begins anew; outside of transactions."""
    connection.execute("PRAGMA temp_store = MEMORY")
    connection.execute("PRAGMA secure_delete = FAST").fetchall()
    _empty_log(connection)


def reclaim(connection: sqlite3.Connection, *, forgets_removed: bool) -> None:
    """Lets go, within a transaction, of all that can go; and of all photos that are on no page, if
    undo need not bring them back."""
    _drop_what_nobody_can_come_back_to(connection, 1 if forgets_removed else UNDO_STEPS)
    connection.execute("DELETE FROM encode WHERE id NOT IN (SELECT id FROM kept_encode)")
    connection.execute(_DROP_UNNAMED)


def let_go(connection: sqlite3.Connection, photo_id: int, handed_ids: Collection[int]) -> None:
    """Lets go, within a transaction, of a photo's original, framed pixels and preview, at once, and
    of its encodes but those that are handed over, once room is needed. The original has to be
    brought back before anything is made of it again."""
    connection.execute(_LET_GO, {"photo_id": photo_id})
    handed = json.dumps(list(handed_ids))
    connection.execute(_DROP_OTHER_CANDIDATES, {"photo_id": photo_id, "handed_ids": handed})


def room_of(connection: sqlite3.Connection) -> Room:
    """What a workspace takes, measured within a transaction, which it leaves as it was."""
    connection.execute("SAVEPOINT measuring")
    try:
        _forget_steps(connection, UNDO_STEPS)
        free_bytes = _number(connection, _UNKEPT)
        _forget_steps(connection, 1)
        _drop_removed_photos(connection)
        all_bytes = _number(connection, _UNKEPT)
    finally:
        connection.execute("ROLLBACK TO measuring")
        connection.execute("RELEASE measuring")
    pages, page_bytes = (
        int(connection.execute(f"PRAGMA {name}").fetchone()[0])
        for name in ("page_count", "page_size")
    )
    unused = int(connection.execute("PRAGMA freelist_count").fetchone()[0]) * page_bytes
    return Room(
        file_bytes=pages * page_bytes,
        free_bytes=free_bytes + unused,
        removed_bytes=all_bytes - free_bytes,
    )


def shrink(connection: sqlite3.Connection) -> None:
    """Gives the pages that are free back to the disk, some at a time, so that the log stays small;
    outside of transactions."""
    is_incremental = connection.execute("PRAGMA auto_vacuum").fetchone()[0] == 2
    if not is_incremental:  # a workspace of an earlier version: once, as a whole
        connection.execute("PRAGMA auto_vacuum = INCREMENTAL")
        connection.execute("VACUUM")
    _empty_log(connection)
    while free := _number(connection, "PRAGMA freelist_count"):
        connection.executescript(f"PRAGMA incremental_vacuum({_SHRUNK_PAGES})")
        _empty_log(connection)
        if _number(connection, "PRAGMA freelist_count") >= free:
            break


def _empty_log(connection: sqlite3.Connection) -> None:
    """Brings what is in the log into the file, and gives the log's room back to the disk."""
    connection.execute("PRAGMA wal_checkpoint(TRUNCATE)").fetchall()


def _drop_what_nobody_can_come_back_to(connection: sqlite3.Connection, steps: int) -> None:
    _forget_steps(connection, steps)
    _drop_removed_photos(connection)
    connection.execute(_DROP_ENCODES_OF_UNKEPT)
    connection.execute(_DROP_UNKEPT_FRAMED)
    connection.execute(_DROP_UNNAMED)


def _forget_steps(connection: sqlite3.Connection, steps: int) -> None:
    """Leaves so many steps on the pages, the current one among them."""
    connection.execute(_CUT_OFF_STEPS, {"steps": steps})
    connection.execute(_FORGET_STEPS, {"steps": steps})


def _drop_removed_photos(connection: sqlite3.Connection) -> None:
    """Deletes photos that no step has on a page, with their journals and what was found in them."""
    for table in _REMOVED_TABLES:
        connection.execute(
            f"DELETE FROM {table} WHERE photo_id IS NOT NULL"
            " AND photo_id NOT IN (SELECT id FROM kept_photo)"
        )
    connection.execute("DELETE FROM photo WHERE id NOT IN (SELECT id FROM kept_photo)")


def _number(connection: sqlite3.Connection, query: str) -> int:
    return int(connection.execute(query).fetchone()[0])
