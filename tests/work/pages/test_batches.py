"""Batches that are stopped, gone on with, and cut off."""

from pathlib import Path

import pytest

from lean_parcel.core.decisions.acts import change_aim, pick
from lean_parcel.core.decisions.page_settings import SETTINGS
from lean_parcel.core.errors import NotFoundError, TaskCrashed
from lean_parcel.core.original.source import Limits
from lean_parcel.core.page import page_acts
from lean_parcel.work.pages.batches import BatchView
from lean_parcel.work.tasks.encoding import encode_task
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.executors import FailingExecutor, HeldExecutor, InlineExecutor
from tests.workspaces import AIM, settled

PAGE = 1
CARD = 4


def add(workspace: Workspace, count: int) -> list[int]:
    return [
        workspace.adding.add_photo(f"{i}.png", file(photo(seed=i)), aim=AIM) for i in range(count)
    ]


def view(workspace: Workspace) -> BatchView:
    found = workspace.batches.view(PAGE)
    assert found
    return found


def ended(workspace: Workspace) -> BatchView:
    seen = -1
    while (found := view(workspace)).state == "running":
        seen = workspace.changes.wait(seen, 30).version
    return found


def test_a_treatment_is_weighed_as_a_batch(workspace: Workspace) -> None:
    ids = add(workspace, 3)
    assert workspace.batches.view(PAGE) is None
    workspace.selections.treat(ids[:2], CARD)
    batch = ended(workspace)
    assert (batch.batch.words, batch.photo_ids) == ("Card", tuple(ids[:2]))
    assert (batch.state, batch.ended, batch.failed) == ("done", 2, 0)
    workspace.page_editing.do(page_acts.remove_photos((ids[0],)))
    assert view(workspace).photo_ids == (ids[1],)
    workspace.batches.end(PAGE)
    assert workspace.batches.view(PAGE) is None


def holding(path: Path, photos: int) -> tuple[Workspace, HeldExecutor, list[int]]:
    """A workspace with photos that are weighed, and an executor that holds what comes next."""
    executor = HeldExecutor()
    workspace = Workspace(path, executor, Limits())
    ids = add(workspace, photos)
    for photo_id in ids:
        settled(workspace, photo_id)
    executor.hold()
    return workspace, executor, ids


def test_a_batch_is_stopped_and_goes_on_without_doing_anything_twice(new_file: Path) -> None:
    workspace, executor, ids = holding(new_file, 3)
    workspace.selections.treat(ids, CARD)
    executor.has_held.wait(10)
    workspace.batches.stop(PAGE)
    assert view(workspace).state == "stopped"
    executor.let_go()
    workspace.batches.resume(PAGE)
    assert ended(workspace).ended == 3
    calls = executor.calls
    workspace.selections.weigh(ids)
    assert ended(workspace).ended == 3
    assert executor.calls == calls
    workspace.close()


