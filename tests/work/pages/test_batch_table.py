import csv
import io
from dataclasses import replace

import pytest

from lean_parcel.core.decisions.acts import change_aim, pick
from lean_parcel.work.pages.batch_table import batch_csv
from lean_parcel.work.pages.viewing import PagePhoto
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.workspaces import AIM, settled


@pytest.fixture
def shown(workspace: Workspace) -> PagePhoto:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    return workspace.page_viewing.rows([photo_id])[photo_id]


def line(photo: PagePhoto) -> dict[str, str]:
    (only,) = csv.DictReader(io.StringIO(batch_csv([photo]), newline=""))
    return only


def test_a_line_has_the_figures_of_what_came_of_a_photo(shown: PagePhoto) -> None:
    told, best = line(shown), shown.best
    assert best
    assert best.worst
    assert told["photo"] == "a.png"
    assert int(told["old bytes"]) == shown.photo.source.size_bytes
    assert int(told["new bytes"]) == best.measured.size_bytes
    assert told["ratio"] == f"{shown.photo.source.size_bytes / best.measured.size_bytes:.2f}"
    assert told["likeness"] == f"{best.measured.likeness:.2f}"
    assert told["state"] == "ready to take"
    assert told["worst damage"]


def test_what_is_taken_counts_before_what_is_best(workspace: Workspace, shown: PagePhoto) -> None:
    view = workspace.viewing.photo(shown.photo.id)
    other = view.encodes.candidates[-1]
    workspace.deciding.do(shown.photo.id, pick(other.id))
    row = workspace.page_viewing.rows([shown.photo.id])[shown.photo.id]
    assert int(line(row)["new bytes"]) == other.measured.size_bytes


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"search_state": "running", "best": None}, "weighing"),
        ({"search_state": "stopped"}, "not weighed yet"),
        ({"search_state": "failed", "search_error": "It is damaged."}, "It is damaged."),
        ({"search_state": "failed"}, "could not be weighed"),
        ({"best": None}, "nothing meets its aim"),
    ],
)
def test_how_far_a_photo_is(shown: PagePhoto, changes: dict[str, object], words: str) -> None:
    assert replace(shown, **changes).came_to == words  # type: ignore[arg-type]


def test_what_is_damaged_is_not_ready_and_is_not_taken_unseen(
    workspace: Workspace, shown: PagePhoto
) -> None:
    assert shown.best
    for likeness, words in ((50.0, "ready to take"), (49.9, "damaged within its limit")):
        measured = replace(shown.best.measured, likeness=likeness)
        row = replace(shown, best=replace(shown.best, measured=measured))
        assert (row.came_to, row.is_ready) == (words, likeness >= 50)
    workspace.deciding.do(shown.photo.id, change_aim({"limit_bytes": 150}))
    settled(workspace, shown.photo.id)
    assert not workspace.page_viewing.rows([shown.photo.id])[shown.photo.id].is_ready
    assert workspace.selections.take([shown.photo.id]) == 0


def test_what_was_taken_is_taken_whatever_became_of_the_search(shown: PagePhoto) -> None:
    taken = replace(shown, pick=shown.best, search_state="stopped")
    assert taken.came_to == "taken"
    tight = replace(shown.state, aim=replace(AIM, limit_bytes=10))
    assert replace(taken, state=tight).came_to == "taken, over its limit"


@pytest.mark.parametrize("name", ["=1+1.png", "+a.png", "-a.png", "@a.png"])
def test_what_begins_like_a_formula_is_disarmed(shown: PagePhoto, name: str) -> None:
    assert line(replace(shown, name=name))["photo"] == f"'{name}"


def test_without_a_candidate_there_are_no_figures(shown: PagePhoto) -> None:
    told = line(replace(shown, best=None, name='a "b", c.png'))
    assert told["photo"] == 'a "b", c.png'
    assert (told["new bytes"], told["likeness"], told["worst damage"]) == ("", "", "")
