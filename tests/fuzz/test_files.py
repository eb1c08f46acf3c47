"""Files that were damaged, on purpose or not: opened, or refused with a code, by workers that
neither grow nor hang."""

from collections.abc import Iterator

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lean_parcel.core.errors import PhotoError, TaskCrashed, UsageError
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.metadata.scans import first_picture_bytes
from lean_parcel.core.metadata.values import Credit
from lean_parcel.core.original.source import Limits
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool
from lean_parcel.work.tasks.framing import FramedFiles, frame_task
from lean_parcel.work.tasks.inspection import Inspected, inspect_task
from tests.fuzz import tries
from tests.fuzz.mutations import hostile_files, seeds

SEEDS = seeds()
LIMITS = Limits(max_pixels=4_000_000, max_size_bytes=1_000_000)
PLACE = Place(size="40")
#: What a decoder may take before it is ended: much less than there is.
SETTINGS = PoolSettings(workers=1, max_memory_bytes=4_000_000_000, max_task_s=20)


@pytest.fixture(scope="module")
def pool() -> Iterator[WorkerPool]:
    running = WorkerPool(SETTINGS)
    yield running
    running.shutdown()


@pytest.mark.parametrize("kind", SEEDS)
def test_the_files_to_begin_with_are_opened(pool: WorkerPool, kind: str) -> None:
    for data in SEEDS[kind]:
        assert opened(pool, data, kind)


@pytest.mark.parametrize("kind", SEEDS)
def test_a_damaged_file_is_opened_or_refused(pool: WorkerPool, kind: str) -> None:
    @tries(15)
    @given(data=st.data())
    def send(data: st.DataObject) -> None:
        hostile = data.draw(hostile_files(kind, SEEDS[kind]))
        opened(pool, hostile, kind)
        first_picture_bytes(hostile)  # in the server, of whatever is handed out

    send()


def opened(pool: WorkerPool, data: bytes, kind: str) -> bool:
    """Whether a file is opened and inspected; every refusal has a code, and one of a photo."""
    try:
        framed: FramedFiles = pool.submit(
            frame_task, data, f"x.{kind}", Framing(), PLACE, LIMITS
        ).result()
        found: Inspected = pool.submit(inspect_task, data, f"x.{kind}", Credit(), LIMITS).result()
    except (PhotoError, UsageError, TaskCrashed):  # and nothing else
        return False
    assert framed.source.size_bytes == len(data)
    assert found.findings
    return True
