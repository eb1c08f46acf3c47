from collections.abc import Iterator
from pathlib import Path

import pytest

from lean_parcel.core.original.source import Limits
from lean_parcel.work.workspace import Workspace
from tests.executors import InlineExecutor


@pytest.fixture
def executor() -> InlineExecutor:
    return InlineExecutor()


@pytest.fixture
def workspace(new_file: Path, executor: InlineExecutor) -> Iterator[Workspace]:
    opened = Workspace(new_file, executor, Limits())
    yield opened
    opened.close()
