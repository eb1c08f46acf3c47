import errno
import hashlib
import io
import zipfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from PIL import Image

from lean_parcel.core.decisions.acts import change_framing, give_reason, pick
from lean_parcel.core.decisions.variants import Variants
from lean_parcel.core.encoding.settings import PassThrough
from lean_parcel.core.errors import BytesChanged, StorageError, UsageError
from lean_parcel.core.original.source import Limits
from lean_parcel.core.page import page_acts
from lean_parcel.work.delivery.packing_list import (
    HTML_NAME,
    LIST_NAME,
    PackingList,
    read_packing_list,
)
from lean_parcel.work.delivery.verifying import verify
from lean_parcel.work.workspace import Workspace
from tests.builders import file, oriented, photo
from tests.executors import InlineExecutor
from tests.work.delivery.steps import AIM, change, packed, take, taken
from tests.workspaces import settled


@pytest.fixture
def workspace(tmp_path: Path) -> Iterator[Workspace]:
    opened = Workspace(tmp_path / "w.sqlite3", InlineExecutor(), Limits(), out=tmp_path / "out")
    yield opened
    opened.close()


def unzipped(workspace: Workspace) -> dict[str, bytes]:
    data = b"".join(workspace.sending.zipped(1))
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        assert archive.testzip() is None
        return {name: archive.read(name) for name in archive.namelist()}


def listed(files: dict[str, bytes]) -> PackingList:
    return read_packing_list(files[LIST_NAME])


def test_an_archive_has_all_files_and_a_list_of_exactly_them(workspace: Workspace) -> None:
    taken(workspace)
    workspace.page_editing.do(page_acts.set_budget(1, 9_000))
    files = unzipped(workspace)
    whole = listed(files)
    assert {each.path for each in whole.files} == {*files} - {LIST_NAME, HTML_NAME}
    assert (whole.page, whole.budget_bytes) == ("First page", 9_000)
    for each in whole.files:
        data = files[each.path]
        assert (each.size_bytes, each.sha256) == (len(data), hashlib.sha256(data).hexdigest())
        assert each.limit_bytes == 5_000
        assert each.size_bytes <= 5_000
        with Image.open(io.BytesIO(data)) as image:
            assert image.size == (each.width_px, each.height_px)
    (of_photo,) = whole.photos
    assert (of_photo.old.name, of_photo.old.folder) == ("Röte Tasse.png", "img")
    assert of_photo.old.sha256 == hashlib.sha256(file(photo(96, 64, 1))).hexdigest()
    assert "rote-tasse-96.webp" in files[HTML_NAME].decode()


def test_the_same_delivery_has_the_same_bytes(workspace: Workspace) -> None:
    taken(workspace)
    once, again = (b"".join(workspace.sending.zipped(1)) for _ in range(2))
    assert once == again
    assert workspace.sending.listed(1) == listed(unzipped(workspace))


def test_metadata_follows_the_policy_that_holds_when_it_is_handed_over(
    workspace: Workspace,
) -> None:
    exif = Image.Exif()
    exif[0x010F] = "A camera"
    data = file(photo(96, 64), "JPEG", quality=95, exif=exif)
    photo_id = taken(workspace, name="a.jpg", data=data)
    for policy, is_there in (("everything", True), ("nothing", False)):
        workspace.deciding.do(photo_id, change_framing({"metadata": policy}))
        packed(workspace)
        files = unzipped(workspace)
        for each in listed(files).files:
            assert (b"A camera" in files[each.path]) == is_there, each.path


def test_reasons_and_photos_that_are_left_out_are_listed(workspace: Workspace) -> None:
    photo_id = taken(workspace)
    workspace.adding.add_photo("other.png", file(photo(96, 64, 5)), aim=AIM)
    change(workspace, photo_id, {"limit_bytes": 400})
    settled(workspace, photo_id)
    workspace.deciding.do(photo_id, give_reason("it opens the page"))
    packed(workspace)
    whole = listed(unzipped(workspace))
    assert whole.left_out == ["other.png"]
    assert whole.photos[0].reason == "it opens the page"
    assert not next(each for each in whole.files if each.is_pick).meets_aim


