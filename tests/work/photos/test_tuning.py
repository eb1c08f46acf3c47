from concurrent.futures import FIRST_COMPLETED, Future, ThreadPoolExecutor, wait
from dataclasses import replace
from pathlib import Path

import pytest

from lean_parcel.core.decisions.acts import ChangeFraming, Pick
from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.settings import AvifSettings, JpegSettings, PngSettings
from lean_parcel.core.errors import Superseded, UsageError
from lean_parcel.core.original.source import Limits
from lean_parcel.core.picture.serialisation import decode
from lean_parcel.work.photos.tuning import Tuned
from lean_parcel.work.workspace import Workspace
from tests.builders import cutout, file, photo
from tests.executors import HeldExecutor, InlineExecutor
from tests.workspaces import AIM, settled

JPEG = JpegSettings(quality=50, chroma="4:4:4")


def test_an_encode_by_hand_is_made_once_and_measured(
    workspace: Workspace, executor: InlineExecutor
) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    wanted = replace(JPEG, trellis=False)
    made = workspace.tuning.encode(photo_id, wanted, None).encode
    stored, data = workspace.files.encoded(made.id)
    assert stored == made
    framed = workspace.viewing.photo(photo_id).framed
    assert framed is not None
    assert data == encode(decode(workspace.files.framed_pixels(framed.id)), wanted)
    calls = executor.calls
    assert workspace.tuning.encode(photo_id, wanted, None).encode == made
    assert executor.calls == calls
    assert made in workspace.viewing.photo(photo_id).encodes.made
    workspace.deciding.do(photo_id, Pick(made.id))
    assert workspace.page_viewing.pages().photos[photo_id].pick == made


def test_settings_follow_the_rules_and_the_photos_background(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(cutout()), aim=AIM)
    workspace.deciding.do(photo_id, ChangeFraming({"background": "#204060"}))
    settled(workspace, photo_id)
    trial = workspace.tuning.encode(photo_id, replace(JPEG, chroma="4:2:2"), 48).encode.trial
    assert trial.settings == JpegSettings(
        quality=50, chroma="4:2:2", trellis=False, deringing=False, table=0, background="#204060"
    )
    assert (trial.width_px, trial.height_px) == (48, 32)


def test_a_draft_comes_first_and_the_real_one_takes_its_place(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    wanted = AvifSettings(quality=33, chroma="4:2:2")
    draft = workspace.tuning.encode(photo_id, wanted, None, may_draft=True)
    assert draft.is_draft
    assert draft.encode.trial.settings == replace(wanted, speed=8)
    real = workspace.tuning.encode(photo_id, wanted, None)
    assert real.encode.trial.settings == wanted
    assert not real.is_draft
    assert workspace.tuning.encode(photo_id, wanted, None, may_draft=True) == real


def test_what_is_quick_needs_no_draft(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    for wanted in (JPEG, AvifSettings(quality=33, chroma="4:2:2", speed=9)):
        made = workspace.tuning.encode(photo_id, wanted, None, may_draft=True)
        assert made.encode.trial.settings == wanted
        assert not made.is_draft


@pytest.mark.parametrize("width_px", [0, -3, 97, 10**9])
def test_no_more_pixels_are_sent_than_there_are(workspace: Workspace, width_px: int) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    with pytest.raises(UsageError) as caught:
        workspace.tuning.encode(photo_id, JPEG, width_px)
    assert caught.value.code == "invalid_size"


def test_a_newer_encode_takes_the_place_of_one_that_still_waits(tmp_path: Path) -> None:
    executor = HeldExecutor()
    workspace = Workspace(tmp_path / "w.sqlite3", executor, Limits(), slots=1)
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    executor.hold()
    with ThreadPoolExecutor(3) as threads:

        def ask(quality: int) -> Future[Tuned]:
            settings = AvifSettings(quality=quality, chroma="4:2:0", speed=10)
            return threads.submit(workspace.tuning.encode, photo_id, settings, None)

        running = ask(20)
        assert executor.has_held.wait(10)
        waiting = [ask(40), ask(60)]
        overtaken, _ = wait(waiting, timeout=10, return_when=FIRST_COMPLETED)
        executor.let_go()
        (older,) = overtaken
        with pytest.raises(Superseded):
            older.result()
        for future in (running, *(set(waiting) - overtaken)):
            assert future.result(timeout=20).encode.measured.size_bytes > 0
    workspace.close()


def test_an_encode_before_the_pixels_are_made_is_refused(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    workspace.close()
    workspace.deciding.do(photo_id, ChangeFraming({"kernel": "linear"}))
    with pytest.raises(UsageError) as caught:
        workspace.tuning.encode(photo_id, PngSettings(colours=8), None)
    assert caught.value.code == "not_framed"
