import pytest

from lean_parcel.core.errors import NotFoundError, UsageError
from lean_parcel.core.page import page_acts
from lean_parcel.core.page.page_acts import PageAct
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.workspaces import AIM, settled


def test_every_act_on_the_pages_can_be_undone_and_done_again(workspace: Workspace) -> None:
    one = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    two = workspace.adding.add_photo("b.png", file(photo(seed=2)), aim=AIM)
    first, journal = workspace.page_editing.do(page_acts.add_page("Journal")).pages
    acts: list[PageAct] = [
        page_acts.rename_photo(one, "Jug"),
        page_acts.move_photo(two, first.id, 0),
        page_acts.move_photo(one, journal.id, 0),
        page_acts.set_budget(journal.id, 90_000),
        page_acts.rename_page(journal.id, "Firing day"),
        page_acts.remove_photos((two,)),
        page_acts.remove_page(journal.id),
    ]
    layouts = [workspace.page_viewing.pages().layout]
    for act in acts:
        layouts.append(workspace.page_editing.do(act))
        assert workspace.page_viewing.pages().layout == layouts[-1]
    assert len(set(layouts)) == len(layouts)
    for layout in reversed(layouts[:-1]):
        workspace.page_editing.undo()
        assert workspace.page_viewing.pages().layout == layout
    for layout in layouts[1:]:
        workspace.page_editing.redo()
        assert workspace.page_viewing.pages().layout == layout
    with pytest.raises(UsageError):
        workspace.page_editing.redo()


def test_a_photo_that_is_removed_and_restored_is_weighed_to_the_end(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo(480, 320)), aim=AIM)
    workspace.page_editing.do(page_acts.remove_photos((photo_id,)))
    with pytest.raises(NotFoundError):
        workspace.viewing.photo(photo_id)
    workspace.page_editing.undo()
    assert settled(workspace, photo_id).search.state == "done"