def test_a_delivery_is_written_below_the_folder_and_again_over_itself(
    workspace: Workspace, tmp_path: Path
) -> None:
    photo_id = taken(workspace)
    workspace.page_editing.do(page_acts.rename_page(1, "../Home/… page"))
    written = workspace.sending.written(1)
    assert written.folder == tmp_path / "out/home-page"
    assert verify(written.folder).is_right
    take(workspace, photo_id, "avif")
    packed(workspace)
    assert workspace.sending.written(1).files == written.files + 2  # AVIF at each density
    assert verify(written.folder).is_right
    assert not list(tmp_path.rglob("*.part"))


def test_what_is_there_from_others_is_never_written_over(
    workspace: Workspace, tmp_path: Path
) -> None:
    taken(workspace)
    folder = tmp_path / "out/first-page"
    mine = folder / "img/rote-tasse-48.jpg"
    mine.parent.mkdir(parents=True)
    mine.write_bytes(b"somebody else's")
    with pytest.raises(UsageError) as caught:
        workspace.sending.written(1)
    assert caught.value.code == "file_in_the_way"
    assert [path for path in folder.rglob("*") if path.is_file()] == [mine]
    mine.unlink()
    workspace.sending.written(1)
    mine.write_bytes(b"changed by hand")
    with pytest.raises(UsageError):
        workspace.sending.written(1)
    assert mine.read_bytes() == b"changed by hand"


def test_what_an_earlier_delivery_left_is_written_again(
    workspace: Workspace, tmp_path: Path
) -> None:
    photo_id = taken(workspace, variants=Variants(formats=()))
    workspace.sending.written(1)
    (as_webp,) = (tmp_path / "out/first-page").rglob("*.webp")
    before = as_webp.read_bytes()
    take(workspace, photo_id, "jpeg")
    workspace.sending.written(1)
    change(workspace, photo_id, {"limit_bytes": 500})
    take(workspace, photo_id, "webp")
    written = workspace.sending.written(1)
    assert as_webp.read_bytes() != before
    assert verify(written.folder).is_right
    (as_jpeg,) = written.folder.rglob("*.jpg")
    as_jpeg.write_bytes(b"changed by hand")
    take(workspace, photo_id, "jpeg")
    with pytest.raises(UsageError) as caught:
        workspace.sending.written(1)
    assert caught.value.code == "file_in_the_way"


@pytest.mark.parametrize("link", ["first-page", "first-page/img", "first-page/packing-list.json"])
def test_links_lead_nowhere(workspace: Workspace, tmp_path: Path, link: str) -> None:
    taken(workspace)
    outside = tmp_path / "outside"
    outside.mkdir()
    place = tmp_path / "out" / link
    place.parent.mkdir(parents=True, exist_ok=True)
    place.symlink_to(outside)
    with pytest.raises(UsageError) as caught:
        workspace.sending.written(1)
    assert caught.value.code == "file_in_the_way"
    assert list(outside.iterdir()) == []


