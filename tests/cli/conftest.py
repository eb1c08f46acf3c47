import pytest

from tests.executors import LentPool


@pytest.fixture(autouse=True)
def lent_workers(workers: LentPool, monkeypatch: pytest.MonkeyPatch) -> None:
    """Commands use workers that are there."""
    for place in ("fit", "pack", "shared.comparing"):
        monkeypatch.setattr(f"lean_parcel.cli.{place}.WorkerPool", lambda _: workers)
