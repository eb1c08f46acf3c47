"""Steps on many photos at once, and what undo leaves of them."""

import pytest

from lean_parcel.core.decisions.acts import change_aim, change_framing, pick, treat
from lean_parcel.core.decisions.page_settings import SETTINGS, PageSettings
from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.page import choices, page_acts
from lean_parcel.work.workspace import Workspace
from tests.builders import cutout, file, photo
from tests.workspaces import AIM, settled


@pytest.fixture
def ids(workspace: Workspace) -> list[int]:
    return [workspace.adding.add_photo(f"{i}.png", file(photo(seed=i)), aim=AIM) for i in range(3)]


def limits(workspace: Workspace, ids: list[int]) -> list[int]:
    return [workspace.viewing.photo(i).state.aim.limit_bytes for i in ids]


def test_a_treatment_of_many_photos_is_one_step(workspace: Workspace, ids: list[int]) -> None:
    card = workspace.page_viewing.layout().treatments[3]
    act = treat(card.treatment, card.id, PageSettings())
    workspace.page_editing.do(choices.use_treatment(card, ids[:2]), dict.fromkeys(ids[:2], act))
    assert limits(workspace, ids) == [40_000, 40_000, 1_500]
    assert workspace.page_viewing.layout().treatments[0] == card
    assert workspace.page_viewing.pages().undo_words == "Card on 2 photos"
    workspace.page_editing.undo()
    assert limits(workspace, ids) == [1_500] * 3
    assert all(settled(workspace, i).search.limit_bytes == 1_500 for i in ids)
    workspace.page_editing.redo()
    assert limits(workspace, ids) == [40_000, 40_000, 1_500]


def test_what_was_decided_about_a_single_photo_since_stays(
    workspace: Workspace, ids: list[int]
) -> None:
    card = workspace.page_viewing.layout().treatments[3]
    workspace.page_editing.do(
        choices.use_treatment(card, ids),
        dict.fromkeys(ids, treat(card.treatment, card.id, PageSettings())),
    )
    workspace.deciding.do(ids[0], change_aim({"limit_bytes": 7_000}))
    workspace.deciding.undo(ids[1])
    workspace.page_editing.undo()
    assert limits(workspace, ids) == [7_000, 1_500, 1_500]
    workspace.page_editing.redo()
    assert limits(workspace, ids) == [7_000, 40_000, 40_000]


def test_picks_of_many_photos_are_taken_as_one(workspace: Workspace, ids: list[int]) -> None:
    best = {i: settled(workspace, i).encodes.candidates[0].id for i in ids}
    workspace.page_editing.do(page_acts.together("Took 3"), {i: pick(best[i]) for i in ids})
    shown = workspace.page_viewing.pages()
    assert {i: taken.id for i in ids if (taken := shown.photos[i].pick)} == best
    workspace.page_editing.undo()
    assert not any(each.pick for each in workspace.page_viewing.pages().photos.values())


def test_where_one_photo_cannot_nothing_is_done(workspace: Workspace, ids: list[int]) -> None:
    best = {i: settled(workspace, i).encodes.candidates[0].id for i in ids}
    words = workspace.page_viewing.pages().undo_words
    wrong = {ids[0]: pick(best[ids[0]]), ids[1]: pick(best[ids[2]])}
    with pytest.raises(NotFoundError):
        workspace.page_editing.do(page_acts.together("Took 2"), wrong)
    with pytest.raises(NotFoundError):
        workspace.page_editing.do(page_acts.together("Took 1"), {99: pick(None)})
    shown = workspace.page_viewing.pages()
    assert shown.undo_words == words
    assert not any(each.pick for each in shown.photos.values())


def test_a_step_that_changes_nothing_is_none(workspace: Workspace, ids: list[int]) -> None:
    words = workspace.page_viewing.pages().undo_words
    workspace.page_editing.do(
        page_acts.together("Nothing"), {ids[0]: change_aim({"limit_bytes": 1_500})}
    )
    assert workspace.page_viewing.pages().undo_words == words