def test_a_disk_that_fills_leaves_whole_files_and_the_next_attempt_goes_on(
    workspace: Workspace, monkeypatch: pytest.MonkeyPatch
) -> None:
    taken(workspace)
    room = [2]

    def fill(path: Path, data: bytes) -> int:
        """A disk with room for two files, of which half of the next one fits."""
        room[0] -= 1
        with path.open("wb") as written:
            written.write(data if room[0] >= 0 else data[: len(data) // 2])
        if room[0] < 0:
            raise OSError(errno.ENOSPC, "No space left on device")
        return len(data)

    with monkeypatch.context() as full:
        full.setattr(Path, "write_bytes", fill)
        with pytest.raises(StorageError) as caught:
            workspace.sending.written(1)
    assert caught.value.code == "folder_not_written"
    assert workspace.sending.out
    folder = workspace.sending.out / "first-page"
    whole = unzipped(workspace)
    left = {p.relative_to(folder).as_posix(): p for p in folder.rglob("*") if p.is_file()}
    del left[".packing-list.notes"]
    assert len(left) == 2
    assert all(path.read_bytes() == whole[name] for name, path in left.items())
    workspace.sending.written(1)
    assert verify(folder).is_right
    assert not list(folder.rglob(".*"))


def test_what_a_killed_server_left_half_written_goes(workspace: Workspace) -> None:
    taken(workspace)
    folder = workspace.sending.written(1).folder
    half = folder / ".lean-parcel-4711.part"
    half.write_bytes(b"{")
    workspace.sending.written(1)
    assert not half.exists()


def test_pages_of_one_name_have_folders_of_their_own(workspace: Workspace, tmp_path: Path) -> None:
    taken(workspace, variants=Variants())
    workspace.page_editing.do(page_acts.rename_page(1, "Home"))
    second = workspace.page_editing.do(page_acts.add_page("home")).pages[-1].id
    add_taken(workspace, second)
    first = workspace.sending.written(1).folder
    assert workspace.sending.written(second).folder != first
    other = Workspace(tmp_path / "o.sqlite3", InlineExecutor(), Limits(), out=tmp_path / "out")
    taken(other, variants=Variants(), seed=3)
    other.page_editing.do(page_acts.rename_page(1, "Home"))
    third = other.sending.written(1).folder
    other.close()
    folders = {first, third, workspace.sending.written(second).folder}
    assert len(folders) == 3
    assert all(verify(folder).is_right for folder in folders)
    assert workspace.sending.written(1).folder == first


def test_a_delivery_that_was_cut_off_keeps_its_folder(workspace: Workspace) -> None:
    taken(workspace, variants=Variants())
    folder = workspace.sending.written(1).folder
    (folder / LIST_NAME).unlink()
    (folder / ".packing-list.notes").write_text("of another workspace/1\n")
    assert workspace.sending.written(1).folder != folder


def test_two_tabs_write_one_delivery_one_after_the_other(workspace: Workspace) -> None:
    taken(workspace)
    with ThreadPoolExecutor(4) as threads:
        written = list(threads.map(lambda _: workspace.sending.written(1), range(8)))
    assert len(set(written)) == 1
    assert verify(written[0].folder).is_right
    assert not list(written[0].folder.rglob(".*"))


def add_taken(workspace: Workspace, page_id: int) -> None:
    photo_id = workspace.adding.add_photo("b.png", file(photo(96, 64, 2)), aim=AIM, page_id=page_id)
    settled(workspace, photo_id)
    take(workspace, photo_id, "webp")
    packed(workspace, page_id)


def test_damaged_bytes_are_not_delivered(workspace: Workspace, tmp_path: Path) -> None:
    taken(workspace, variants=Variants())
    with workspace.context.connection() as connection:
        connection.execute(
            "UPDATE blob SET data = zeroblob(length(data)) WHERE sha256 IN"
            " (SELECT file_sha256 FROM encode)"
        )
    with pytest.raises(BytesChanged):
        workspace.sending.written(1)
    assert not (tmp_path / "out/first-page" / LIST_NAME).exists()


def test_a_folder_that_cannot_be_written_is_told(workspace: Workspace, tmp_path: Path) -> None:
    taken(workspace)
    (tmp_path / "out").write_text("a file")
    with pytest.raises(StorageError) as caught:
        workspace.sending.written(1)
    assert caught.value.code == "folder_not_written"


def test_nothing_is_written_without_a_folder(tmp_path: Path) -> None:
    workspace = Workspace(tmp_path / "x.sqlite3", InlineExecutor(), Limits())
    with pytest.raises(UsageError) as caught:
        workspace.sending.written(1)
    assert caught.value.code == "no_out_folder"
    workspace.close()


def test_an_original_that_goes_out_as_it_came_is_handed_over(workspace: Workspace) -> None:
    data = oriented(photo(96, 64), 1)
    photo_id = workspace.adding.add_photo("a.jpg", data, aim=AIM)
    change(workspace, photo_id, {"limit_bytes": len(data) + 10, "likeness": None})
    workspace.deciding.do(photo_id, change_framing({"metadata": "everything"}))
    found = settled(workspace, photo_id).encodes.candidates
    original = next(e for e in found if e.trial.settings == PassThrough(format="jpeg"))
    workspace.deciding.do(photo_id, pick(original.id))
    packed(workspace)
    assert data in unzipped(workspace).values()
