from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from lean_parcel import demo
from lean_parcel.core.errors import NotFoundError, UsageError
from lean_parcel.core.photo import Limits
from lean_parcel.core.place import Place
from lean_parcel.demo import opening
from lean_parcel.work.workspace import Workspace
from tests.builders import InlineExecutor, file, photo
from tests.work.test_workspace import AIM, settled


@pytest.fixture
def workspace(tmp_path: Path) -> Iterator[Workspace]:
    opened = Workspace(tmp_path / "w.sqlite3", InlineExecutor(), Limits())
    yield opened
    opened.close()


def names(workspace: Workspace) -> list[tuple[str, list[str]]]:
    """Every page with the names of its photos."""
    layout = workspace.pages.view().layout
    return [(page.name, [spot.name for spot in page.spots]) for page in layout.pages]


def test_every_act_on_the_pages_can_be_undone_and_done_again(workspace: Workspace) -> None:
    pages = workspace.pages
    one = workspace.add_photo("a.png", file(photo()), aim=AIM)
    two = workspace.add_photo("b.png", file(photo(seed=2)), aim=AIM)
    journal = pages.add_page("Journal")
    first = pages.view().layout.pages[0].id
    acts = [
        lambda: pages.rename_photo(one, "Jug"),
        lambda: pages.move_photo(two, first, 0),
        lambda: pages.move_photo(one, journal, 0),
        lambda: pages.set_budget(journal, 90_000),
        lambda: pages.rename_page(journal, "Firing day"),
        lambda: pages.remove_photo(two),
        lambda: pages.remove_page(journal),
    ]
    layouts = [pages.view().layout]
    for act in acts:
        act()
        layouts.append(pages.view().layout)
    assert len(set(layouts)) == len(layouts)
    for layout in reversed(layouts[:-1]):
        pages.undo()
        assert pages.view().layout == layout
    for layout in layouts[1:]:
        pages.redo()
        assert pages.view().layout == layout
    with pytest.raises(UsageError):
        pages.redo()


def test_a_photo_that_is_removed_and_brought_back_is_weighed_to_the_end(
    workspace: Workspace,
) -> None:
    photo_id = workspace.add_photo("a.png", file(photo(480, 320)), aim=AIM)
    workspace.pages.remove_photo(photo_id)
    with pytest.raises(NotFoundError):
        workspace.weighing(photo_id)
    workspace.pages.undo()
    assert settled(workspace, photo_id).search.state == "done"


def test_places_are_kept_and_edited(workspace: Workspace) -> None:
    pages = workspace.pages
    seeds = [place.name for place in pages.list_places()]
    assert seeds == ["Full-width banner", "Column", "Card", "Thumbnail", "E-mail"]
    place_id = pages.add_place("Shelf", Place(css_width_px=300, density=2))
    pages.change_place(place_id, "Window shelf", Place(css_width_px=320, density=1.5))
    changed = next(place for place in pages.list_places() if place.id == place_id)
    assert (changed.name, changed.place.css_width_px) == ("Window shelf", 320)
    pages.remove_place(place_id)
    assert [place.name for place in pages.list_places()] == seeds
    with pytest.raises(NotFoundError):
        pages.remove_place(place_id)


def test_the_demo_begins_with_two_pages_of_which_some_photos_are_picked(
    workspace: Workspace, monkeypatch: pytest.MonkeyPatch
) -> None:
    files = ("dusk-window.jpg", "red-cup-blue-door.jpg", "kiln-night.jpg")
    small = [replace(s, aim=AIM) for s in demo.samples() if s.file in files]
    monkeypatch.setattr(demo, "samples", lambda: small)
    monkeypatch.setattr(opening, "PICKED", files[:1])
    opening.load_pages(workspace)
    assert names(workspace) == [
        ("Home", ["Window shelf at dusk", "Red cup, blue door"]),
        ("Journal", ["The kiln at night"]),
    ]
    layout = workspace.pages.view().layout
    dusk, cup, kiln = layout.photo_ids()
    settled(workspace, cup)
    shown = workspace.pages.view().photos
    assert shown[dusk].pick == shown[dusk].best
    assert shown[dusk].pick is not None
    assert shown[cup].pick is None
    assert shown[kiln].search_state == "stopped"
