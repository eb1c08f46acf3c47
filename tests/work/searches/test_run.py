import io
import resource
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from lean_parcel.core.decisions.acts import change_aim, pick
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.settings import PassThrough
from lean_parcel.core.errors import StorageError, TruncatedPhoto
from lean_parcel.core.original.source import Limits
from lean_parcel.core.picture.serialisation import decode
from lean_parcel.store import searches
from lean_parcel.store.file import database
from lean_parcel.work.tasks.encoding import measure_ladder_task
from lean_parcel.work.tasks.original import pass_through_task
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.executors import FailingExecutor, HeldExecutor, InlineExecutor
from tests.workspaces import AIM, settled


@pytest.mark.parametrize("likeness", [None, 99.0])
def test_an_original_that_fits_its_place_is_offered_and_handed_out_to_the_byte(
    workspace: Workspace, likeness: float | None
) -> None:
    data = file(photo(96, 64), "JPEG", quality=60)
    aim = Aim(place=AIM.place, limit_bytes=len(data), likeness=likeness)
    photo_id = workspace.adding.add_photo("a.jpg", data, aim=aim)
    packed, original = settled(workspace, photo_id).encodes.candidates[:2]
    assert packed.trial.settings == PassThrough(format="jpeg", keeps_metadata=False, repacked=True)
    assert packed.measured.likeness == original.measured.likeness == 100
    assert packed.measured.size_bytes < original.measured.size_bytes
    np.testing.assert_array_equal(decode(workspace.files.encoded(packed.id)[1]), decode(data))
    assert workspace.files.encoded(original.id)[1] == data
    workspace.deciding.do(photo_id, pick(original.id))
    assert workspace.page_viewing.pages().photos[photo_id].pick == original
    too_low = change_aim({"limit_bytes": packed.measured.size_bytes - 1, "likeness": None})
    workspace.deciding.do(photo_id, too_low)
    assert not offers_original(workspace, photo_id)


def offers_original(workspace: Workspace, photo_id: int) -> bool:
    candidates = settled(workspace, photo_id).encodes.candidates
    assert candidates
    return any(encode.trial.is_pass_through for encode in candidates)


def test_a_search_is_done_though_its_original_cannot_be_measured(tmp_path: Path) -> None:
    executor = FailingExecutor(pass_through_task, TruncatedPhoto("cut off"))
    workspace = Workspace(tmp_path / "w.sqlite3", executor, Limits())
    data = file(photo(96, 64), "JPEG", quality=60)
    aim = Aim(place=AIM.place, limit_bytes=len(data))
    photo_id = workspace.adding.add_photo("a.jpg", data, aim=aim)
    assert not offers_original(workspace, photo_id)
    assert settled(workspace, photo_id).search.state == "done"
    workspace.close()


def test_an_original_of_several_pictures_is_not_offered(workspace: Workspace) -> None:
    frames = [Image.fromarray(photo(96, 64, seed)) for seed in (1, 2)]
    out = io.BytesIO()
    frames[0].save(out, "WEBP", save_all=True, append_images=frames[1:], quality=20)
    aim = Aim(place=AIM.place, limit_bytes=100_000)
    photo_id = workspace.adding.add_photo("a.webp", out.getvalue(), aim=aim)
    assert not offers_original(workspace, photo_id)


@pytest.mark.parametrize(
    ("error", "message"),
    [
        (TruncatedPhoto("It is cut off."), "It is cut off."),
        (ZeroDivisionError(), "The search failed. Try it again."),
    ],
)
def test_a_search_whose_ladder_cannot_be_measured_has_failed_and_says_why(
    tmp_path: Path, error: Exception, message: str
) -> None:
    executor = FailingExecutor(measure_ladder_task, error)
    workspace = Workspace(tmp_path / "w.sqlite3", executor, Limits())
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    search = settled(workspace, photo_id).search
    assert (search.state, search.error_message) == ("failed", message)
    workspace.close()


def test_a_search_that_was_running_goes_on_in_the_next_life(tmp_path: Path) -> None:
    path = tmp_path / "w.sqlite3"
    executor = HeldExecutor()
    first = Workspace(path, executor, Limits())
    photo_id = first.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(first, photo_id)
    executor.hold()
    first.deciding.do(photo_id, change_aim({"limit_bytes": 1_100}))
    assert executor.has_held.wait(10)
    first.close()
    second = Workspace(path, InlineExecutor(), Limits())
    assert second.viewing.photo(photo_id).search.state == "running"
    second.runs.resume()
    assert settled(second, photo_id).search.state == "done"
    second.close()


