from collections.abc import Iterator
from concurrent.futures import Executor

import pytest

from lean_parcel.core.errors import OutOfMemory, TaskCrashed, TaskTimedOut, TruncatedPhoto
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.source import Limits
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool
from lean_parcel.work.tasks.framing import frame_task
from tests.builders import file, photo
from tests.work.queue import hostile


@pytest.fixture(scope="module")
def pool() -> Iterator[WorkerPool]:
    workers = WorkerPool(PoolSettings(workers=1, max_task_s=4))
    yield workers
    workers.shutdown(cancel_futures=True)


def test_it_is_an_executor(pool: WorkerPool) -> None:
    assert isinstance(pool, Executor)
    assert list(pool.map(hostile.double, [1, 2, 3])) == [2, 4, 6]


@pytest.mark.parametrize(
    ("task", "error"),
    [
        (hostile.die, TaskCrashed),
        (hostile.hang, TaskTimedOut),
        (hostile.eat_memory, OutOfMemory),
        (hostile.fail, ValueError),
    ],
)
def test_a_task_that_goes_wrong_fails_alone_and_the_pool_heals(
    pool: WorkerPool, task: object, error: type[Exception]
) -> None:
    broken, sound = pool.submit(task), pool.submit(hostile.double, 21)  # type: ignore[arg-type]
    with pytest.raises(error):
        broken.result(timeout=60)
    assert sound.result(timeout=60) == 42


def test_errors_of_the_core_keep_their_words_on_the_way_back(pool: WorkerPool) -> None:
    cut = file(photo(200, 150))[:9_000]
    with pytest.raises(TruncatedPhoto, match=r"“cut\.png” is cut off"):
        pool.submit(
            frame_task, cut, "cut.png", Framing(), Place(css_width_px=90), Limits()
        ).result()


def test_what_waits_can_be_cancelled(pool: WorkerPool) -> None:
    running = pool.submit(hostile.hang)
    waiting = pool.submit(hostile.double, 1)
    assert waiting.cancel()
    with pytest.raises(TaskTimedOut):
        running.result(timeout=60)
    assert pool.submit(hostile.double, 4).result(timeout=60) == 8
