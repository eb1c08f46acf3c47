"""What `make faults` does a hundred times, once and with fewer photos; other deaths of workers have
their tests with the pool, and other damage to files with the store."""

from pathlib import Path

import pytest
from tools.faults import Fault, faults, table

pytestmark = pytest.mark.e2e
KINDS: tuple[Fault, ...] = ("busy worker", "server")


def test_nothing_is_lost_whatever_happens_to_workers_servers_and_files(tmp_path: Path) -> None:
    tally = faults(tmp_path / "w.sqlite3", KINDS, seed=17, say=print, photos_a_client=1)
    print(table(tally))
    assert tally.is_clean, tally.lost
    assert tally.acknowledged > 5  # there was something to lose
    assert set(tally.faults) == set(KINDS)
