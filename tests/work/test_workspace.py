"""A workspace that can only be read, or has no room."""

import os
import shutil
import sqlite3
import subprocess
import sys
from collections.abc import Sequence
from contextlib import closing
from dataclasses import replace
from pathlib import Path

import pytest

from lean_parcel.core.decisions.acts import change_aim, change_framing, pick
from lean_parcel.core.encoding.settings import JpegSettings
from lean_parcel.core.errors import StorageError, UsageError
from lean_parcel.core.original.source import Limits
from lean_parcel.core.page import page_acts
from lean_parcel.store.encodes import Encode
from lean_parcel.web.app import create_app
from lean_parcel.work.workspace import Workspace
from tests.builders import cutout, file, photo
from tests.executors import InlineExecutor
from tests.workspaces import AIM, made_by_hand, settled


@pytest.fixture
def path(tmp_path: Path) -> Path:
    """A workspace with a photo and a pick, closed."""
    workspace = Workspace(tmp_path / "w.sqlite3", InlineExecutor(), Limits())
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    workspace.deciding.do(photo_id, pick(settled(workspace, photo_id).encodes.candidates[0].id))
    workspace.close()
    return tmp_path / "w.sqlite3"


def opened(path: Path) -> Workspace:
    return Workspace(path, InlineExecutor(), Limits(), is_read_only=True)


def test_everything_is_shown_and_nothing_is_changed(path: Path) -> None:
    before = path.read_bytes()
    workspace = opened(path)
    workspace.resume()
    (photo_id,) = workspace.page_viewing.pages().photos
    view = workspace.viewing.photo(photo_id)
    pick_id = view.state.picked_encode_id
    assert pick_id
    assert workspace.files.delivered(photo_id, pick_id)[1]
    assert workspace.viewing.findings(photo_id)
    for act in (
        lambda: workspace.deciding.do(photo_id, change_aim({"limit_bytes": 900})),
        lambda: workspace.deciding.undo(photo_id),
        lambda: workspace.page_editing.do(page_acts.remove_photos((photo_id,))),
        lambda: workspace.adding.add_photo("b.png", file(photo(seed=2)), aim=AIM),
        lambda: workspace.room_keeping.reclaim(forgets_removed=True),
    ):
        with pytest.raises(StorageError) as caught:
            act()
        assert caught.value.code == "workspace_read_only"
    client = create_app(workspace, Limits()).test_client()
    assert client.get("/api/terms").json["is_read_only"]
    assert client.get(f"/api/photos/{photo_id}/at/0").status_code == 200
    workspace.close()
    assert path.read_bytes() == before


def test_it_is_looked_at_while_another_server_has_it(path: Path) -> None:
    server = Workspace(path, InlineExecutor(), Limits())
    looking = opened(path)
    (photo_id,) = looking.page_viewing.pages().photos
    server.deciding.do(photo_id, pick(None))
    assert looking.viewing.photo(photo_id).state.picked_encode_id is None
    looking.close()
    server.close()


def test_one_of_an_earlier_version_says_why_it_cannot_be_opened(path: Path) -> None:
    older = path.with_name("older.sqlite3")
    shutil.copy(path, older)
    connection = sqlite3.connect(older)
    connection.execute("PRAGMA user_version = 3")
    connection.close()
    for wrong, code in ((older, "workspace_too_old"), (path.with_name("text"), "not_a_workspace")):
        path.with_name("text").write_text("no database " * 100)
        with pytest.raises(UsageError) as caught:
            opened(wrong)
        assert caught.value.code == code


def test_work_goes_on_where_there_is_no_room_for_anything_more(tmp_path: Path) -> None:
    workspace = Workspace(tmp_path / "w.sqlite3", InlineExecutor(), Limits(), room_bytes=1)
    photo_id = workspace.adding.add_photo("a.png", file(cutout()), aim=AIM)
    best = settled(workspace, photo_id).encodes.candidates[0]
    tuned = made_by_hand(workspace, photo_id, JpegSettings(quality=33, chroma="4:4:4"))
    assert workspace.files.encoded(tuned.id)[1]
    workspace.deciding.do(photo_id, pick(tuned.id))
    workspace.deciding.do(photo_id, change_framing({"background": "#ff0000"}))
    assert settled(workspace, photo_id).state.picked_encode_id not in (None, tuned.id)
    workspace.deciding.do(photo_id, change_framing({}, turn="left"))
    view = settled(workspace, photo_id)
    assert view.framed
    assert view.encodes.candidates
    for _ in range(3):
        workspace.deciding.undo(photo_id)
    assert settled(workspace, photo_id).encodes.candidates[0].trial == best.trial
    workspace.close()


