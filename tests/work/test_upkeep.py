"""Backups, restored workspaces, and what is found where a workspace is not whole."""

import sqlite3
import threading
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

import pytest

from lean_parcel.core.decisions.acts import pick
from lean_parcel.core.errors import StorageError, UsageError
from lean_parcel.core.original.source import Limits
from lean_parcel.store.file import identity
from lean_parcel.store.file.health import Defect
from lean_parcel.store.file.identity import Identity
from lean_parcel.work import upkeep
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.executors import InlineExecutor
from tests.workspaces import AIM, settled


def dumped(path: Path) -> set[str]:
    """All rows of a workspace, but for the one that says whether it is a backup."""
    with closing(sqlite3.connect(path)) as connection:
        dump = set(connection.iterdump())
    return {row for row in dump if not row.startswith('INSERT INTO "identity"')}


@pytest.fixture
def path(tmp_path: Path) -> Path:
    return tmp_path / "workspace.sqlite3"


@pytest.fixture
def workspace(path: Path) -> Iterator[Workspace]:
    """One with a photo that is weighed and taken."""
    opened = Workspace(path, InlineExecutor(), Limits())
    view = settled(opened, add(opened, "mill.png"))
    opened.deciding.do(view.photo.id, pick(encode_id=view.encodes.candidates[0].id))
    yield opened
    opened.close()


def add(workspace: Workspace, name: str) -> int:
    return workspace.adding.add_photo(name, file(photo()), aim=AIM)


def test_a_backup_is_the_workspace_while_that_is_open(
    workspace: Workspace, path: Path, tmp_path: Path
) -> None:
    backup = tmp_path / "backup.sqlite3"
    upkeep.back_up(path, backup)
    made = dumped(backup)
    assert sum(row.startswith('INSERT INTO "entry"') for row in made) >= 3  # page, photo, pick
    lasting = {row for row in made if not row.startswith('INSERT INTO "search')}
    assert lasting <= dumped(path)  # where variants are searched for by now
    assert upkeep.check(backup) == []
    assert {each.name for each in tmp_path.iterdir() if "backup" in each.name} == {backup.name}


def test_a_backup_says_that_it_is_one_until_somebody_works_with_it(
    workspace: Workspace, path: Path, tmp_path: Path
) -> None:
    backup = tmp_path / "backup.sqlite3"
    upkeep.back_up(path, backup)
    first, copy = (identity_of(each) for each in (path, backup))
    assert (first.is_backup, copy.is_backup) == (False, True)
    assert first.workspace_id == copy.workspace_id
    Workspace(backup, InlineExecutor(), Limits()).close()
    assert identity_of(backup) == first


def identity_of(path: Path) -> Identity:
    with closing(sqlite3.connect(path)) as connection:
        found = identity.get(connection)
    assert found
    return found


def test_a_backup_is_whole_at_one_moment_while_acts_go_on(
    workspace: Workspace, path: Path, tmp_path: Path
) -> None:
    is_over = threading.Event()

    def act() -> None:
        while not is_over.is_set():
            add(workspace, "more.png")

    acting = threading.Thread(target=act)
    acting.start()
    try:
        for number in range(5):
            upkeep.back_up(path, tmp_path / f"backup {number}")
    finally:
        is_over.set()
        acting.join()
    assert [upkeep.check(tmp_path / f"backup {number}") for number in range(5)] == [[]] * 5


def test_a_workspace_is_restored_and_what_it_was_is_kept(path: Path, tmp_path: Path) -> None:
    backup = tmp_path / "backup"
    workspace = Workspace(path, InlineExecutor(), Limits())
    add(workspace, "first.png")
    upkeep.back_up(path, backup)
    add(workspace, "second.png")
    with pytest.raises(UsageError, match="open in another") as refused:
        upkeep.restore(path, backup)
    assert refused.value.code == "workspace_in_use"
    workspace.close()
    after = dumped(path)
    before = upkeep.restore(path, backup)
    assert before
    assert (dumped(path), dumped(before)) == (dumped(backup), after)
    with closing(Workspace(path, InlineExecutor(), Limits())) as again:
        names = [each.photo.name for each in again.page_viewing.pages().photos.values()]
    assert names == ["first.png"]


def test_what_restores_have_kept_is_never_replaced(path: Path, tmp_path: Path) -> None:
    backup = tmp_path / "backup"
    with closing(Workspace(path, InlineExecutor(), Limits())):
        upkeep.back_up(path, backup)
    kept = []
    for name in ("first.png", "second.png", "third.png"):
        with closing(Workspace(path, InlineExecutor(), Limits())) as workspace:
            add(workspace, name)
        kept.append(upkeep.restore(path, backup))
    assert len(set(kept)) == 3
    for each, name in zip(kept, ("first.png", "second.png", "third.png"), strict=True):
        assert each
        assert names_in(each) == [name]


def names_in(path: Path) -> list[str]:
    with closing(sqlite3.connect(path)) as connection:
        return [name for (name,) in connection.execute("SELECT name FROM photo")]


