from collections.abc import Iterator
from concurrent.futures import Future
from contextlib import closing
from dataclasses import replace
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest

from lean_parcel.core.decisions.acts import change_aim, pick
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.settings import PassThrough, is_draft, slow_settings
from lean_parcel.core.errors import TaskCrashed
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.source import Limits
from lean_parcel.work.photos.viewing import PhotoView
from lean_parcel.work.tasks.encoding import encode_task
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.executors import FailingExecutor, HeldExecutor, HurriedExecutor, InlineExecutor
from tests.workspaces import catch_up, settled

AIM = Aim(place=Place(size="200"), limit_bytes=2_500)
OF_AVIF = replace(AIM, formats=("avif",))
#: Softer than others, so that it can look good at all.
SOFT = file(np.asarray(cv2.GaussianBlur(photo(400, 260), (0, 0), 1), np.uint8))


@pytest.fixture
def ahead(tmp_path: Path, executor: InlineExecutor) -> Iterator[Workspace]:
    opened = Workspace(tmp_path / "ahead.sqlite3", executor, Limits(), works_ahead=True)
    yield opened
    opened.close()


def looked_at(workspace: Workspace, photo_id: int) -> PhotoView:
    """The photo once nothing is left to do ahead."""
    view, queue = settled(workspace, photo_id), workspace.context.queue
    workspace.looking.look(view)
    catch_up(workspace)
    while queue.state().jobs or queue.state().running:
        workspace.changes.wait(-1, 0.01)
    return workspace.viewing.photo(photo_id)


def test_curves_are_filled_with_drafts(ahead: Workspace) -> None:
    photo_id = ahead.adding.add_photo("a.png", SOFT, aim=AIM)
    before = settled(ahead, photo_id).encodes.made
    after = looked_at(ahead, photo_id).encodes.made
    added = [encode for encode in after if encode not in before]
    assert {encode.trial.settings.format for encode in added} == {"jpeg", "png", "webp", "avif"}
    assert any(is_draft(encode.trial.settings) for encode in added)
    for name in ("jpeg", "webp", "avif"):
        curve = [each.measured.likeness for each in after if each.trial.settings.format == name]
        assert min(curve) < 60
        assert max(curve) > 75


def test_nothing_is_done_ahead_in_a_workspace_that_is_only_read(new_file: Path) -> None:
    with closing(Workspace(new_file, InlineExecutor(), Limits())) as weighed:
        photo_id = weighed.adding.add_photo("a.png", SOFT, aim=OF_AVIF)
        settled(weighed, photo_id)
    executor = InlineExecutor()
    reader = Workspace(new_file, executor, Limits(), is_read_only=True, works_ahead=True)
    with closing(reader):
        view = reader.viewing.photo(photo_id)
        assert looked_at(reader, photo_id).encodes == view.encodes
    assert not executor.calls


class _WithoutJpeg(InlineExecutor):
    """Encodes no JPEG once it `refuses`."""

    refuses = False

    def submit(self, function: Any, /, *args: Any) -> Future[Any]:
        if self.refuses and function is encode_task and args[1].settings.format == "jpeg":
            failed: Future[Any] = Future()
            failed.set_exception(TaskCrashed("An encoder broke."))
            return failed
        return super().submit(function, *args)


def test_what_cannot_be_encoded_ahead_keeps_nothing_else_from_it(new_file: Path) -> None:
    executor = _WithoutJpeg()
    workspace = Workspace(new_file, executor, Limits(), works_ahead=True)
    photo_id = workspace.adding.add_photo("a.png", SOFT, aim=AIM)
    before = settled(workspace, photo_id)
    executor.refuses = True
    after = looked_at(workspace, photo_id)
    added = {e.trial.settings.format for e in after.encodes.made if e not in before.encodes.made}
    assert added == {"png", "webp", "avif"}
    assert after.search.state == "done"
    workspace.close()


def test_a_better_candidate_takes_the_place_of_the_one_before(ahead: Workspace) -> None:
    photo_id = ahead.adding.add_photo("a.png", SOFT, aim=OF_AVIF)
    (before,) = (c for c in settled(ahead, photo_id).encodes.candidates if not is_passed(c.trial))
    ahead.deciding.do(photo_id, pick(before.id))
    view = looked_at(ahead, photo_id)
    ((better_id, before_id),) = view.encodes.improved.items()
    assert before_id == before.id
    assert before.id not in view.encodes.candidate_ids
    (better,) = (c for c in view.encodes.candidates if c.id == better_id)
    assert better.trial.settings == slow_settings(better.trial.settings)  # type: ignore[arg-type]
    assert better.measured.size_bytes <= AIM.limit_bytes
    assert better.measured.likeness > before.measured.likeness
    assert better.worst is not None
    assert view.state.picked_encode_id == before.id  # what was taken stays


