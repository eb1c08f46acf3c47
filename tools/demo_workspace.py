"""Makes the workspace that ships with the demo: `make demo-workspace`.

Weighs the demo photos as a person would, lets go of what can be made again, and of the encodes that
are neither offered nor beside what is offered.
"""

import shutil
import sqlite3
import tempfile
from contextlib import closing
from pathlib import Path

import lean_parcel.demo
from lean_parcel.core.original.source import Limits
from lean_parcel.demo.opening import WEIGHED, WEIGHED_FILES, load_pages
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool
from lean_parcel.work.workspace import Workspace

#: Of the encodes that are not offered, the smallest stay while these bytes last: for curves on the
#: chart, and to balance with.
_CURVES_BYTES = 2_000_000
_SLIM = """
DELETE FROM encode WHERE id NOT IN (SELECT id FROM kept_encode) AND id NOT IN (
  SELECT id FROM (
    SELECT id, sum(size_bytes) OVER (ORDER BY size_bytes, id) AS so_far FROM encode
    WHERE id NOT IN (SELECT id FROM kept_encode) AND likeness > 50)
  WHERE so_far < :curves_bytes);
DELETE FROM framed WHERE id NOT IN (SELECT id FROM kept_framed)
  AND id NOT IN (SELECT framed_id FROM encode);
DELETE FROM blob WHERE sha256 NOT IN (SELECT sha256 FROM named_blob);
"""
_FILES = "SELECT sha256, data FROM blob WHERE sha256 IN (SELECT file_sha256 FROM encode)"
_LET_GO = """
UPDATE blob SET data = x'' WHERE sha256 IN (
  SELECT original_sha256 FROM photo UNION SELECT plain_sha256 FROM framed
  UNION SELECT pixels_sha256 FROM framed UNION SELECT file_sha256 FROM encode);
DELETE FROM identity;
PRAGMA journal_mode = DELETE;
VACUUM;
"""


def main() -> None:
    """Makes the file anew."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / WEIGHED
        pool = WorkerPool(PoolSettings())
        try:
            workspace = Workspace(path, pool, Limits())
            load_pages(workspace)
            workspace.close()
        finally:
            pool.shutdown(cancel_futures=True)
        _ship(path, Path(lean_parcel.demo.__file__).parent)


def _ship(path: Path, folder: Path) -> None:
    """Puts a workspace without what is large into a folder, and its encoded files beside it."""
    files = folder / WEIGHED_FILES
    shutil.rmtree(files, ignore_errors=True)
    files.mkdir()
    with closing(sqlite3.connect(path, isolation_level=None)) as connection:
        connection.executescript(_SLIM.replace(":curves_bytes", str(_CURVES_BYTES)))
        for sha256, data in connection.execute(_FILES):
            (files / sha256).write_bytes(data)
        connection.executescript(_LET_GO)
    shutil.copyfile(path, folder / WEIGHED)


if __name__ == "__main__":
    main()
