import multiprocessing
import os
import select
import signal
import subprocess
import sys
from collections.abc import Iterator
from concurrent.futures import Executor
from functools import partial
from multiprocessing.process import BaseProcess
from pathlib import Path
from threading import Event

import pytest

from lean_parcel.core.errors import OutOfMemory, TaskCrashed, TaskTimedOut, TruncatedPhoto
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.source import Limits
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool
from lean_parcel.work.tasks.framing import frame_task
from tests.builders import file, photo
from tests.work.queue import hostile

#: Far below what this machine has: it is the limit that refuses.
MEMORY_BYTES = 3_000_000_000


@pytest.fixture(scope="module")
def pool() -> Iterator[WorkerPool]:
    workers = WorkerPool(PoolSettings(workers=1, max_memory_bytes=MEMORY_BYTES))
    yield workers
    workers.shutdown(cancel_futures=True)


@pytest.fixture(scope="module")
def hasty() -> Iterator[WorkerPool]:
    """One that waits a second only, for tasks that never end."""
    workers = WorkerPool(PoolSettings(workers=1, max_task_s=1))
    yield workers
    workers.shutdown(cancel_futures=True)


def test_it_is_an_executor(pool: WorkerPool) -> None:
    assert isinstance(pool, Executor)
    assert list(pool.map(hostile.double, [1, 2, 3])) == [2, 4, 6]


@pytest.mark.parametrize(
    ("task", "error"),
    [
        (hostile.die, TaskCrashed),
        (partial(hostile.eat_memory, 2 * MEMORY_BYTES), OutOfMemory),
        (hostile.fail, ValueError),
    ],
    ids=["die", "eat memory", "fail"],
)
def test_a_task_that_goes_wrong_fails_alone_and_the_pool_heals(
    pool: WorkerPool, task: object, error: type[Exception]
) -> None:
    broken, sound = pool.submit(task), pool.submit(hostile.double, 21)  # type: ignore[arg-type]
    with pytest.raises(error):
        broken.result(timeout=60)
    assert sound.result(timeout=60) == 42


def test_a_worker_that_dies_while_idle_is_replaced(pool: WorkerPool) -> None:
    os.kill(pool.submit(os.getpid).result(timeout=60), signal.SIGKILL)
    assert pool.submit(hostile.double, 5).result(timeout=60) == 10


def test_a_worker_that_dies_while_it_starts_is_replaced() -> None:
    workers = WorkerPool(PoolSettings(workers=1))
    try:
        first = workers.submit(hostile.double, 6)
        os.kill(_one_child().pid or 0, signal.SIGKILL)
        assert first.result(timeout=60) == 12
    finally:
        workers.shutdown(cancel_futures=True)


def _one_child() -> BaseProcess:
    """The first child process there is, as soon as there is one."""
    for _ in range(6_000):
        for child in multiprocessing.active_children():
            return child
        Event().wait(0.01)
    raise AssertionError("no process was started")


def test_a_task_whose_worker_is_killed_is_run_again(pool: WorkerPool, tmp_path: Path) -> None:
    """The photo is not blamed for a worker that was killed once."""
    assert pool.submit(hostile.die_once, tmp_path / "marker").result(timeout=60) == "survived"


def test_workers_end_with_the_process_that_started_them() -> None:
    script = "from tests.work.queue.hostile import pool_of_one; pool_of_one()"
    with subprocess.Popen([sys.executable, "-c", script], stdout=subprocess.PIPE) as server:
        assert server.stdout
        worker = int(server.stdout.readline())
        ended = os.pidfd_open(worker)
        server.kill()
    assert select.select([ended], [], [], 60)[0]
    os.close(ended)


def test_errors_of_the_core_keep_their_words_on_the_way_back(pool: WorkerPool) -> None:
    cut = file(photo(200, 150))[:9_000]
    with pytest.raises(TruncatedPhoto, match=r"“cut\.png” is cut off"):
        pool.submit(frame_task, cut, "cut.png", Framing(), Place(size="90"), Limits()).result()


def test_a_task_that_hangs_is_ended_and_what_waits_can_be_cancelled(hasty: WorkerPool) -> None:
    running = hasty.submit(hostile.hang)
    waiting = hasty.submit(hostile.double, 1)
    assert waiting.cancel()
    with pytest.raises(TaskTimedOut):
        running.result(timeout=60)
    assert hasty.submit(hostile.double, 4).result(timeout=60) == 8


def test_a_hurried_task_ends_and_its_worker_goes_on() -> None:
    workers = WorkerPool(PoolSettings(workers=1, grace_s=0.2))
    try:
        assert workers.submit(hostile.double, 1).result(timeout=60) == 2
        running = workers.submit(hostile.hang)
        workers.hurry(running)
        with pytest.raises(TaskCrashed, match="stopped"):
            running.result(timeout=10)
        assert workers.submit(hostile.double, 5).result(timeout=60) == 10
    finally:
        workers.shutdown(cancel_futures=True)


def test_a_hurried_task_that_soon_ends_keeps_its_result(pool: WorkerPool) -> None:
    quick = pool.submit(hostile.double, 8)
    pool.hurry(quick)
    assert quick.result(timeout=60) == 16
    pool.hurry(quick)


def test_what_is_within_its_memory_is_done(pool: WorkerPool) -> None:
    assert pool.submit(hostile.eat_memory, 100_000_000).result(timeout=60) == 100_000_000


def test_a_task_whose_worker_dies_runs_twice_and_never_a_third_time(
    pool: WorkerPool, tmp_path: Path
) -> None:
    with pytest.raises(TaskCrashed):
        pool.submit(hostile.die_and_count, tmp_path / "runs").result(timeout=60)
    assert (tmp_path / "runs").read_text() == "once more\n" * 2
