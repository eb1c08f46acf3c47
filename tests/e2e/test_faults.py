"""What `make faults` does a hundred times, a few times."""

from pathlib import Path

from tools.faults import faults, table


def test_nothing_is_lost_when_workers_and_the_server_are_killed(tmp_path: Path) -> None:
    tally = faults(tmp_path / "w.sqlite3", kills=5, seed=17, say=print)
    print(table(tally))
    assert tally.is_clean, tally.lost
    assert tally.acknowledged > 5  # there was something to lose
    assert set(tally.kills) == {"idle worker", "starting worker", "busy worker", "server"}
