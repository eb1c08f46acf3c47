import threading
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path

import pytest

from lean_parcel.core.encode import AvifSettings, JpegSettings, PngSettings, encode
from lean_parcel.core.errors import Superseded, UsageError
from lean_parcel.core.photo import Limits
from lean_parcel.core.pixels import decode
from lean_parcel.work.acts import reframing
from lean_parcel.work.workspace import Workspace
from tests.builders import InlineExecutor, cutout, file, photo
from tests.work.test_workspace import AIM, executor, settled, workspace

__all__ = ["executor", "workspace"]
JPEG = JpegSettings(quality=50, chroma="4:4:4")


def test_an_encode_by_hand_is_made_once_and_measured(
    workspace: Workspace, executor: InlineExecutor
) -> None:
    photo_id = workspace.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    made, _ = workspace.tuner.encode(photo_id, replace(JPEG, trellis=False), None)
    stored, data = workspace.encoded_file(made.id)
    assert stored == made
    framed = workspace.weighing(photo_id).framed
    assert framed is not None
    pixels = decode(workspace.framed_pixels(framed.id))
    assert data == encode(pixels, replace(JPEG, trellis=False))
    calls = executor.calls
    assert workspace.tuner.encode(photo_id, replace(JPEG, trellis=False), None) == (made, False)
    assert executor.calls == calls
    assert made in workspace.weighing(photo_id).encodes
    workspace.set_pick(photo_id, made.id)
    assert workspace.pages.view().photos[photo_id].pick == made


def test_settings_come_as_they_can_be_and_on_the_photos_background(workspace: Workspace) -> None:
    photo_id = workspace.add_photo("a.png", file(cutout()), aim=AIM)
    workspace.change(photo_id, reframing({"background": "#204060"}, turn=None, crops=False))
    settled(workspace, photo_id)
    made, _ = workspace.tuner.encode(photo_id, replace(JPEG, chroma="4:2:2"), 48)
    assert made.trial.settings == JpegSettings(
        quality=50, chroma="4:2:2", trellis=False, deringing=False, table=0, background="#204060"
    )
    assert (made.trial.width_px, made.trial.height_px) == (48, 32)


def test_a_draft_comes_first_and_the_real_one_takes_its_place(workspace: Workspace) -> None:
    photo_id = workspace.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    wish = AvifSettings(quality=33, chroma="4:2:2")
    draft, is_draft = workspace.tuner.encode(photo_id, wish, None, may_draft=True)
    assert is_draft
    assert draft.trial.settings == replace(wish, speed=8)
    real, is_draft = workspace.tuner.encode(photo_id, wish, None)
    assert real.trial.settings == wish
    assert not is_draft
    assert workspace.tuner.encode(photo_id, wish, None, may_draft=True) == (real, False)


def test_what_is_quick_needs_no_draft(workspace: Workspace) -> None:
    photo_id = workspace.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    for wish in (JPEG, AvifSettings(quality=33, chroma="4:2:2", speed=9)):
        made, is_draft = workspace.tuner.encode(photo_id, wish, None, may_draft=True)
        assert made.trial.settings == wish
        assert not is_draft


@pytest.mark.parametrize("width_px", [0, -3, 97, 10**9])
def test_no_more_pixels_are_sent_than_there_are(workspace: Workspace, width_px: int) -> None:
    photo_id = workspace.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    with pytest.raises(UsageError) as caught:
        workspace.tuner.encode(photo_id, JPEG, width_px)
    assert caught.value.code == "invalid_size"


def test_a_newer_wish_takes_the_place_of_one_that_still_waits(tmp_path: Path) -> None:
    gate = threading.Event()
    slow = ThreadPoolExecutor(1)
    workspace = Workspace(tmp_path / "w.sqlite3", slow, Limits(), slots=1)
    photo_id = workspace.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    slow.submit(gate.wait)
    outcomes: dict[int, object] = {}

    def wish(quality: int) -> None:
        try:
            settings = AvifSettings(quality=quality, chroma="4:2:0", speed=10)
            outcomes[quality] = workspace.tuner.encode(photo_id, settings, None)
        except Superseded as error:
            outcomes[quality] = error.code

    threads = []
    for quality in (20, 40, 60):
        threads.append(threading.Thread(target=wish, args=(quality,)))
        threads[-1].start()
        threads[-1].join(0.3)
    gate.set()
    for thread in threads:
        thread.join(20)
    assert outcomes[40] == "superseded"
    assert outcomes[60] != "superseded"
    workspace.close()
    slow.shutdown()


def test_an_encode_before_the_pixels_are_made_is_refused(tmp_path: Path) -> None:
    workspace = Workspace(tmp_path / "w.sqlite3", InlineExecutor(), Limits())
    photo_id = workspace.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    workspace.close()
    workspace.change(photo_id, reframing({"kernel": "linear"}, turn=None, crops=False))
    with pytest.raises(UsageError) as caught:
        workspace.tuner.encode(photo_id, PngSettings(colours=8), None)
    assert caught.value.code == "not_framed"
