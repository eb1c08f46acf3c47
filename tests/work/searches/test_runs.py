"""Runs of searches on real threads: whatever happens at the same time, a search that is `running`
in the store is being carried out, and every other one has ended."""

import random
import time
from collections.abc import Iterator
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from contextlib import suppress
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from lean_parcel.core.decisions.acts import Act, change_aim, change_framing, pick
from lean_parcel.core.errors import LeanParcelError
from lean_parcel.core.original.source import Limits
from lean_parcel.core.page import page_acts
from lean_parcel.store import searches
from lean_parcel.work.tasks.encoding import encode_task
from lean_parcel.work.tasks.framing import frame_task
from lean_parcel.work.tasks.original import pass_through_task
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.executors import HeldExecutor, HurriedExecutor
from tests.workspaces import AIM, catch_up, settled


class ThreadedExecutor(Executor):
    """Real threads, and tasks that can be ended while they run: each waits a moment first."""

    def __init__(self) -> None:
        self._threads = ThreadPoolExecutor(2)
        self._random = random.Random(5)

    def submit(self, function: Any, /, *args: Any, **kwargs: Any) -> Future[Any]:
        pause_s = self._random.choice((0, 0, 0.002, 0.01))
        return self._threads.submit(_after, pause_s, function, *args)

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        self._threads.shutdown(wait, cancel_futures=cancel_futures)


def _after(pause_s: float, function: Any, *args: Any) -> Any:
    time.sleep(pause_s)
    return function(*args)


@pytest.fixture
def threaded(tmp_path: Path) -> Iterator[Workspace]:
    executor = ThreadedExecutor()
    opened = Workspace(tmp_path / "w.sqlite3", executor, Limits())
    yield opened
    opened.close()
    executor.shutdown()


@pytest.mark.parametrize("seed", range(2))
def test_acts_of_many_threads_leave_no_search_running(threaded: Workspace, seed: int) -> None:
    ids = [threaded.adding.add_photo(f"{i}.png", file(photo(seed=i)), aim=AIM) for i in range(3)]

    def act(number: int) -> None:
        chance = random.Random(100 * seed + number)
        for _ in range(12):
            with suppress(LeanParcelError):  # nothing to undo, or a photo that is removed
                _some_act(threaded, chance.choice(ids), chance)

    with ThreadPoolExecutor(6) as threads:
        list(threads.map(act, range(6)))
    on_pages = threaded.page_viewing.pages().layout.photo_ids()
    for photo_id in on_pages:
        assert settled(threaded, photo_id).search.state in ("done", "stopped")


def _some_act(workspace: Workspace, photo_id: int, chance: random.Random) -> None:
    match chance.randrange(8):
        case 0:
            workspace.deciding.stop_search(photo_id)
        case 1:
            workspace.deciding.undo(photo_id)
        case 2:
            workspace.deciding.do(photo_id, change_framing({}, turn="left"))
        case 3:
            workspace.page_editing.do(page_acts.remove_photos((photo_id,)))
            workspace.page_editing.undo()
        case 4:
            policy = chance.choice(("nothing", "credit", "everything"))
            workspace.deciding.do(photo_id, change_framing({"metadata": policy}))
        case 5:
            found = workspace.viewing.photo(photo_id).encodes.candidate_ids
            workspace.deciding.do(photo_id, pick(next(iter(found), None)))
        case _:
            change = change_aim({"limit_bytes": chance.randrange(900, 3_000)})
            workspace.deciding.do(photo_id, change)


@pytest.mark.parametrize(
    ("act", "is_of_use"),
    [(change_aim({"limit_bytes": 1_200}), True), (change_framing({}, turn="left"), False)],
)
def test_what_runs_goes_on_where_the_next_search_can_use_it(
    tmp_path: Path, act: Act, is_of_use: bool
) -> None:
    executor = HurriedExecutor(ends=False)
    workspace = Workspace(tmp_path / "w.sqlite3", executor, Limits(), slots=9)
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    executor.hold(encode_task)
    workspace.deciding.do(photo_id, change_aim({"limit_bytes": 1_100}))
    assert executor.has_held.wait(10)
    workspace.deciding.do(photo_id, act)
    catch_up(workspace)
    assert executor.hurried.empty() == is_of_use
    executor.let_go()
    workspace.close()


@pytest.mark.parametrize("awaited", [frame_task, pass_through_task])
def test_cancelling_reaches_what_is_awaited(tmp_path: Path, awaited: Any) -> None:
    executor = HurriedExecutor(ends=False)
    workspace = Workspace(tmp_path / "w.sqlite3", executor, Limits())
    if awaited is pass_through_task:
        executor.hold(awaited)
    data = file(photo(96, 64), "JPEG", quality=60)
    photo_id = workspace.adding.add_photo("a.jpg", data, aim=AIM)
    if awaited is frame_task:
        executor.hold(awaited)
        workspace.deciding.do(photo_id, change_aim({"size": "40"}))
    assert executor.has_held.wait(10)
    workspace.deciding.stop_search(photo_id)
    executor.hurried.get(timeout=10)
    assert workspace.viewing.photo(photo_id).search.state == "stopped"
    executor.let_go()
    workspace.close()


def test_of_two_acts_the_later_ones_search_runs_whichever_comes_here_first(new_file: Path) -> None:
    executor = HeldExecutor()
    workspace = Workspace(new_file, executor, Limits())
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    executor.hold(encode_task)
    workspace.deciding.do(photo_id, change_framing({}, turn="left"))
    assert executor.has_held.wait(10)
    with workspace.context.connection() as connection:
        later = searches.all_of(connection, photo_id)[0]
    workspace.runs.start(replace(later, id=later.id - 1))
    executor.let_go()
    assert settled(workspace, photo_id).search.state == "done"
    workspace.close()
