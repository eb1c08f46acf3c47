from collections import Counter
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from lean_parcel.core.decisions.acts import change_framing
from lean_parcel.core.decisions.aim import FIRST_AIM
from lean_parcel.core.decisions.page_settings import SETTINGS
from lean_parcel.core.errors import TruncatedPhoto
from lean_parcel.core.framing.framing import FIRST_FRAMING
from lean_parcel.core.original.source import Limits
from lean_parcel.core.page import page_acts
from lean_parcel.work.tasks.framing import frame_task
from lean_parcel.work.workspace import Workspace
from tests.builders import cutout, file, photo
from tests.executors import HeldExecutor, InlineExecutor
from tests.workspaces import AIM, settled


def test_a_photo_is_weighed_by_itself_and_everything_is_stored(workspace: Workspace) -> None:
    data = file(photo())
    photo_id = workspace.adding.add_photo("a.png", data, aim=AIM)
    view = settled(workspace, photo_id)
    assert view.search.state == "done"
    assert {progress.state for progress in view.search.formats} == {"done"}
    assert view.encodes.candidates[0].measured.size_bytes <= 1_500
    for encode in view.encodes.made:
        stored, encoded = workspace.files.encoded(encode.id)
        assert stored == encode
        assert len(encoded) == encode.measured.size_bytes
    assert workspace.files.original(photo_id)[1] == data


class _Counting(InlineExecutor):
    """Counts how often each function was asked for."""

    def __init__(self) -> None:
        super().__init__()
        self.asked: Counter[str] = Counter()

    def submit(self, function: Any, /, *args: Any) -> Future[Any]:
        self.asked[function.__name__] += 1
        return super().submit(function, *args)


def test_a_photo_is_framed_and_inspected_once(new_file: Path) -> None:
    executor = _Counting()
    workspace = Workspace(new_file, executor, Limits())
    settled(workspace, workspace.adding.add_photo("a.png", file(photo()), aim=AIM))
    assert (executor.asked["frame_task"], executor.asked["inspect_task"]) == (1, 1)
    workspace.close()


def test_a_bad_file_stores_nothing(workspace: Workspace) -> None:
    with pytest.raises(TruncatedPhoto):
        workspace.adding.add_photo("cut.png", file(photo())[:4_000], aim=AIM)
    assert workspace.page_viewing.pages().photos == {}


def test_a_photo_begins_with_what_its_page_says_and_never_with_the_last_one(
    workspace: Workspace,
) -> None:
    first = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    changes = {"kernel": "mitchell", "straighten_deg": 2.0, "metadata": "nothing"}
    workspace.deciding.do(first, change_framing(changes, turn="left"))
    second = workspace.adding.add_photo("b.png", file(cutout()))
    state = settled(workspace, second).state
    assert state.framing == FIRST_FRAMING
    assert state.aim == replace(FIRST_AIM, formats=state.aim.formats)
    assert state.follows == SETTINGS


def test_changes_are_announced_to_those_who_wait(workspace: Workspace) -> None:
    seen = workspace.changes.wait(-1, 0).version
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    news = workspace.changes.wait(seen, 10)
    assert news.version > seen
    assert photo_id in news.photo_ids
    settled(workspace, photo_id)


def test_a_photo_follows_its_page_whose_settings_change_while_it_comes_in(new_file: Path) -> None:
    executor = HeldExecutor()
    workspace = Workspace(new_file, executor, Limits())
    executor.hold(frame_task)
    with ThreadPoolExecutor(1) as threads:
        coming = threads.submit(workspace.adding.add_photo, "a.png", file(photo()))
        assert executor.has_held.wait(10)
        changes = {"size": "40", "formats": ("webp",)}
        workspace.page_editing.do(page_acts.change_settings(1, changes))
        executor.let_go()
        view = settled(workspace, coming.result(10))
    assert view.state.follows == SETTINGS
    assert (view.state.aim.place.size, view.state.aim.formats) == ("40 px", ("webp",))
    assert {encode.trial.settings.format for encode in view.encodes.made} == {"webp"}
    assert max(encode.trial.width_px for encode in view.encodes.made) == 40
    workspace.close()