def test_only_an_earlier_backup_of_the_same_workspace_is_replaced(
    workspace: Workspace, path: Path, tmp_path: Path
) -> None:
    backup = tmp_path / "backup"
    upkeep.back_up(path, backup)
    add(workspace, "more.png")
    upkeep.back_up(path, backup)
    assert len(names_in(backup)) == 2
    other = Workspace(tmp_path / "other.sqlite3", InlineExecutor(), Limits())
    add(other, "other.png")
    letter, link, log = tmp_path / "letter", tmp_path / "link", tmp_path / "logged"
    letter.write_bytes(b"Dear reader")
    link.symlink_to(tmp_path / "other.sqlite3")
    upkeep.back_up(path, log)
    log.with_name("logged-wal").write_bytes(b"x")
    for wrong, code in (
        (tmp_path / "other.sqlite3", "workspace_in_use"),
        (link, "workspace_in_use"),
        (letter, "not_its_backup"),
        (log, "not_its_backup"),
    ):
        with pytest.raises(UsageError) as refused:
            upkeep.back_up(path, wrong)
        assert refused.value.code == code
    other.close()
    with pytest.raises(UsageError) as refused:
        upkeep.back_up(path, tmp_path / "other.sqlite3")
    assert refused.value.code == "not_its_backup"
    assert names_in(tmp_path / "other.sqlite3") == ["other.png"]
    assert letter.read_bytes() == b"Dear reader"


def test_a_backup_that_was_opened_to_work_with_is_none_any_more(
    workspace: Workspace, path: Path, tmp_path: Path
) -> None:
    backup = tmp_path / "backup"
    upkeep.back_up(path, backup)
    with closing(Workspace(backup, InlineExecutor(), Limits())) as opened:
        add(opened, "worked on.png")
    with pytest.raises(UsageError) as refused:
        upkeep.back_up(path, backup)
    assert refused.value.code == "not_its_backup"
    assert "worked on.png" in names_in(backup)


def test_a_workspace_is_restored_where_there_was_none(
    workspace: Workspace, path: Path, tmp_path: Path
) -> None:
    upkeep.back_up(path, tmp_path / "backup")
    assert upkeep.restore(tmp_path / "elsewhere.sqlite3", tmp_path / "backup") is None
    assert dumped(tmp_path / "elsewhere.sqlite3") == dumped(tmp_path / "backup")


@pytest.mark.parametrize("content", [b"", b"no database at all", b"SQLite format 3\0" + b"x" * 200])
def test_what_is_no_workspace_is_neither_backed_up_nor_restored(
    path: Path, tmp_path: Path, content: bytes
) -> None:
    odd = tmp_path / "odd"
    odd.write_bytes(content)
    for act in (lambda: upkeep.back_up(odd, tmp_path / "b"), lambda: upkeep.restore(path, odd)):
        with pytest.raises(UsageError) as refused:
            act()
        assert refused.value.code == "not_a_workspace"
    assert not path.exists()
    assert not (tmp_path / "b").exists()


def test_a_workspace_that_is_not_there_is_told(tmp_path: Path) -> None:
    with pytest.raises(StorageError):
        upkeep.check(tmp_path / "nowhere")
    assert not (tmp_path / "nowhere").exists()


def test_a_damaged_backup_is_not_restored(workspace: Workspace, path: Path, tmp_path: Path) -> None:
    backup = tmp_path / "backup"
    upkeep.back_up(path, backup)
    change(backup, "UPDATE blob SET data = zeroblob(10) WHERE length(data) > 0")
    with pytest.raises(UsageError) as refused:
        upkeep.restore(tmp_path / "new", backup)
    assert refused.value.code == "damaged_backup"


def change(path: Path, statement: str) -> None:
    with closing(sqlite3.connect(path)) as connection, connection:
        connection.execute("PRAGMA foreign_keys = OFF")
        connection.execute(statement)


@pytest.mark.parametrize(
    ("statement", "problem"),
    [
        ("UPDATE blob SET data = zeroblob(7) WHERE length(data) > 0", "changed_bytes"),
        (
            "UPDATE blob SET data = x'' WHERE sha256 IN (SELECT original_sha256 FROM photo)",
            "lost_original",
        ),
        (
            "UPDATE blob SET data = x'' WHERE sha256 IN (SELECT file_sha256 FROM encode)",
            "lost_file",
        ),
        ("DELETE FROM photo", "lost_reference"),
    ],
)
def test_a_check_finds_what_is_wrong_and_knows_what_to_do(
    workspace: Workspace, path: Path, statement: str, problem: str
) -> None:
    assert upkeep.check(path) == []
    change(path, statement)
    found = {each.problem for each in upkeep.check(path)}
    assert problem in found
    assert all(upkeep.ADVICE[each] for each in found)


def test_what_cannot_be_read_is_not_called_damaged(
    workspace: Workspace, path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fail(_: sqlite3.Connection) -> list[Defect]:
        error = sqlite3.OperationalError("disk I/O error")
        error.sqlite_errorcode = sqlite3.SQLITE_IOERR
        raise error

    monkeypatch.setattr(upkeep, "findings", fail)
    with pytest.raises(StorageError) as told:
        upkeep.check(path)
    assert told.value.code == "workspace_unreachable"


def test_a_file_that_is_written_over_is_found(workspace: Workspace, path: Path) -> None:
    workspace.close()
    with path.open("r+b") as written:
        written.seek(path.stat().st_size // 2)
        written.write(b"\xff" * 20_000)
    assert "damaged_file" in {each.problem for each in upkeep.check(path)}


def test_a_damaged_workspace_is_restored(path: Path, tmp_path: Path) -> None:
    workspace = Workspace(path, InlineExecutor(), Limits())
    add(workspace, "mill.png")
    upkeep.back_up(path, tmp_path / "backup")
    workspace.close()
    path.write_bytes(b"\xff" * 5_000)
    before = upkeep.restore(path, tmp_path / "backup")
    assert before
    assert before.read_bytes() == b"\xff" * 5_000
    assert upkeep.check(path) == []


def test_a_workspace_is_no_backup_of_itself(workspace: Workspace, path: Path) -> None:
    with pytest.raises(UsageError) as refused:
        upkeep.back_up(path, path)
    assert refused.value.code == "same_file"
