"""A pick is always what the present state would make, and is handed out with no more metadata than
its policy lets through."""

from pathlib import Path

import numpy as np
import pyexiv2
import pytest

from lean_parcel.core.decisions.acts import change_aim, change_framing, pick
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.settings import JpegSettings, PassThrough
from lean_parcel.core.errors import NotFoundError, TaskCrashed
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.framing.place import Place
from lean_parcel.core.metadata.policy import POLICY_NAMES, MetadataPolicy
from lean_parcel.core.original.source import Limits
from lean_parcel.core.picture.serialisation import decode
from lean_parcel.store.encodes import Encode
from lean_parcel.work.tasks.encoding import encode_task
from lean_parcel.work.workspace import Workspace
from tests.builders import cutout, file, photo
from tests.executors import FailingExecutor, InlineExecutor
from tests.files import full_jpeg, read_back
from tests.work.delivery.steps import packed
from tests.workspaces import settled

AIM = Aim(place=Place(size="96"), limit_bytes=9_000)


def policy_of(workspace: Workspace, photo_id: int, policy: MetadataPolicy) -> None:
    workspace.deciding.do(photo_id, change_framing({"metadata": policy}))


def pick_of(workspace: Workspace, photo_id: int) -> tuple[int, bytes]:
    """The id of the pick, and its file as it is handed out; its size is what is shown."""
    encode_id = settled(workspace, photo_id).state.picked_encode_id
    assert encode_id
    _, data = workspace.files.delivered(photo_id, encode_id)
    on_page = workspace.page_viewing.pages().photos[photo_id].pick
    assert on_page
    assert on_page.measured.size_bytes == len(data)
    return encode_id, data


def own_encodes(workspace: Workspace, photo_id: int) -> list[Encode]:
    """All encodes but the original."""
    made = settled(workspace, photo_id).encodes.made
    return [encode for encode in made if not encode.trial.is_pass_through]


@pytest.mark.parametrize("name", FORMATS)
def test_a_change_of_policy_exchanges_metadata_and_encodes_nothing(
    workspace: Workspace, name: Format
) -> None:
    photo_id = workspace.adding.add_photo("a.jpg", full_jpeg(), aim=AIM)
    made = own_encodes(workspace, photo_id)
    one = next(encode for encode in made if encode.trial.settings.format == name)
    workspace.deciding.do(photo_id, pick(one.id))
    policy_of(workspace, photo_id, "everything")
    pick_id, with_all = pick_of(workspace, photo_id)
    assert "Exif.GPSInfo.GPSLatitude" in read_back(with_all)
    policies = ("no-position", "credit", "nothing")
    for policy in policies:  # each leaves the picture another part of the limit
        policy_of(workspace, photo_id, policy)
        settled(workspace, photo_id)
        packed(workspace)  # its variants too
    ids = [encode.id for encode in own_encodes(workspace, photo_id)]
    for policy in policies:
        policy_of(workspace, photo_id, policy)
        same_id, data = pick_of(workspace, photo_id)
        packed(workspace)
        assert same_id == pick_id
        assert "Exif.GPSInfo.GPSLatitude" not in read_back(data)
        np.testing.assert_array_equal(decode(data), decode(with_all))
    assert read_back(data) == {}
    assert [encode.id for encode in own_encodes(workspace, photo_id)] == ids
    for _ in range(6):
        workspace.deciding.undo(photo_id)
    assert pick_of(workspace, photo_id) == (pick_id, with_all)


def test_an_original_that_is_stored_turned_is_not_offered_without_what_turns_it(
    workspace: Workspace,
) -> None:
    photo_id = workspace.adding.add_photo("a.jpg", full_jpeg(), aim=AIM)  # orientation 6
    assert own_encodes(workspace, photo_id) == list(settled(workspace, photo_id).encodes.made)
    policy_of(workspace, photo_id, "everything")
    made = settled(workspace, photo_id).encodes.made
    (original,) = (encode for encode in made if encode.trial.is_pass_through)
    assert workspace.files.delivered(photo_id, original.id)[1] == full_jpeg()


