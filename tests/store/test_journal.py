from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from lean_parcel.core.errors import NotFoundError, UsageError
from lean_parcel.core.journal import State
from lean_parcel.core.layout import Layout, with_page
from lean_parcel.store import database, journal
from tests.store.test_store import STATE, Connection, add_photo


@pytest.fixture
def connection(tmp_path: Path) -> Iterator[Connection]:
    database.migrate(tmp_path / "w.sqlite3")
    opened = database.connect(tmp_path / "w.sqlite3")
    yield opened
    opened.close()


def step(connection: Connection, photo_id: int, limit_bytes: int) -> State:
    aim = replace(STATE.aim, limit_bytes=limit_bytes)
    state = replace(journal.state_of(connection, photo_id), aim=aim)
    journal.append_state(connection, photo_id, f"Limit {limit_bytes}", state)
    return state


def limit(connection: Connection, photo_id: int) -> int:
    return journal.state_of(connection, photo_id).aim.limit_bytes


def test_undo_and_redo_walk_along_the_steps(connection: Connection) -> None:
    photo_id = add_photo(connection)
    for limit_bytes in (1, 2, 3):
        step(connection, photo_id, limit_bytes)
    for expected in (2, 1, STATE.aim.limit_bytes):
        journal.undo(connection, photo_id)
        assert limit(connection, photo_id) == expected
    with pytest.raises(UsageError) as caught:
        journal.undo(connection, photo_id)
    assert caught.value.code == "nothing_to_undo"
    for expected in (1, 2, 3):
        journal.redo(connection, photo_id)
        assert limit(connection, photo_id) == expected
    with pytest.raises(UsageError) as caught:
        journal.redo(connection, photo_id)
    assert caught.value.code == "nothing_to_redo"


def test_a_new_step_after_undo_loses_nothing(connection: Connection) -> None:
    photo_id = add_photo(connection)
    step(connection, photo_id, 1)
    step(connection, photo_id, 2)
    left = journal.current(connection, photo_id)
    journal.undo(connection, photo_id)
    step(connection, photo_id, 30)
    assert [e.words for e in journal.entries(connection, photo_id)][-2:] == ["Limit 2", "Limit 30"]
    with pytest.raises(UsageError):
        journal.redo(connection, photo_id)
    journal.visit(connection, photo_id, left.id)
    assert limit(connection, photo_id) == 2
    journal.undo(connection, photo_id)
    journal.redo(connection, photo_id)
    assert limit(connection, photo_id) == 2  # back into the branch that was left last


def test_journals_of_photos_and_pages_do_not_meet(connection: Connection) -> None:
    one, two = add_photo(connection), add_photo(connection)
    step(connection, one, 1)
    entry = journal.current(connection, one)
    with pytest.raises(NotFoundError):
        journal.visit(connection, two, entry.id)
    layout = with_page(journal.layout_of(connection), "Journal")
    journal.append_layout(connection, "New page", layout)
    assert journal.layout_of(connection) == layout
    journal.undo(connection, None)
    assert journal.layout_of(connection) == Layout()
    assert limit(connection, one) == 1
    with pytest.raises(NotFoundError):
        journal.state_of(connection, 99)


def test_the_latest_state_is_the_one_decided_last(connection: Connection) -> None:
    assert journal.latest_state(connection) is None
    one, _ = add_photo(connection), add_photo(connection)
    state = step(connection, one, 7)
    assert journal.latest_state(connection) == state
