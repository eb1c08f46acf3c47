"""What `make faults` does a hundred times, once each and with fewer photos; workers that die while
they are idle or start have their tests with the pool."""

from pathlib import Path

import pytest
from tools.faults import FAULTS, faults, table

pytestmark = pytest.mark.e2e
KINDS = tuple(kind for kind in FAULTS if kind not in ("idle worker", "starting worker"))


def test_nothing_is_lost_whatever_happens_to_workers_servers_and_files(tmp_path: Path) -> None:
    tally = faults(tmp_path / "w.sqlite3", KINDS, seed=17, say=print, photos_a_client=1)
    print(table(tally))
    assert tally.is_clean, tally.lost
    assert tally.acknowledged > 5  # there was something to lose
    assert set(tally.faults) == set(KINDS)
