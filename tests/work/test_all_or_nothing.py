"""Every act is stored whole or not at all, whichever of its statements fails."""

import sqlite3
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path
from threading import get_ident
from typing import Any

import pytest

from lean_parcel.core.decisions.acts import change_aim, pick
from lean_parcel.core.errors import StorageError
from lean_parcel.core.original.source import Limits
from lean_parcel.core.page import page_acts
from lean_parcel.store.file import connections
from lean_parcel.work.pages.balancing import BalanceWish
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.executors import InlineExecutor
from tests.workspaces import AIM, settled

PAGE = 1
AIM_OF_TWO = replace(AIM, formats=("jpeg", "webp"))
WRITES = ("INSERT", "UPDATE", "DELETE", "COMMIT")


class Fuse:
    """Lets so many writes of this thread pass, and fails the next."""

    def __init__(self) -> None:
        self.left: int | None = None
        self._thread = get_ident()

    def burn(self, sql: str) -> None:
        if self.left is None or get_ident() != self._thread:
            return
        if sql.strip().startswith(WRITES):
            self.left -= 1
            if self.left < 0:
                failed = sqlite3.OperationalError("disk I/O error")
                failed.sqlite_errorcode = sqlite3.SQLITE_IOERR_WRITE
                raise failed


class Fused:
    """A connection with a fuse."""

    def __init__(self, connection: sqlite3.Connection, fuse: Fuse) -> None:
        self._connection, self._fuse = connection, fuse

    def execute(self, sql: str, *values: Any) -> sqlite3.Cursor:
        self._fuse.burn(sql)
        return self._connection.execute(sql, *values)

    def executemany(self, sql: str, values: Any) -> sqlite3.Cursor:
        self._fuse.burn(sql)
        return self._connection.executemany(sql, values)

    def __getattr__(self, name: str) -> Any:
        return getattr(self._connection, name)


@pytest.fixture
def fuse(monkeypatch: pytest.MonkeyPatch) -> Fuse:
    real, fuse = connections.connect, Fuse()
    monkeypatch.setattr(
        connections, "connect", lambda path, **options: Fused(real(path, **options), fuse)
    )
    return fuse


@pytest.fixture
def workspace(tmp_path: Path, fuse: Fuse) -> Iterator[Workspace]:
    """Two photos that are weighed, of which one was changed and changed back, and a second page."""
    opened = Workspace(tmp_path / "w.sqlite3", InlineExecutor(), Limits())
    for seed in (1, 2):
        settled(
            opened, opened.adding.add_photo(f"{seed}.png", file(photo(seed=seed)), aim=AIM_OF_TWO)
        )
    opened.page_editing.do(page_acts.add_page("Second"))
    opened.page_editing.do(page_acts.rename_photo(1, "door.png"))
    for seed in (1, 2):
        opened.deciding.do(seed, change_aim({"limit_bytes": 1_400}))
        settled(opened, seed)
    opened.deciding.do(1, pick(settled(opened, 1).encodes.candidates[0].id))
    while opened.planning.page(PAGE).running:
        opened.changes.wait(-1, 0.05)
    yield opened
    opened.close()


def add(workspace: Workspace) -> None:
    workspace.adding.add_photo("3.png", file(photo(seed=3)), aim=AIM_OF_TWO)


def balance(workspace: Workspace) -> None:
    wish = BalanceWish(spend_bytes=2_200)
    found = workspace.balancing.view(PAGE, wish)
    workspace.balancing.take(PAGE, {each.spot.photo_id: each.after.id for each in found.photos})


ACTS: dict[str, Callable[[Workspace], Any]] = {
    "add": add,
    "decide": lambda w: w.deciding.do(1, change_aim({"limit_bytes": 1_200})),
    "take": lambda w: w.selections.take([1, 2]),
    "undo": lambda w: w.deciding.undo(2),
    "go back": lambda w: w.deciding.go_back_to(2, w.viewing.journal(2)[0][0].id),
    "undo on the page": lambda w: w.page_editing.undo(),
    "move": lambda w: w.page_editing.do(page_acts.move_photos((1, 2), 2)),
    "remove": lambda w: w.page_editing.do(page_acts.remove_photos((1,))),
    "change together": lambda w: w.selections.change_aims([1, 2], {"limit_bytes": 1_100}),
    "begin a batch": lambda w: w.selections.weigh([1, 2]),
    "keep a treatment": lambda w: w.selections.keep_treatment(1, "Mine"),
    "balance": balance,
}


@pytest.mark.parametrize("name", ACTS)
def test_an_act_that_fails_has_stored_nothing(
    tmp_path: Path, workspace: Workspace, fuse: Fuse, name: str
) -> None:
    before = stored(tmp_path)
    for passed in range(100):
        fuse.left = passed
        try:
            ACTS[name](workspace)
        except StorageError:
            fuse.left = None
            assert stored(tmp_path) == before, f"after {passed} writes"
        else:
            break
    fuse.left = None
    assert passed > 1
    assert stored(tmp_path) != before


@pytest.mark.parametrize("name", ["undo on the page", "undo"])
def test_what_is_done_again_is_as_it_was(workspace: Workspace, name: str) -> None:
    before = shown(workspace)
    ACTS[name](workspace)
    assert shown(workspace) != before
    (workspace.page_editing.redo if "page" in name else lambda: workspace.deciding.redo(2))()
    assert shown(workspace) == before


def shown(workspace: Workspace) -> Any:
    return workspace.page_viewing.layout(), [workspace.viewing.photo(i).state for i in (1, 2)]


def stored(folder: Path) -> list[str]:
    """All that the workspace holds."""
    with sqlite3.connect(folder / "w.sqlite3") as connection:
        return list(connection.iterdump())