def test_a_search_goes_on_once_the_disk_has_room_again(tmp_path: Path) -> None:
    executor = HeldExecutor()
    workspace = Workspace(tmp_path / "w.sqlite3", executor, Limits(), retry_s=0.2)
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    best = settled(workspace, photo_id).encodes.candidates[0]
    executor.hold()
    workspace.deciding.do(photo_id, change_aim({"limit_bytes": 1_100}))
    assert executor.has_held.wait(10)
    with no_file_may_grow():
        executor.let_go()
        with pytest.raises(StorageError) as caught:
            workspace.deciding.do(photo_id, change_aim({"limit_bytes": 1_200}))
        assert caught.value.code in ("disk_full", "workspace_unreachable")
        assert workspace.files.encoded(best.id)[0] == best
    view = settled(workspace, photo_id)
    assert (view.search.state, view.state.aim.limit_bytes) == ("done", 1_100)
    workspace.close()


def test_a_failure_that_cannot_be_stored_leaves_no_search_running_for_ever(tmp_path: Path) -> None:
    executor = HeldExecutor()
    workspace = Workspace(tmp_path / "w.sqlite3", executor, Limits(), retry_s=0.2)
    executor.hold(measure_ladder_task)
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    assert executor.has_held.wait(10)
    with no_file_may_grow():
        executor.fail_held(TruncatedPhoto("It is cut off."))
        workspace.changes.wait(workspace.changes.since(0).version, 0.5)
    # Tried again; or it had failed only once there was room, and says so.
    assert settled(workspace, photo_id).search.state in ("done", "failed")
    workspace.close()


@contextmanager
def no_file_may_grow() -> Iterator[None]:
    """As on a full disk, nothing can be written."""
    soft, hard = resource.getrlimit(resource.RLIMIT_FSIZE)
    resource.setrlimit(resource.RLIMIT_FSIZE, (1, hard))
    try:
        yield
    finally:
        resource.setrlimit(resource.RLIMIT_FSIZE, (soft, hard))


def test_stopping_keeps_what_was_found_and_what_still_runs_is_stored(tmp_path: Path) -> None:
    executor = HeldExecutor()
    workspace = Workspace(tmp_path / "w.sqlite3", executor, Limits())
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    before = len(settled(workspace, photo_id).encodes.made)
    executor.hold()
    workspace.deciding.do(photo_id, change_aim({"limit_bytes": 1_100}))
    assert executor.has_held.wait(10)
    workspace.deciding.stop_search(photo_id)
    executor.let_go()
    workspace.close()
    view = workspace.viewing.photo(photo_id)
    assert view.search.state == "stopped"
    assert len(view.encodes.made) > before


def test_of_two_searches_the_later_one_runs_whichever_comes_first(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    with workspace.context.connection() as connection, database.transaction(connection):
        earlier = searches.start(connection, photo_id, 1_500, ("jpeg",))
        later = searches.start(connection, photo_id, 1_500, ("jpeg", "webp"))
    workspace.runs.start(later)
    workspace.runs.start(earlier)
    search = settled(workspace, photo_id).search
    assert (search.id, search.state) == (later.id, "done")


def test_a_stop_of_an_older_search_leaves_the_newer_one_alone(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    with workspace.context.connection() as connection:
        (older,) = searches.all_of(connection, photo_id)
    workspace.deciding.do(photo_id, change_aim({"limit_bytes": 1_100}))
    workspace.runs.stop(older)
    assert settled(workspace, photo_id).search.state == "done"


def test_framed_pixels_are_shown_while_a_search_waits_for_its_turn(tmp_path: Path) -> None:
    executor = HeldExecutor()
    workspace = Workspace(tmp_path / "w.sqlite3", executor, Limits(), slots=1)
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    framed = settled(workspace, photo_id).framed
    executor.hold()
    for limit_bytes in (1_100, 1_200):  # the first one's task keeps the only worker
        workspace.deciding.do(photo_id, change_aim({"limit_bytes": limit_bytes}))
        assert executor.has_held.wait(10)
        assert workspace.viewing.photo(photo_id).framed == framed
    executor.let_go()
    assert settled(workspace, photo_id).search.limit_bytes == 1_200
    workspace.close()
