"""What all tests share."""

import os
import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest

from lean_parcel.store import database
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool
from tests.executors import MEMORY, LentPool


@pytest.fixture(scope="session", autouse=True)
def memory(tmp_path_factory: pytest.TempPathFactory, worker_id: str) -> None:
    """What one test has encoded, no other needs to, in any process of the run; or of several runs,
    where whoever starts them knows that tasks stay as they are."""
    base = tmp_path_factory.getbasetemp()
    own = (base if worker_id == "master" else base.parent) / "memory"
    MEMORY.folder = Path(os.environ.get("TASK_MEMORY", own))
    MEMORY.folder.mkdir(exist_ok=True)


@pytest.fixture(scope="session")
def begun(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A workspace's file, just begun: to copy it takes a seventh of the time."""
    path = tmp_path_factory.mktemp("begun") / "w.sqlite3"
    database.begin(path)
    return path


@pytest.fixture
def new_file(tmp_path: Path, begun: Path) -> Path:
    """The file of a new workspace of the test's own."""
    return Path(shutil.copy(begun, tmp_path / "w.sqlite3"))


@pytest.fixture(scope="session")
def workers() -> Iterator[LentPool]:
    """A worker, which is started when it is first asked for something."""
    pool = WorkerPool(PoolSettings(workers=1))
    yield LentPool(pool)
    pool.shutdown()
