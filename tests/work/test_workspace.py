import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from lean_parcel.core.aim import Aim
from lean_parcel.core.errors import NotFoundError, TruncatedPhoto
from lean_parcel.core.frame import Place
from lean_parcel.core.photo import Limits
from lean_parcel.work.workspace import Weighing, Workspace
from tests.builders import InlineExecutor, cutout, file, photo

AIM = Aim(place=Place(css_width_px=96), limit_bytes=1_500)


@pytest.fixture
def executor() -> InlineExecutor:
    return InlineExecutor()


@pytest.fixture
def workspace(tmp_path: Path, executor: InlineExecutor) -> Iterator[Workspace]:
    opened = Workspace(tmp_path / "w.sqlite3", executor, Limits())
    yield opened
    opened.close()


def settled(workspace: Workspace, photo_id: int) -> Weighing:
    """The photo once its search has ended."""
    seen = -1
    deadline = time.monotonic() + 30
    while time.monotonic() < deadline:
        weighing = workspace.weighing(photo_id)
        if weighing.search.state != "running":
            return weighing
        seen, _ = workspace.changes.wait(seen, 1)
    raise TimeoutError


def test_a_photo_is_weighed_by_itself_and_everything_is_kept(workspace: Workspace) -> None:
    data = file(photo())
    photo_id = workspace.add_photo("a.png", data, AIM)
    weighing = settled(workspace, photo_id)
    assert weighing.search.state == "done"
    assert {progress.state for progress in weighing.search.formats} == {"done"}
    assert weighing.candidates[0].measured.size_bytes <= 1_500
    for encode in weighing.encodes:
        stored, encoded = workspace.encoded_file(encode.id)
        assert stored == encode
        assert len(encoded) == encode.measured.size_bytes
    assert workspace.original(photo_id)[1] == data


def test_a_bad_file_stores_nothing(workspace: Workspace) -> None:
    with pytest.raises(TruncatedPhoto):
        workspace.add_photo("cut.png", file(photo())[:4_000], AIM)
    assert workspace.list_photos() == []


def test_a_new_aim_replaces_the_search_and_reuses_what_was_made(
    workspace: Workspace, executor: InlineExecutor
) -> None:
    photo_id = workspace.add_photo("a.png", file(photo()), AIM)
    first = settled(workspace, photo_id)
    calls = executor.calls
    workspace.change_aim(photo_id, lambda _: AIM)
    again = settled(workspace, photo_id)
    assert again.candidates == first.candidates
    assert executor.calls == calls
    wider = Aim(place=Place(css_width_px=48), limit_bytes=900, formats=("jpeg",))
    workspace.change_aim(photo_id, lambda _: wider)
    other = settled(workspace, photo_id)
    assert other.photo.aim == wider
    assert {encode.trial.settings.format for encode in other.encodes} == {"jpeg"}
    assert max(encode.trial.width_px for encode in other.encodes) == 48


def test_the_next_photo_starts_from_the_last_aim(workspace: Workspace) -> None:
    workspace.add_photo("a.png", file(photo()), AIM)
    second = workspace.add_photo("b.png", file(cutout()))
    assert settled(workspace, second).photo.aim == AIM


def test_a_pick_is_of_its_own_photo(workspace: Workspace) -> None:
    one = workspace.add_photo("a.png", file(photo()), AIM)
    two = workspace.add_photo("b.png", file(photo(seed=2)), AIM)
    best = settled(workspace, one).candidates[0]
    settled(workspace, two)
    workspace.set_pick(one, best.id)
    assert workspace.list_photos()[0][1] == best
    for photo_id, encode_id in ((two, best.id), (one, 9_999)):
        with pytest.raises(NotFoundError):
            workspace.set_pick(photo_id, encode_id)
    workspace.set_pick(one, None)
    assert workspace.list_photos()[0][1] is None


def test_a_search_that_was_running_goes_on_in_the_next_life(tmp_path: Path) -> None:
    path = tmp_path / "w.sqlite3"
    slow = ThreadPoolExecutor(1)
    first = Workspace(path, slow, Limits())
    photo_id = first.add_photo("a.png", file(photo(480, 320)), AIM)
    first.close()
    slow.shutdown()
    second = Workspace(path, InlineExecutor(), Limits())
    assert second.weighing(photo_id).search.state == "running"
    second.resume_searches()
    assert settled(second, photo_id).search.state == "done"
    second.close()


def test_stopping_keeps_what_was_found(tmp_path: Path) -> None:
    slow = ThreadPoolExecutor(1)
    workspace = Workspace(tmp_path / "w.sqlite3", slow, Limits())
    photo_id = workspace.add_photo("a.png", file(photo(480, 320)), AIM)
    workspace.changes.wait(1, 10)
    workspace.stop_search(photo_id)
    assert workspace.weighing(photo_id).search.state == "stopped"
    workspace.close()
    slow.shutdown()
    assert workspace.weighing(photo_id).search.state == "stopped"


def test_changes_are_announced_to_those_who_wait(workspace: Workspace) -> None:
    seen, _ = workspace.changes.wait(-1, 0)
    photo_id = workspace.add_photo("a.png", file(photo()), AIM)
    version, changed = workspace.changes.wait(seen, 10)
    assert version > seen
    assert changed == [photo_id]
    settled(workspace, photo_id)
