"""Makes the workspace that ships with the demo: `make demo-workspace`.

Weighs the demo photos as a person would, lets go of what can be made again, and of the encodes that
are neither offered nor beside what is offered.
"""

import sqlite3
import tempfile
from contextlib import closing
from pathlib import Path

import lean_parcel.demo
from lean_parcel.core.original.source import Limits
from lean_parcel.demo.opening import WEIGHED, load_pages
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool
from lean_parcel.work.workspace import Workspace

#: Of the encodes that are not offered, the smallest stay while these bytes last: for curves on the
#: chart, and to balance with.
_CURVES_BYTES = 2_000_000
_SLIM = """
UPDATE blob SET data = x'' WHERE sha256 IN (
  SELECT original_sha256 FROM photo UNION SELECT plain_sha256 FROM framed
  UNION SELECT pixels_sha256 FROM framed);
DELETE FROM encode WHERE id NOT IN (SELECT id FROM kept_encode) AND id NOT IN (
  SELECT id FROM (
    SELECT id, sum(size_bytes) OVER (ORDER BY size_bytes, id) AS so_far FROM encode
    WHERE id NOT IN (SELECT id FROM kept_encode) AND likeness > 50)
  WHERE so_far < :curves_bytes);
DELETE FROM framed WHERE id NOT IN (SELECT id FROM kept_framed)
  AND id NOT IN (SELECT framed_id FROM encode);
DELETE FROM blob WHERE sha256 NOT IN (SELECT sha256 FROM named_blob);
PRAGMA journal_mode = DELETE;
VACUUM;
"""


def main() -> None:
    """Makes the file anew."""
    out = Path(lean_parcel.demo.__file__).parent / WEIGHED
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / WEIGHED
        pool = WorkerPool(PoolSettings())
        try:
            workspace = Workspace(path, pool, Limits())
            load_pages(workspace)
            workspace.close()
        finally:
            pool.shutdown(cancel_futures=True)
        with closing(sqlite3.connect(path, isolation_level=None)) as connection:
            for statement in _SLIM.split(";\n"):
                connection.execute(statement.replace(":curves_bytes", str(_CURVES_BYTES)))
        out.write_bytes(path.read_bytes())
    print(f"{out}: {out.stat().st_size:,} bytes")


if __name__ == "__main__":
    main()
