"""Workers of a cluster: the same files, pixels that travel once, workers that die."""

import os
import time
from collections.abc import Iterator
from concurrent.futures import Executor
from pathlib import Path

import distributed
import pytest

from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.encoding.settings import JpegSettings
from lean_parcel.core.errors import TaskCrashed, TaskTimedOut, UsageError
from lean_parcel.core.original.source import Limits
from lean_parcel.core.picture.serialisation import lossless_png
from lean_parcel.work.queue import cluster, versions
from lean_parcel.work.queue.cluster import ClusterPool
from lean_parcel.work.tasks.encoder_input import EncoderInput
from lean_parcel.work.tasks.encoding import Encoded, encode_task
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.executors import InlineExecutor
from tests.workspaces import AIM, settled

MEMORY_BYTES = 8_000_000_000


@pytest.fixture(scope="module")
def machines() -> Iterator[distributed.LocalCluster]:
    with distributed.LocalCluster(
        n_workers=2, threads_per_worker=1, dashboard_address=":0", silence_logs=50
    ) as running:
        yield running


@pytest.fixture
def pool(machines: distributed.LocalCluster) -> Iterator[ClusterPool]:
    # Long enough for workers to start anew on a machine that has much to do.
    joined = ClusterPool(machines.scheduler_address, max_memory_bytes=MEMORY_BYTES, max_task_s=150)
    yield joined
    joined.shutdown()


def encodes(path: Path, executor: Executor) -> set[tuple[str, str, int]]:
    """What a search for a photo makes: settings, hash and width of each file."""
    workspace = Workspace(path, executor, Limits())
    try:
        photo_id = workspace.adding.add_photo("mill.png", file(photo()), aim=AIM)
        view = settled(workspace, photo_id)
        assert view.search.state == "done"
        return {(str(e.trial.settings), e.file_sha256, e.trial.width_px) for e in view.encodes.made}
    finally:
        workspace.close()


def test_a_cluster_makes_the_same_files(pool: ClusterPool, tmp_path: Path) -> None:
    here = encodes(tmp_path / "here.sqlite3", InlineExecutor())
    assert encodes(tmp_path / "there.sqlite3", pool) == here


def test_pixels_travel_once_to_a_worker_and_not_once_a_task(pool: ClusterPool) -> None:
    pixels = EncoderInput(pixels_png=lossless_png(photo(400, 300)))
    futures = [pool.submit(encode_task, pixels, trial(quality)) for quality in range(40, 60)]
    assert len({future.result().data for future in futures}) > 10
    held = pool._client.has_what()
    copies = [key for keys in held.values() for key in keys if key.startswith("EncoderInput")]
    assert 1 <= len(copies) <= 2
    assert len(set(copies)) == 1


def trial(quality: int) -> Trial:
    return Trial(
        settings=JpegSettings(quality=quality, chroma="4:2:0"), width_px=400, height_px=300
    )


def test_a_worker_that_dies_costs_a_repeat_and_nothing_else(
    pool: ClusterPool, tmp_path: Path
) -> None:
    mark = tmp_path / "died"
    pixels = EncoderInput(pixels_png=lossless_png(photo(400, 300)))
    futures = [
        pool.submit(_die_once, str(mark) if quality == 50 else "", pixels, trial(quality))
        for quality in range(45, 60)
    ]
    made = [future.result().data for future in futures]
    assert mark.exists()
    assert made == [encode_task(pixels, trial(quality)).data for quality in range(45, 60)]


def _die_once(mark: str, pixels: EncoderInput, wanted: Trial) -> Encoded:
    if mark and not Path(mark).exists():
        Path(mark).touch()
        os._exit(1)
    return encode_task(pixels, wanted)


def test_what_kills_every_worker_is_given_up(pool: ClusterPool) -> None:
    with pytest.raises(TaskCrashed):
        pool.submit(os._exit, 1).result()
    assert pool.submit(abs, -1).result() == 1  # the others go on


def test_what_takes_too_long_is_ended(machines: distributed.LocalCluster) -> None:
    hasty = ClusterPool(machines.scheduler_address, max_memory_bytes=MEMORY_BYTES, max_task_s=1)
    with pytest.raises(TaskTimedOut):
        hasty.submit(time.sleep, 60).result()
    hasty.shutdown()


def test_workers_of_other_versions_are_refused(
    machines: distributed.LocalCluster, monkeypatch: pytest.MonkeyPatch
) -> None:
    other = (*versions.versions()[:-1], ("pyvips-binary", "0.1"))
    monkeypatch.setattr(cluster, "versions", lambda: other)
    with pytest.raises(UsageError, match=r"instead of 0\.1") as refused:
        ClusterPool(machines.scheduler_address, max_memory_bytes=MEMORY_BYTES, max_task_s=60)
    assert refused.value.code == "versions_differ"


def test_a_worker_that_joins_later_with_other_versions_does_nothing(
    pool: ClusterPool, monkeypatch: pytest.MonkeyPatch
) -> None:
    other = (*versions.versions()[:-1], ("pyvips-binary", "0.1"))
    monkeypatch.setattr(cluster, "versions", lambda: other)
    with pytest.raises(UsageError, match="would make other files"):
        pool.submit(abs, -1).result()


def test_an_address_without_a_cluster_is_told(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(cluster, "_CONNECT_S", 1)
    with pytest.raises(UsageError) as refused:
        ClusterPool("tcp://127.0.0.1:9", max_memory_bytes=MEMORY_BYTES, max_task_s=60)
    assert refused.value.code == "no_cluster"