def test_an_original_of_an_earlier_version_is_looked_at_again(tmp_path: Path) -> None:
    path = tmp_path / "w.sqlite3"
    workspace = Workspace(path, InlineExecutor(), Limits())
    data = file(photo(), "JPEG", quality=95)
    aim = replace(AIM, limit_bytes=len(data) + 10)
    photo_id = workspace.adding.add_photo("a.jpg", data, aim=aim)
    before = settled(workspace, photo_id).encodes.candidates
    workspace.close()
    with closing(sqlite3.connect(path)) as connection:
        connection.executescript(
            "DROP TABLE identity; ALTER TABLE photo DROP COLUMN is_photograph;"
            "PRAGMA user_version = 15;"
            "UPDATE entry SET state = json_set(state, '$.aim.place.css_width_px', 96)"
            " WHERE photo_id IS NOT NULL;"
            "UPDATE encode SET version = 1, likeness = 99 WHERE instr(settings, 'pass_through')"
        )
    workspace = Workspace(path, InlineExecutor(), Limits())
    assert not any(each.trial.is_pass_through for each in found(workspace, photo_id))
    workspace.resume()
    settled(workspace, photo_id)
    originals = [each for each in found(workspace, photo_id) if each.trial.is_pass_through]
    assert originals
    assert {each.measured.likeness for each in originals} == {100}
    assert len(found(workspace, photo_id)) == len(before)
    workspace.close()


def found(workspace: Workspace, photo_id: int) -> Sequence[Encode]:
    return workspace.viewing.photo(photo_id).encodes.candidates


def test_room_is_given_back_on_a_full_disk(tmp_path: Path) -> None:
    own_disks = ["unshare", "--mount", *(() if os.getuid() == 0 else ("--user", "--map-root-user"))]
    may = subprocess.run([*own_disks, "mount", "-t", "tmpfs", "tmpfs", tmp_path], check=False)
    if may.returncode:
        pytest.skip("no disk of its own may be made here")
    program = [*own_disks, sys.executable, "-m", "tests.work.full_disk", tmp_path]
    done = subprocess.run(program, check=True, stdout=subprocess.PIPE, text=True)
    assert done.stdout.split() == ["disk_full", "stored"]


@pytest.mark.parametrize("way", ["link", "without its lock"])
def test_one_workspace_is_never_in_two_servers(path: Path, way: str) -> None:
    server = Workspace(path, InlineExecutor(), Limits())
    second = path
    if way == "link":
        second = path.with_name("link.sqlite3")
        second.symlink_to(path)
    for each in path.parent.glob("*.lock"):
        each.unlink()
    with pytest.raises(UsageError) as caught:
        Workspace(second, InlineExecutor(), Limits())
    assert caught.value.code == "workspace_in_use"
    server.close()


@pytest.mark.parametrize("act", ["deleted", "replaced"])
def test_no_act_is_acknowledged_once_the_file_is_not_the_one_that_was_opened(
    path: Path, act: str
) -> None:
    workspace = Workspace(path, InlineExecutor(), Limits())
    (photo_id,) = workspace.page_viewing.pages().photos
    copy = path.with_name("copy.sqlite3")
    shutil.copy(path, copy)
    path.unlink() if act == "deleted" else copy.replace(path)
    for do in (
        lambda: workspace.deciding.do(photo_id, pick(None)),
        lambda: workspace.adding.add_photo("b.png", file(photo(seed=2)), aim=AIM),
    ):
        with pytest.raises(StorageError) as caught:
            do()
        assert caught.value.code == "workspace_gone"
    client = create_app(workspace, Limits()).test_client()
    answer = client.get(f"/api/photos/{photo_id}/at/0")
    assert (answer.status_code, answer.json["code"]) == (503, "workspace_gone")
    workspace.close()


def test_a_damaged_workspace_is_called_damaged(path: Path) -> None:
    whole = path.read_bytes()
    page = 4096
    damaged = whole[:page] + b"\xff" * (len(whole) - page)
    path.write_bytes(damaged)
    with pytest.raises((UsageError, StorageError)) as caught:
        Workspace(path, InlineExecutor(), Limits())
    assert caught.value.code in ("damaged_workspace", "workspace_damaged")
    assert "lean-parcel check" in caught.value.message
