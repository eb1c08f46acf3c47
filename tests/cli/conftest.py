"""Workers that all commands share: to start some takes longer than most of what they are asked."""

from collections.abc import Callable, Iterator
from concurrent.futures import Executor, Future
from typing import Any

import pytest

from lean_parcel.work.queue.pool import PoolSettings, WorkerPool


class Lent(Executor):
    """A pool that a command may not end."""

    def __init__(self, pool: WorkerPool) -> None:
        self._pool = pool
        self.hurry = pool.hurry

    def submit(self, function: Callable[..., Any], /, *args: Any, **kwargs: Any) -> Future[Any]:
        return self._pool.submit(function, *args, **kwargs)


@pytest.fixture(scope="session")
def workers() -> Iterator[WorkerPool]:
    pool = WorkerPool(PoolSettings())
    yield pool
    pool.shutdown()


@pytest.fixture(autouse=True)
def lent_workers(workers: WorkerPool, monkeypatch: pytest.MonkeyPatch) -> None:
    for place in ("fit", "pack", "shared.comparing"):
        monkeypatch.setattr(f"lean_parcel.cli.{place}.WorkerPool", lambda _: Lent(workers))
