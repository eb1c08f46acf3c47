import pytest

from lean_parcel.core.decisions.acts import change_framing, pick
from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.page import page_acts
from lean_parcel.work.workspace import Workspace
from tests.builders import cutout, file, photo
from tests.workspaces import AIM, settled


def test_a_row_is_what_the_list_has_of_it(workspace: Workspace) -> None:
    pictures = [photo(seed=1), cutout(), photo(seed=3)]
    ids = [workspace.adding.add_photo(f"{i}.png", file(p), aim=AIM) for i, p in enumerate(pictures)]
    for photo_id in ids:
        best = settled(workspace, photo_id).encodes.candidates[0]
        workspace.deciding.do(photo_id, pick(best.id))
    workspace.deciding.do(ids[1], change_framing({"metadata": "credit"}))
    other = workspace.page_editing.do(page_acts.add_page("Other")).pages[-1].id
    workspace.page_editing.do(page_acts.move_photo(ids[2], other, 0))
    for photo_id in ids:
        settled(workspace, photo_id)
    view = workspace.page_viewing.pages()
    for photo_id in ids:
        row = workspace.page_viewing.row(photo_id)
        assert row.photo == view.photos[photo_id]
        assert row.totals == view.totals[row.page_id]
        assert row.page_id == view.layout.page_of(photo_id).id
        assert row.photo.best
        assert row.photo.pick
        assert (
            row.photo.best.measured == settled(workspace, photo_id).encodes.candidates[0].measured
        )
    workspace.page_editing.do(page_acts.remove_photos((ids[0],)))
    with pytest.raises(NotFoundError):
        workspace.page_viewing.row(ids[0])