def test_photos_follow_the_settings_of_their_page(workspace: Workspace, ids: list[int]) -> None:
    (page,) = workspace.page_viewing.layout().pages
    edit = workspace.page_editing.do
    edit(page_acts.change_settings(page.id, {"limit_bytes": 2_500, "size": "90"}))
    assert limits(workspace, ids) == [1_500] * 3
    workspace.selections.follow_page(ids[:2], ["limit_bytes"])
    assert limits(workspace, ids) == [2_500, 2_500, 1_500]
    edit(page_acts.change_settings(page.id, {"limit_bytes": 3_000, "density": 1.0}))
    assert limits(workspace, ids) == [3_000, 3_000, 1_500]
    workspace.deciding.do(ids[1], change_aim({"limit_bytes": 2_000}))
    edit(page_acts.change_settings(page.id, {"limit_bytes": 3_500}))
    assert limits(workspace, ids) == [3_500, 2_000, 1_500]
    assert workspace.viewing.photo(ids[0]).state.aim.place == AIM.place  # that stayed its own
    workspace.page_editing.undo()
    assert limits(workspace, ids) == [3_000, 2_000, 1_500]
    other = edit(page_acts.add_page("Other")).pages[-1].id
    settings = {"limit_bytes": 900, "size": "60", "formats": ("webp",), "metadata": "nothing"}
    edit(page_acts.change_settings(other, settings))
    edit(page_acts.move_photos((ids[0], ids[1]), other))
    assert limits(workspace, ids) == [900, 2_000, 1_500]
    new = workspace.adding.add_photo("new.png", file(photo(seed=9)), page_id=other)
    state = workspace.viewing.photo(new).state
    assert state.follows == SETTINGS
    assert (state.aim.limit_bytes, state.aim.place.size) == (900, "60 px")
    assert (state.aim.formats, state.framing.metadata) == (("webp",), "nothing")


def test_a_page_gets_the_settings_of_one_of_its_photos(workspace: Workspace) -> None:
    one, two = (workspace.adding.add_photo(f"{i}.png", file(photo(seed=i))) for i in (1, 2))
    workspace.deciding.do(one, change_aim({"size": "80", "limit_bytes": 4_000}))
    workspace.deciding.do(one, change_framing({"metadata": "everything", "kernel": "linear"}))
    workspace.selections.page_as_photo(one)
    view = workspace.page_viewing.pages()
    assert view.layout.pages[0].settings == PageSettings(
        size="80", limit_bytes=4_000, metadata="everything"
    )
    states = [view.photos[i].state for i in (one, two)]
    assert [state.follows for state in states] == [SETTINGS, SETTINGS]
    assert [state.aim.place.size for state in states] == ["80 px", "80 px"]
    assert [state.framing.kernel for state in states] == ["linear", "lanczos3"]
    workspace.page_editing.undo()
    view = workspace.page_viewing.pages()
    assert view.layout.pages[0].settings == PageSettings()
    assert view.photos[two].state.aim.place.size == "1200 px"
    assert view.photos[one].state.aim.place.size == "80 px"


def test_a_treatment_that_comes_to_what_the_page_has_leaves_no_exception(
    workspace: Workspace,
) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()))
    treatment_id = workspace.selections.keep_treatment(photo_id, "As it is")
    workspace.deciding.do(photo_id, change_aim({"limit_bytes": 900, "density": 2.0}))
    assert "density" not in workspace.viewing.photo(photo_id).state.follows
    workspace.selections.treat([photo_id], treatment_id)
    assert workspace.viewing.photo(photo_id).state.follows == SETTINGS


def test_shares_of_photos_are_set_together(workspace: Workspace, ids: list[int]) -> None:
    layout = workspace.page_editing.do(page_acts.set_shares(tuple(ids[:2]), {"weight": 2.0}))
    assert [spot.weight for spot in layout.pages[0].spots] == [2, 2, 1]
    workspace.page_editing.undo()
    layout = workspace.page_viewing.layout()
    assert [spot.weight for spot in layout.pages[0].spots] == [1, 1, 1]


def test_a_step_on_many_photos_makes_their_picks_anew_and_undo_takes_the_old_ones(
    workspace: Workspace,
) -> None:
    files = [file(cutout(96, 64)), file(cutout(64, 96))]
    ids = [workspace.adding.add_photo("a.png", data, aim=AIM) for data in files]
    old = {}
    for photo_id in ids:
        made = settled(workspace, photo_id).encodes.made
        old[photo_id] = next(e.id for e in made if e.trial.settings.format == "jpeg")
        workspace.deciding.do(photo_id, pick(old[photo_id]))
    reds = dict.fromkeys(ids, change_framing({"background": "#ff0000"}))
    workspace.page_editing.do(page_acts.together("Red behind both"), reds)

    def picks() -> dict[int, int | None]:
        return {i: settled(workspace, i).state.picked_encode_id for i in ids}

    new = picks()
    for photo_id, encode_id in new.items():
        made = {e.id: e.trial.settings for e in settled(workspace, photo_id).encodes.made}
        assert encode_id
        assert encode_id != old[photo_id]
        assert getattr(made[encode_id], "background", None) == "#ff0000"
    workspace.page_editing.undo()
    assert picks() == old
    workspace.page_editing.redo()
    assert picks() == new
