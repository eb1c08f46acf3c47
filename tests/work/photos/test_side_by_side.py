"""Two tabs, or twenty: acts at the same time are done one after the other, and none is lost."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import pytest

from lean_parcel.core.decisions.acts import change_aim, change_framing
from lean_parcel.core.errors import UsageError
from lean_parcel.core.page import page_acts
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.workspaces import AIM, settled


def at_once(acts: list[Callable[[], object]]) -> list[object]:
    """Does all acts in threads; what each gives, or the error that it raises."""

    def outcome(act: Callable[[], object]) -> object:
        try:
            return act()
        except Exception as error:
            return error

    with ThreadPoolExecutor(len(acts)) as threads:
        return list(threads.map(outcome, acts))


def test_changes_at_the_same_time_are_all_in_the_journal(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    limits = [1_000 + 10 * i for i in range(8)]
    outcomes = at_once(
        [
            lambda limit=limit: workspace.deciding.do(photo_id, change_aim({"limit_bytes": limit}))
            for limit in limits
        ]
    )
    assert outcomes == [None] * len(limits)
    entries = [entry for entry, _ in workspace.viewing.journal(photo_id)]
    kept = [workspace.comparing.states(photo_id, entries[0].id, entry.id) for entry in entries[1:]]
    assert len({differences[0].after for differences in kept}) == len(limits)
    last = settled(workspace, photo_id)
    assert last.search.limit_bytes == last.state.aim.limit_bytes


def test_changes_of_different_things_do_not_undo_each_other(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    at_once(
        [
            lambda: workspace.deciding.do(photo_id, change_aim({"limit_bytes": 1_100})),
            lambda: workspace.deciding.do(photo_id, change_framing({"kernel": "linear"})),
            lambda: workspace.deciding.do(photo_id, change_framing({}, turn="left")),
        ]
    )
    state = settled(workspace, photo_id).state
    assert state.aim.limit_bytes == 1_100
    assert (state.framing.kernel, state.framing.orientation) == ("linear", 8)


def test_more_steps_back_than_there_are_end_at_the_first(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    for limit_bytes in (1_100, 1_200):
        workspace.deciding.do(photo_id, change_aim({"limit_bytes": limit_bytes}))
    outcomes = at_once([lambda: workspace.deciding.undo(photo_id)] * 5)
    assert sum(isinstance(outcome, UsageError) for outcome in outcomes) == 3
    assert settled(workspace, photo_id).state.aim == AIM


def test_photos_added_at_the_same_time_are_all_on_the_page(workspace: Workspace) -> None:
    outcomes = at_once(
        [
            lambda i=i: workspace.adding.add_photo(f"{i}.png", file(photo(seed=i)), aim=AIM)
            for i in range(4)
        ]
    )
    layout = workspace.page_viewing.pages().layout
    assert sorted(layout.photo_ids()) == sorted(outcomes)
    for photo_id in layout.photo_ids():
        settled(workspace, photo_id)


@pytest.mark.parametrize("back", [False, True])
def test_removing_a_photo_while_it_is_changed_leaves_no_search_behind(
    workspace: Workspace, back: bool
) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo(480, 320)), aim=AIM)
    at_once(
        [
            lambda: workspace.deciding.do(photo_id, change_aim({"limit_bytes": 2_000})),
            lambda: workspace.page_editing.do(page_acts.remove_photos((photo_id,))),
        ]
    )
    assert workspace.page_viewing.pages().photos == {}
    if back:
        workspace.page_editing.undo()
        assert settled(workspace, photo_id).search.state == "done"
