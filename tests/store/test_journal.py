from dataclasses import replace

import pytest

from lean_parcel.core.decisions.state import State
from lean_parcel.core.errors import NotFoundError, UsageError
from lean_parcel.core.page.page_acts import add_page
from lean_parcel.store import journal
from lean_parcel.store.journal import PAGES, of_photo
from tests.store.rows import STATE, Connection, add_photo


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
        journal.undo(connection, of_photo(photo_id))
        assert limit(connection, photo_id) == expected
    with pytest.raises(UsageError) as caught:
        journal.undo(connection, of_photo(photo_id))
    assert caught.value.code == "nothing_to_undo"
    for expected in (1, 2, 3):
        journal.redo(connection, of_photo(photo_id))
        assert limit(connection, photo_id) == expected
    with pytest.raises(UsageError) as caught:
        journal.redo(connection, of_photo(photo_id))
    assert caught.value.code == "nothing_to_redo"


def test_a_new_step_after_undo_loses_nothing(connection: Connection) -> None:
    photo_id = add_photo(connection)
    step(connection, photo_id, 1)
    step(connection, photo_id, 2)
    left = journal.current(connection, of_photo(photo_id))
    journal.undo(connection, of_photo(photo_id))
    step(connection, photo_id, 30)
    assert [e.words for e in journal.entries(connection, of_photo(photo_id))][-2:] == [
        "Limit 2",
        "Limit 30",
    ]
    with pytest.raises(UsageError):
        journal.redo(connection, of_photo(photo_id))
    journal.visit(connection, of_photo(photo_id), left.id)
    assert limit(connection, photo_id) == 2
    journal.undo(connection, of_photo(photo_id))
    journal.redo(connection, of_photo(photo_id))
    assert limit(connection, photo_id) == 2  # back into the branch that was left last


def test_journals_of_photos_and_pages_do_not_meet(connection: Connection) -> None:
    one, two = add_photo(connection), add_photo(connection)
    step(connection, one, 1)
    entry = journal.current(connection, of_photo(one))
    with pytest.raises(NotFoundError):
        journal.visit(connection, of_photo(two), entry.id)
    before = journal.layout_of(connection)
    layout = add_page("Journal").done(before)
    journal.append_layout(connection, "New page", layout)
    assert journal.layout_of(connection) == layout
    journal.undo(connection, PAGES)
    assert journal.layout_of(connection) == before
    assert limit(connection, one) == 1
    with pytest.raises(NotFoundError):
        journal.state_of(connection, 99)