def is_passed(trial: object) -> bool:
    return isinstance(getattr(trial, "settings", None), PassThrough)


def test_what_was_done_ahead_is_not_done_again(
    tmp_path: Path, ahead: Workspace, executor: InlineExecutor
) -> None:
    photo_id = ahead.adding.add_photo("a.png", SOFT, aim=AIM)
    done = looked_at(ahead, photo_id)
    calls = executor.calls
    assert looked_at(ahead, photo_id) == done
    ahead.close()
    again = Workspace(tmp_path / "ahead.sqlite3", executor, Limits(), works_ahead=True)
    assert looked_at(again, photo_id).encodes == done.encodes
    assert executor.calls == calls
    again.close()


def test_an_aim_that_was_had_before_has_its_better_candidates_at_once(ahead: Workspace) -> None:
    photo_id = ahead.adding.add_photo("a.png", SOFT, aim=OF_AVIF)
    done = looked_at(ahead, photo_id)
    ahead.deciding.do(photo_id, change_aim({"limit_bytes": 1_900}))
    looked_at(ahead, photo_id)
    ahead.deciding.undo(photo_id)
    assert looked_at(ahead, photo_id).encodes.candidate_ids == done.encodes.candidate_ids


def test_nothing_is_done_ahead_where_nobody_is_free(
    workspace: Workspace, executor: InlineExecutor
) -> None:
    photo_id = workspace.adding.add_photo("a.png", SOFT, aim=AIM)
    view = settled(workspace, photo_id)
    calls = executor.calls
    workspace.looking.look(view)
    assert looked_at(workspace, photo_id).encodes == view.encodes
    assert executor.calls == calls


def held_at_first_encode(tmp_path: Path, executor: HeldExecutor) -> tuple[Workspace, int]:
    """A workspace whose work ahead waits for its first encode."""
    workspace = Workspace(tmp_path / "w.sqlite3", executor, Limits(), works_ahead=True)
    photo_id = workspace.adding.add_photo("a.png", SOFT, aim=AIM)
    view = settled(workspace, photo_id)
    executor.hold(encode_task)
    workspace.looking.look(view)
    assert executor.has_held.wait(10)
    return workspace, photo_id


def test_another_search_ends_what_is_done_ahead(tmp_path: Path) -> None:
    executor = HurriedExecutor()
    workspace, photo_id = held_at_first_encode(tmp_path, executor)
    assert executor.held_count == 1  # the other worker is free
    made = len(workspace.viewing.photo(photo_id).encodes.made)
    workspace.deciding.do(photo_id, change_aim({"limit_bytes": 20_000}))
    workspace.looking.look(workspace.viewing.photo(photo_id))
    executor.let_go()
    view = settled(workspace, photo_id)
    assert view.search.state == "done"
    assert len(view.encodes.made) >= made
    assert view.encodes.improved == {}
    workspace.close()


def test_of_many_photos_those_looked_at_last_are_worked_on(tmp_path: Path) -> None:
    executor = HeldExecutor()
    workspace, photo_id = held_at_first_encode(tmp_path, executor)
    first = len(workspace.viewing.photo(photo_id).encodes.made)
    executor.let_go()
    for seed in range(2, 5):
        other_id = workspace.adding.add_photo("b.png", file(photo(seed=seed)), aim=AIM)
        workspace.looking.look(settled(workspace, other_id))
    assert len(workspace.viewing.photo(photo_id).encodes.made) >= first + 1  # what ran is kept
    workspace.close()


def test_a_failure_ahead_is_nobodys_concern(tmp_path: Path) -> None:
    executor = FailingExecutor(None, TaskCrashed("It died."))
    workspace = Workspace(tmp_path / "w.sqlite3", executor, Limits(), works_ahead=True)
    photo_id = workspace.adding.add_photo("a.png", SOFT, aim=AIM)
    view = settled(workspace, photo_id)
    executor.fail_from_now_on(encode_task)
    after = looked_at(workspace, photo_id)
    assert (after.encodes, after.search.state) == (view.encodes, "done")
    workspace.close()
