"""Every act is news: whoever looks at something sees what others do to it."""

from collections.abc import Callable

import pytest

from lean_parcel.core.decisions.acts import change_aim, pick
from lean_parcel.core.page.page_acts import add_page
from lean_parcel.work.pages.balancing import BalanceWish
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.workspaces import AIM, all_settled

PAGES: dict[str, Callable[[Workspace, int], object]] = {
    "add": lambda w, _: w.adding.add_photo("b.png", file(photo(seed=2)), aim=AIM),
    "edit": lambda w, _: w.page_editing.do(add_page("Second")),
    "undo": lambda w, _: w.page_editing.undo(),
    "take all": lambda w, i: w.selections.take([i]),
    "weigh": lambda w, i: w.selections.weigh([i]),
    "stop a batch": lambda w, _: w.batches.stop(1),
    "resume a batch": lambda w, _: w.batches.resume(1),
    "end a batch": lambda w, _: w.batches.end(1),
    "measure": lambda w, _: w.balancing.measure(1, BalanceWish(spend_bytes=1_000)),
    "reclaim": lambda w, _: w.room_keeping.reclaim(forgets_removed=False),
}
PHOTO: dict[str, Callable[[Workspace, int], object]] = {
    "decide": lambda w, i: w.deciding.do(i, change_aim({"limit_bytes": 900})),
    "undo": lambda w, i: w.deciding.undo(i),
    "put back": lambda w, i: w.deciding.do(i, pick(None)),
    "take all": lambda w, i: w.selections.take([i]),
}


@pytest.fixture
def photo_id(workspace: Workspace) -> int:
    added = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    workspace.deciding.do(added, change_aim({"limit_bytes": 1_400}))
    workspace.page_editing.do(add_page("First"))
    all_settled(workspace)
    return added


@pytest.mark.parametrize("name", PAGES)
def test_what_changes_the_pages(workspace: Workspace, photo_id: int, name: str) -> None:
    seen = workspace.changes.since(-1).version
    PAGES[name](workspace, photo_id)
    assert workspace.changes.since(seen).has_pages


@pytest.mark.parametrize("name", PHOTO)
def test_what_changes_a_photo(workspace: Workspace, photo_id: int, name: str) -> None:
    seen = workspace.changes.since(-1).version
    PHOTO[name](workspace, photo_id)
    assert photo_id in workspace.changes.since(seen).photo_ids
