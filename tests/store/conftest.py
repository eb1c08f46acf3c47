import shutil
import sqlite3
from collections.abc import Iterator
from pathlib import Path

import pytest

from lean_parcel.store.file import database


@pytest.fixture
def path(tmp_path: Path, begun: Path) -> Path:
    return Path(shutil.copy(begun, tmp_path / "w.sqlite3"))


@pytest.fixture
def connection(path: Path) -> Iterator[sqlite3.Connection]:
    opened = database.connect(path)
    yield opened
    opened.close()
