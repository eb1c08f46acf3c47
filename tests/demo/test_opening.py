"""The demo opens complete, and what ships is what the product makes."""

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from lean_parcel import demo
from lean_parcel.core.encoding.settings import PassThrough, PngSettings
from lean_parcel.core.original.source import Limits
from lean_parcel.demo.opening import bring_files, load_pages, open_weighed
from lean_parcel.work.pages.viewing import PagesView
from lean_parcel.work.photos.viewing import PhotoView
from lean_parcel.work.workspace import Workspace
from tests.executors import InlineExecutor
from tests.recorded import Recorded
from tests.workspaces import AIM, made_by_hand

FILES = ("dusk-window.jpg", "speckled-glaze.jpg", "red-cup-blue-door.jpg", "kiln-night.jpg")


@pytest.fixture
def opened(tmp_path: Path) -> Iterator[Workspace]:
    path = tmp_path / "demo.sqlite3"
    open_weighed(path)
    workspace = Workspace(path, InlineExecutor(), Limits())
    bring_files(workspace)
    yield workspace
    workspace.close()


def shown(workspace: Workspace) -> PagesView:
    return workspace.page_viewing.pages()


def id_of(workspace: Workspace, name: str) -> int:
    return next(i for i, row in shown(workspace).photos.items() if row.name == name)


def test_it_opens_complete_and_tells_its_story(opened: Workspace) -> None:
    view = shown(opened)
    home, firing = view.layout.pages
    assert (home.name, firing.name) == ("Home", "Firing day")
    rows = [view.photos[spot.photo_id] for spot in home.spots]
    own = [row.name for row in rows if "limit_bytes" not in row.state.follows]
    assert own == ["Window shelf at dusk"]
    assert all({"density", "likeness", "formats"} <= {*row.state.follows} for row in rows)
    (over,) = [row for row in rows if row.over_bytes]
    assert over.state.reason
    states = {row.name: row.search_state for row in view.photos.values()}
    assert [name for name, state in states.items() if state != "done"] == ["The kiln at night"]
    assert states["The kiln at night"] == "stopped"
    assert len([row for row in view.photos.values() if row.pick]) >= 6
    assert "three to a row" in view.layout.treatments[0].name


def test_what_was_let_go_is_made_again_where_somebody_looks(opened: Workspace) -> None:
    photo_id = next(
        i for i, row in shown(opened).photos.items() if row.name == "Red cup, blue door"
    )
    photo = opened.viewing.photo(photo_id)
    assert photo.framed
    data = opened.files.framed_pixels(photo.framed.id)
    assert data.startswith(b"\x89PNG")
    assert opened.viewing.photo(photo_id).framed == photo.framed  # the same pixels to the byte


def smallest(photo: PhotoView) -> list[int]:
    """The smallest offered encode of a photo that takes no time to make."""
    quick = [
        encode
        for encode in photo.encodes.candidates
        if not isinstance(encode.trial.settings, PassThrough)
        and encode.trial.settings != PngSettings(colours=None)
        and encode.trial.settings.format in ("jpeg", "webp")
    ]
    return [min(quick, key=lambda encode: encode.measured.size_bytes).id] if quick else []


@pytest.mark.parametrize("name", ["Red cup, blue door", "Kiln opening poster", "Glaze samples"])
def test_what_ships_is_what_the_product_makes(opened: Workspace, tmp_path: Path, name: str) -> None:
    photo_id = id_of(opened, name)
    photo = opened.viewing.photo(photo_id)
    file_name = opened.files.original(photo_id)[0].name
    other = Workspace(tmp_path / "other.sqlite3", InlineExecutor(), Limits())
    again = other.adding.add_photo(
        file_name, demo.original(file_name), aim=replace(photo.state.aim, limit_bytes=1)
    )
    other.deciding.stop_search(again)
    for encode_id in smallest(photo):
        encode, data = opened.files.encoded(encode_id)
        settings = encode.trial.settings
        assert not isinstance(settings, PassThrough)
        made = made_by_hand(other, again, settings, encode.trial.width_px)
        assert other.files.encoded(made.id)[1] == data
        assert made.measured.likeness == pytest.approx(encode.measured.likeness, abs=1e-3)
    other.close()


def test_the_pages_are_made_by_acts_that_people_do(tmp_path: Path, recorded: Recorded) -> None:
    workspace = Workspace(tmp_path / "w.sqlite3", InlineExecutor(), Limits())
    small = [
        replace(sample, size="60", limit_bytes=sample.limit_bytes and AIM.limit_bytes)
        for sample in demo.samples()
        if sample.file in FILES
    ]
    load_pages(workspace, small)
    view = shown(workspace)
    home, firing = view.layout.pages
    assert [spot.name for spot in firing.spots] == ["The kiln at night"]
    rows = [view.photos[spot.photo_id] for spot in home.spots]
    assert ["limit_bytes" in row.state.follows for row in rows] == [False, True, True]
    assert all(row.pick for row in rows)
    recorded(view.layout)
    workspace.close()
