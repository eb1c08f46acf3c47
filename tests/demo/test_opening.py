from dataclasses import replace
from pathlib import Path

from lean_parcel import demo
from lean_parcel.core.original.source import Limits
from lean_parcel.demo.opening import load_pages
from lean_parcel.work.workspace import Workspace
from tests.executors import InlineExecutor
from tests.workspaces import AIM, settled

FILES = ("dusk-window.jpg", "red-cup-blue-door.jpg", "kiln-night.jpg")


def test_the_demo_begins_with_two_pages_of_which_some_photos_are_picked(tmp_path: Path) -> None:
    workspace = Workspace(tmp_path / "w.sqlite3", InlineExecutor(), Limits())
    small = [replace(sample, aim=AIM) for sample in demo.samples() if sample.file in FILES]
    load_pages(workspace, small, picked=FILES[:1])
    layout = workspace.page_viewing.pages().layout
    assert [(page.name, [spot.name for spot in page.spots]) for page in layout.pages] == [
        ("Home", ["Window shelf at dusk", "Red cup, blue door"]),
        ("Journal", ["The kiln at night"]),
    ]
    dusk, cup, kiln = layout.photo_ids()
    settled(workspace, cup)
    shown = workspace.page_viewing.pages().photos
    assert shown[dusk].pick is not None
    assert shown[dusk].pick == shown[dusk].best
    assert shown[cup].pick is None
    assert shown[kiln].search_state == "stopped"
    workspace.close()