def test_going_on_starts_exactly_what_was_stopped(
    new_file: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    workspace, executor, ids = holding(new_file, 4)
    workspace.selections.treat(ids[:3], CARD)
    workspace.deciding.stop_search(ids[0])
    workspace.deciding.do(ids[3], change_aim({"limit_bytes": 1_400}))
    workspace.deciding.stop_search(ids[3])  # no photo of the batch
    begun: list[int] = []
    start = workspace.runs.start
    monkeypatch.setattr(
        workspace.runs, "start", lambda ref: (begun.append(ref.photo_id), start(ref))
    )
    workspace.batches.resume(PAGE)
    assert begun == [ids[0]]
    assert (view(workspace).ended, view(workspace).state) == (0, "running")
    executor.let_go()
    assert ended(workspace).ended == 3
    begun.clear()
    workspace.batches.resume(PAGE)
    assert begun == []
    assert workspace.viewing.photo(ids[3]).search.state == "stopped"
    workspace.close()


def test_a_batch_that_was_cut_off_goes_on_in_the_next_process(new_file: Path) -> None:
    workspace, executor, ids = holding(new_file, 2)
    workspace.selections.treat(ids, CARD)
    executor.has_held.wait(10)
    workspace.close()
    again = Workspace(new_file, InlineExecutor(), Limits())
    assert view(again).state == "running"
    again.resume()
    assert ended(again).ended == 2
    again.close()


def test_what_failed_is_told_and_weighed_again(tmp_path: Path) -> None:
    failing = FailingExecutor(encode_task, TaskCrashed("An encoder broke."))
    workspace = Workspace(tmp_path / "w.sqlite3", failing, Limits())
    (photo_id,) = add(workspace, 1)
    settled(workspace, photo_id)
    workspace.selections.weigh([photo_id])
    found = ended(workspace)
    assert (found.ended, found.failed) == (1, 1)
    row = workspace.page_viewing.rows([photo_id])[photo_id]
    assert (row.best, row.search_error) == (None, "An encoder broke.")
    failing.fail_from_now_on(None)
    calls = failing.calls
    workspace.selections.weigh([photo_id])
    assert (ended(workspace).ended, ended(workspace).failed) == (1, 0)
    assert failing.calls > calls
    row = workspace.page_viewing.rows([photo_id])[photo_id]
    assert row.best
    assert row.search_error is None
    workspace.close()


def test_all_that_meet_their_aim_are_taken_as_one_step(workspace: Workspace) -> None:
    ids = add(workspace, 3)
    for photo_id in ids:
        settled(workspace, photo_id)
    workspace.selections.change_aims([ids[2]], {"limit_bytes": 20})
    settled(workspace, ids[2])
    mine = settled(workspace, ids[1]).encodes.candidates[1].id
    workspace.deciding.do(ids[1], pick(mine))
    assert workspace.selections.take(ids) == 1
    shown = workspace.page_viewing.pages().photos
    assert [bool(shown[i].pick) for i in ids] == [True, True, False]
    assert shown[ids[1]].state.picked_encode_id == mine
    workspace.page_editing.undo()
    shown = workspace.page_viewing.pages().photos
    assert [bool(shown[i].pick) for i in ids] == [False, True, False]


def test_photos_go_back_to_the_settings_of_their_page(workspace: Workspace) -> None:
    ids = add(workspace, 2)
    workspace.page_editing.do(page_acts.change_settings(PAGE, {"limit_bytes": 3_000}))
    workspace.selections.follow_page(ids)
    rows = workspace.page_viewing.rows(ids)
    assert all(row.state.follows == SETTINGS for row in rows.values())
    assert all(row.state.aim.limit_bytes == 3_000 for row in rows.values())
    workspace.page_editing.undo()
    rows = workspace.page_viewing.rows(ids)
    assert not any(row.state.follows for row in rows.values())


def test_a_treatment_is_kept_from_a_photo(workspace: Workspace) -> None:
    (photo_id,) = add(workspace, 1)
    best = settled(workspace, photo_id).encodes.candidates[0]
    kept = workspace.selections.keep_treatment(photo_id, "Mine", encode_id=best.id)
    first = workspace.page_viewing.layout().treatments[0]
    assert (first.id, first.name, first.treatment.aim.place) == (kept, "Mine", AIM.place)
    assert set(first.treatment.aim.held) <= {best.trial.settings.format}
    with pytest.raises(NotFoundError):
        workspace.selections.treat([photo_id], 99)
    with pytest.raises(NotFoundError):
        workspace.selections.take([99])


def test_exceptions_to_a_treatment_are_shown_and_stay_on_a_whole_page(
    workspace: Workspace,
) -> None:
    ids = add(workspace, 2)
    workspace.selections.treat(ids, CARD)
    workspace.selections.change_aims([ids[0]], {"limit_bytes": 9_000})
    rows = workspace.page_viewing.rows(ids)
    assert [rows[i].treatment.name for i in ids if rows[i].treatment] == ["Card", "Card"]
    assert [rows[i].is_exception for i in ids] == [True, False]
    workspace.selections.treat(ids, CARD, spares_exceptions=True)
    rows = workspace.page_viewing.rows(ids)
    assert [rows[i].state.aim.limit_bytes for i in ids] == [9_000, 40_000]
    workspace.selections.treat(ids, CARD)
    assert not any(row.is_exception for row in workspace.page_viewing.rows(ids).values())
