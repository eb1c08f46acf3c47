"""What `make faults` does a hundred times, once each and with fewer photos."""

from pathlib import Path

import pytest
from tools.faults import FAULTS, faults, table

pytestmark = pytest.mark.e2e


def test_nothing_is_lost_whatever_happens_to_workers_servers_and_files(tmp_path: Path) -> None:
    tally = faults(tmp_path / "w.sqlite3", FAULTS, seed=17, say=print, photos_a_client=2)
    print(table(tally))
    assert tally.is_clean, tally.lost
    assert tally.acknowledged > 5  # there was something to lose
    assert set(tally.faults) == set(FAULTS)
