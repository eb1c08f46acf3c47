from concurrent.futures import FIRST_COMPLETED, Future, ThreadPoolExecutor, wait
from dataclasses import replace
from functools import partial
from pathlib import Path

import numpy as np
import pytest

from lean_parcel.core.decisions.acts import change_framing, pick
from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.settings import AvifSettings, JpegSettings, PngSettings
from lean_parcel.core.errors import NotFoundError, Superseded, UsageError
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.source import Limits
from lean_parcel.core.page import page_acts
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.serialisation import decode
from lean_parcel.store.encodes import Encode
from lean_parcel.work.photos.tuning import Wanted
from lean_parcel.work.tasks.encoding import encode_task
from lean_parcel.work.workspace import Workspace
from tests.builders import cutout, file, photo
from tests.executors import HeldExecutor, HurriedExecutor, InlineExecutor
from tests.workspaces import AIM, made_by_hand, settled

JPEG = JpegSettings(quality=50, chroma="4:4:4")
WIDE = replace(AIM, place=Place(size="192"))
ALL = Box(left_px=0, top_px=0, width_px=96, height_px=64)


def test_an_encode_by_hand_is_made_once_and_measured(
    workspace: Workspace, executor: InlineExecutor
) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    wanted = replace(JPEG, trellis=False)
    made = made_by_hand(workspace, photo_id, wanted)
    stored, data = workspace.files.encoded(made.id)
    assert stored == made
    framed = workspace.viewing.photo(photo_id).framed
    assert framed is not None
    assert data == encode(decode(workspace.files.framed_pixels(framed.id)), wanted)
    calls = executor.calls
    assert made_by_hand(workspace, photo_id, wanted) == made
    assert executor.calls == calls
    assert made in workspace.viewing.photo(photo_id).encodes.made
    workspace.deciding.do(photo_id, pick(made.id))
    assert workspace.page_viewing.pages().photos[photo_id].pick == made


def test_an_encode_whose_pixels_were_let_go_meanwhile_is_told_and_not_stored(
    tmp_path: Path,
) -> None:
    executor = HeldExecutor()
    workspace = Workspace(tmp_path / "h.sqlite3", executor, Limits())
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    executor.hold(encode_task)
    with ThreadPoolExecutor(1) as threads:
        asked = threads.submit(made_by_hand, workspace, photo_id, replace(JPEG, trellis=False))
        assert executor.has_held.wait(10)
        workspace.page_editing.do(page_acts.remove_photos((photo_id,)))
        workspace.room_keeping.reclaim(forgets_removed=True)
        executor.let_go()
        with pytest.raises(NotFoundError):
            asked.result(timeout=30)
    workspace.close()


def test_settings_follow_the_rules_and_the_photos_background(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(cutout()), aim=AIM)
    workspace.deciding.do(photo_id, change_framing({"background": "#204060"}))
    settled(workspace, photo_id)
    trial = made_by_hand(workspace, photo_id, replace(JPEG, chroma="4:2:2"), 48).trial
    assert trial.settings == JpegSettings(
        quality=50, chroma="4:2:2", trellis=False, deringing=False, table=0, background="#204060"
    )
    assert (trial.width_px, trial.height_px) == (48, 32)


def test_a_glimpse_is_of_what_is_in_sight_and_is_not_kept(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo(192, 160)), aim=WIDE)
    made = settled(workspace, photo_id).encodes.made
    wanted = Wanted(photo_id=photo_id, settings=replace(JPEG, quality=33), width_px=160)
    box = Box(left_px=100, top_px=50, width_px=60, height_px=40)
    seen = workspace.tuning.glimpse(wanted, box)
    assert seen.box == Box(left_px=80, top_px=32, width_px=64, height_px=48)
    whole = decode(workspace.files.encoded(workspace.tuning.encode(wanted).encode.id)[1])
    part = decode(seen.data).astype(int)
    assert np.abs(part - whole[32:80, 80:144]).mean() < 2
    assert len(workspace.viewing.photo(photo_id).encodes.made) == len(made) + 1


def test_each_step_of_quality_is_told_as_measured_or_expected_and_nothing_is_made(
    workspace: Workspace, executor: InlineExecutor
) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    wanted = replace(JPEG, trellis=False)
    made = made_by_hand(workspace, photo_id, wanted)
    calls = executor.calls
    asked = Wanted(photo_id=photo_id, settings=replace(wanted, quality=80))
    steps = {each.step: each for each in workspace.tuning.along_quality(asked)}
    assert [each for each in steps.values() if each.is_measured] == [steps[50]]
    assert (steps[50].size_bytes, steps[50].likeness) == (
        made.measured.size_bytes,
        made.measured.likeness,
    )
    assert steps[20].size_bytes < steps[50].size_bytes < steps[90].size_bytes
    lossless = replace(asked, settings=PngSettings(colours=None))
    assert workspace.tuning.along_quality(lossless) == ()
    assert executor.calls == calls


def test_a_glimpse_ends_the_encode_that_is_under_way(tmp_path: Path) -> None:
    executor = HurriedExecutor()
    workspace = Workspace(tmp_path / "w.sqlite3", executor, Limits(), slots=2)
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    executor.hold(encode_task)
    with ThreadPoolExecutor(1) as threads:
        running = threads.submit(made_by_hand, workspace, photo_id, JPEG)
        assert executor.has_held.wait(10)
        wanted = Wanted(photo_id=photo_id, settings=replace(JPEG, quality=40))
        assert workspace.tuning.glimpse(wanted, ALL).data
        with pytest.raises(Superseded):
            running.result(timeout=10)
    workspace.close()


@pytest.mark.parametrize("width_px", [0, -3, 97, 10**9])
def test_no_more_pixels_are_sent_than_there_are(workspace: Workspace, width_px: int) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    wanted = Wanted(photo_id=photo_id, settings=JPEG, width_px=width_px)
    tuning = workspace.tuning
    for ask in (tuning.encode, tuning.along_quality, partial(tuning.glimpse, box=ALL)):
        with pytest.raises(UsageError) as caught:
            ask(wanted)
        assert caught.value.code == "invalid_size"


def test_a_newer_encode_takes_the_place_of_older_ones(tmp_path: Path) -> None:
    executor = HurriedExecutor()
    workspace = Workspace(tmp_path / "w.sqlite3", executor, Limits(), slots=1)
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    executor.hold()
    with ThreadPoolExecutor(3) as threads:

        def ask(quality: int) -> Future[Encode]:
            settings = AvifSettings(quality=quality, chroma="4:2:0", speed=10)
            return threads.submit(made_by_hand, workspace, photo_id, settings)

        running = ask(20)
        assert executor.has_held.wait(10)
        waiting = [ask(40), ask(60)]
        with pytest.raises(Superseded):
            running.result(timeout=10)
        overtaken, newest = wait(waiting, timeout=10, return_when=FIRST_COMPLETED)
        executor.let_go()
        (older,) = overtaken
        with pytest.raises(Superseded):
            older.result()
        for future in newest:
            assert future.result(timeout=20).measured.size_bytes > 0
    workspace.close()


def test_an_encode_before_the_pixels_are_made_is_refused(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    workspace.close()
    workspace.deciding.do(photo_id, change_framing({"kernel": "linear"}))
    with pytest.raises(UsageError) as caught:
        made_by_hand(workspace, photo_id, PngSettings(colours=8))
    assert caught.value.code == "not_framed"
