import sqlite3
from collections.abc import Iterator
from pathlib import Path

import pytest

from lean_parcel.store import database


@pytest.fixture
def path(new_file: Path) -> Path:
    return new_file


@pytest.fixture
def connection(path: Path) -> Iterator[sqlite3.Connection]:
    opened = database.connect(path)
    yield opened
    opened.close()
