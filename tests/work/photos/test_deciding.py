from pathlib import Path

import pytest

from lean_parcel.core.decisions.acts import change_aim, change_framing, pick
from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.original.source import Limits
from lean_parcel.work.photos.viewing import PhotoView
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.executors import InlineExecutor
from tests.workspaces import AIM, settled


def test_a_new_aim_replaces_the_search_and_reuses_what_was_made(
    workspace: Workspace, executor: InlineExecutor
) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    first = settled(workspace, photo_id)
    workspace.deciding.do(photo_id, change_aim({"limit_bytes": 900, "formats": ("jpeg",)}))
    other = settled(workspace, photo_id).encodes.candidates
    assert {encode.trial.settings.format for encode in other} == {"jpeg"}
    assert max(encode.measured.size_bytes for encode in other) <= 900
    calls = executor.calls
    workspace.deciding.undo(photo_id)
    assert settled(workspace, photo_id).encodes.candidates == first.encodes.candidates
    assert executor.calls == calls


def test_a_pick_is_of_its_own_photo(workspace: Workspace) -> None:
    one = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    two = workspace.adding.add_photo("b.png", file(photo(seed=2)), aim=AIM)
    best = settled(workspace, one).encodes.candidates[0]
    settled(workspace, two)
    workspace.deciding.do(one, pick(best.id))
    assert workspace.page_viewing.pages().photos[one].pick == best
    for photo_id, encode_id in ((two, best.id), (one, 9_999)):
        with pytest.raises(NotFoundError):
            workspace.deciding.do(photo_id, pick(encode_id))
    workspace.deciding.do(one, pick(None))
    assert workspace.page_viewing.pages().photos[one].pick is None


def test_undo_and_redo_give_the_same_bytes(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    before = _files(workspace, settled(workspace, photo_id))
    workspace.deciding.do(photo_id, change_framing({"straighten_deg": 3.0}, turn="right"))
    after = _files(workspace, settled(workspace, photo_id))
    assert after != before
    workspace.deciding.undo(photo_id)
    assert _files(workspace, settled(workspace, photo_id)) == before
    workspace.deciding.redo(photo_id)
    assert _files(workspace, settled(workspace, photo_id)) == after


def test_another_framing_puts_the_pick_back_and_undo_takes_it_again(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    best = settled(workspace, photo_id).encodes.candidates[0]
    workspace.deciding.do(photo_id, pick(best.id))
    workspace.deciding.do(photo_id, change_framing({"kernel": "linear"}))
    assert settled(workspace, photo_id).state.picked_encode_id is None
    with pytest.raises(NotFoundError):
        workspace.deciding.do(photo_id, pick(best.id))
    workspace.deciding.undo(photo_id)
    assert settled(workspace, photo_id).state.picked_encode_id == best.id


def test_a_photo_is_enlarged_only_where_it_may_be(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    for may_enlarge, width_px in ((False, 96), (True, 192)):
        workspace.deciding.do(photo_id, change_aim({"size": "192"}))
        workspace.deciding.do(photo_id, change_framing({"may_enlarge": may_enlarge}))
        framed = settled(workspace, photo_id).framed
        assert framed is not None
        assert framed.search_input.rungs[0].width_px == width_px


def test_the_journal_outlives_the_process_and_compares_entries(tmp_path: Path) -> None:
    path = tmp_path / "w.sqlite3"
    first = Workspace(path, InlineExecutor(), Limits())
    photo_id = first.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(first, photo_id)
    first.deciding.do(photo_id, change_framing({"straighten_deg": 3.0}))
    first.deciding.do(photo_id, change_aim({"limit_bytes": 1_200}))
    settled(first, photo_id)
    first.deciding.undo(photo_id)
    first.close()
    second = Workspace(path, InlineExecutor(), Limits())
    entries, statuses = zip(*second.viewing.journal(photo_id), strict=True)
    assert [entry.words for entry in entries] == ["Added", "Straighten: 3°", "At most: 1.2 kB"]
    assert statuses == ("done", "current", "undone")
    found = second.comparing.states(photo_id, entries[0].id, entries[1].id)
    assert [difference.topic for difference in found] == ["Straighten"]
    pixels = [second.files.pixels_of_entry(photo_id, entry.id) for entry in entries]
    assert pixels[0] != pixels[1] == pixels[2]
    second.room_keeping.reclaim(forgets_removed=True)
    assert [second.files.pixels_of_entry(photo_id, entry.id) for entry in entries] == pixels
    second.deciding.redo(photo_id)
    assert second.viewing.photo(photo_id).state.aim.limit_bytes == 1_200
    second.deciding.go_back_to(photo_id, entries[0].id)
    assert second.viewing.photo(photo_id).state.framing.straighten_deg == 0
    with pytest.raises(NotFoundError):
        second.deciding.go_back_to(photo_id, 999)
    settled(second, photo_id)
    second.close()


def test_a_clock_that_jumps_changes_no_order(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("mill.png", file(photo()), aim=AIM)
    for limit_bytes in (2_000, 2_500):
        workspace.deciding.do(photo_id, change_aim({"limit_bytes": limit_bytes}))
        with workspace.context.connection() as connection:  # the clock goes back after each
            connection.execute("UPDATE entry SET made_at = '2999-01-01T00:00:00.000Z'")
    workspace.deciding.do(photo_id, change_aim({"limit_bytes": 3_000}))
    assert limit_of(workspace, photo_id) == 3_000
    workspace.deciding.undo(photo_id)
    assert limit_of(workspace, photo_id) == 2_500
    workspace.deciding.redo(photo_id)
    assert limit_of(workspace, photo_id) == 3_000


def limit_of(workspace: Workspace, photo_id: int) -> int | None:
    return workspace.viewing.photo(photo_id).state.aim.limit_bytes


def test_an_aim_of_likeness_is_met_in_the_fewest_bytes(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    workspace.deciding.do(photo_id, change_aim({"limit_bytes": None, "likeness": 75.0}))
    encodes = settled(workspace, photo_id).encodes
    sizes = [encode.measured.size_bytes for encode in encodes.candidates]
    assert sizes == sorted(sizes)
    assert min(encode.measured.likeness for encode in encodes.candidates) >= 75
    assert encodes.summary
    assert encodes.next_level is None
    assert workspace.page_viewing.pages().photos[photo_id].best == encodes.candidates[0]
    workspace.deciding.undo(photo_id)
    assert settled(workspace, photo_id).state.aim.likeness is None


def _files(workspace: Workspace, view: PhotoView) -> list[bytes]:
    return [workspace.files.encoded(encode.id)[1] for encode in view.encodes.candidates]
