"""What all tests share."""

import os
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing
from hashlib import sha256
from pathlib import Path

import pytest
from hypothesis import settings

from lean_parcel.store.file import database
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool
from tests.executors import MEMORY, LentPool
from tests.recorded import Recorded

# `make fuzz` tries more.
settings.register_profile("suite", max_examples=50)
settings.load_profile("suite")


@pytest.fixture(scope="session", autouse=True)
def memory(tmp_path_factory: pytest.TempPathFactory, worker_id: str) -> None:
    """What one test has encoded, no other needs to, in any process of the run; or of several runs,
    where whoever starts them knows that tasks stay as they are."""
    base = tmp_path_factory.getbasetemp()
    own = (base if worker_id == "master" else base.parent) / "memory"
    MEMORY.folder = Path(os.environ.get("TASK_MEMORY", own))
    MEMORY.folder.mkdir(exist_ok=True)


_EMPTY = sha256().hexdigest()
#: Rows that nothing leads to, since the next id follows the last.
_APART = f"""
    INSERT INTO blob VALUES ('{_EMPTY}', x'');
    INSERT INTO photo VALUES (
      20, 'apart', '{_EMPTY}', '{_EMPTY}', 'png', 1, 1, 1, 0, '2026-01-01T00:00:00.000Z', '', 0);
    INSERT INTO framed VALUES (
      300, '{_EMPTY}', '{{}}', '{_EMPTY}', '{_EMPTY}', '{_EMPTY}', '{{}}');
    INSERT INTO encode (
      id, framed_id, settings, width_px, height_px, file_sha256, size_bytes, container_bytes,
      likeness, encode_ms, version)
      VALUES (4000, 300, '{{}}', 1, 1, '{_EMPTY}', 1, 0, 0, 0, 0);
    UPDATE sqlite_sequence SET seq = 50000;
"""


@pytest.fixture(scope="session")
def begun(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A workspace's file, just begun, to be copied: that is faster."""
    path = tmp_path_factory.mktemp("begun") / "w.sqlite3"
    database.begin(path)
    return path


@pytest.fixture(scope="session")
def begun_apart(begun: Path) -> Path:
    """The same; ids of photos, framed pixels, encodes and searches begin where none is taken for
    another."""
    path = Path(shutil.copy(begun, begun.with_name("apart.sqlite3")))
    with closing(sqlite3.connect(path)) as connection:
        connection.executescript(_APART)
    return path


@pytest.fixture
def new_file(tmp_path: Path, begun_apart: Path) -> Path:
    """The file of a new workspace of the test's own."""
    return Path(shutil.copy(begun_apart, tmp_path / "w.sqlite3"))


@pytest.fixture(scope="session")
def workers() -> Iterator[LentPool]:
    """A worker, which is started when it is first asked for something."""
    pool = WorkerPool(PoolSettings(workers=1))
    yield LentPool(pool)
    pool.shutdown()


@pytest.fixture
def recorded(request: pytest.FixtureRequest) -> Recorded:
    """Compares what the code comes to with the record beside the test."""
    folder = request.path.parent / "recorded" / request.path.stem.removeprefix("test_")
    return Recorded(folder / f"{request.node.name.removeprefix('test_')}.json")