def test_what_fits_fits_with_its_metadata(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("a.jpg", full_jpeg(), aim=AIM)
    for policy in POLICY_NAMES:
        policy_of(workspace, photo_id, policy)
        for limit_bytes in (1_500, 2_500):
            workspace.deciding.do(photo_id, change_aim({"limit_bytes": limit_bytes}))
            for candidate in settled(workspace, photo_id).encodes.candidates:
                _, data = workspace.files.delivered(photo_id, candidate.id)
                assert candidate.measured.size_bytes == len(data)
                assert candidate.id not in fitting(workspace, photo_id) or len(data) <= limit_bytes


def fitting(workspace: Workspace, photo_id: int) -> list[int]:
    return [each.encode_id for each in settled(workspace, photo_id).search.found if each.meets_aim]


def test_an_original_that_was_taken_gives_its_metadata_up_with_the_policy(
    workspace: Workspace,
) -> None:
    original = upright(full_jpeg())
    photo_id = workspace.adding.add_photo("a.jpg", original, aim=AIM)
    policy_of(workspace, photo_id, "everything")
    candidates = settled(workspace, photo_id).encodes.candidates
    best = next(e for e in candidates if e.trial.settings == PassThrough(format="jpeg"))
    workspace.deciding.do(photo_id, pick(best.id))
    assert pick_of(workspace, photo_id)[1] == original
    policy_of(workspace, photo_id, "no-position")
    _, data = pick_of(workspace, photo_id)
    assert "Exif.GPSInfo.GPSLatitude" not in read_back(data)
    assert read_back(data)["Exif.Image.Make"] == "Wrenlo"
    np.testing.assert_array_equal(decode(data), decode(original))
    _, stale = workspace.files.delivered(photo_id, best.id)  # asked for by a page that is behind
    assert "Exif.GPSInfo.GPSLatitude" not in read_back(stale)
    policy_of(workspace, photo_id, "everything")
    assert pick_of(workspace, photo_id)[1] == original


def upright(jpeg: bytes) -> bytes:
    """The same file, with an orientation that turns nothing."""
    with pyexiv2.ImageData(jpeg) as image:
        image.modify_exif({"Exif.Image.Orientation": "1"})
        return bytes(image.get_bytes())


def test_a_change_of_background_makes_the_pick_anew(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(cutout()), aim=AIM)
    made = settled(workspace, photo_id).encodes.made
    jpeg = next(encode for encode in made if encode.trial.settings.format == "jpeg")
    webp = next(encode for encode in made if encode.trial.settings.format == "webp")
    workspace.deciding.do(photo_id, pick(jpeg.id))
    workspace.deciding.do(photo_id, change_framing({"background": "#ff0000"}))
    red_id, data = pick_of(workspace, photo_id)
    assert red_id != jpeg.id
    assert decode(data)[0, 0, 0] > 240 > 20 > decode(data)[0, 0, 2]
    picked = next(e for e in settled(workspace, photo_id).encodes.made if e.id == red_id)
    assert isinstance(picked.trial.settings, JpegSettings)
    assert isinstance(jpeg.trial.settings, JpegSettings)
    assert picked.trial.settings.quality == jpeg.trial.settings.quality
    workspace.deciding.undo(photo_id)
    assert pick_of(workspace, photo_id)[0] == jpeg.id
    workspace.deciding.do(photo_id, pick(webp.id))
    workspace.deciding.do(photo_id, change_framing({"background": "#00ff00"}))
    assert pick_of(workspace, photo_id)[0] == webp.id


def test_an_opaque_picture_has_no_background(
    workspace: Workspace, executor: InlineExecutor
) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    calls = executor.calls
    workspace.deciding.do(photo_id, change_framing({"background": "#ff0000"}))
    settled(workspace, photo_id)
    assert executor.calls == calls


def test_where_the_new_pick_cannot_be_made_nothing_is_changed(tmp_path: Path) -> None:
    executor = FailingExecutor(None, TaskCrashed("The worker died."))
    workspace = Workspace(tmp_path / "w.sqlite3", executor, Limits())
    photo_id = workspace.adding.add_photo("a.png", file(cutout()), aim=AIM)
    made = settled(workspace, photo_id).encodes.made
    jpeg = next(encode for encode in made if encode.trial.settings.format == "jpeg")
    workspace.deciding.do(photo_id, pick(jpeg.id))
    before = workspace.viewing.photo(photo_id).state
    executor.fail_from_now_on(encode_task)
    with pytest.raises(TaskCrashed):
        workspace.deciding.do(photo_id, change_framing({"background": "#ff0000"}))
    assert workspace.viewing.photo(photo_id).state == before
    workspace.close()


def test_an_encode_of_another_photo_is_not_handed_out(workspace: Workspace) -> None:
    ids = [workspace.adding.add_photo("a.png", file(photo(seed=seed)), aim=AIM) for seed in (1, 2)]
    other = settled(workspace, ids[1]).encodes.candidates[0]
    settled(workspace, ids[0])
    with pytest.raises(NotFoundError):
        workspace.files.delivered(ids[0], other.id)
