import io
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from lean_parcel.core.aim import Aim
from lean_parcel.core.errors import NotFoundError, TruncatedPhoto, UsageError
from lean_parcel.core.framing import Size
from lean_parcel.core.orientation import Box
from lean_parcel.core.photo import Limits
from lean_parcel.core.place import Place
from lean_parcel.work.acts import Act, aiming, reframing
from lean_parcel.work.workspace import Weighing, Workspace
from tests.builders import InlineExecutor, cutout, file, photo

AIM = Aim(place=Place(css_width_px=96), limit_bytes=1_500)


@pytest.fixture
def executor() -> InlineExecutor:
    return InlineExecutor()


@pytest.fixture
def workspace(tmp_path: Path, executor: InlineExecutor) -> Iterator[Workspace]:
    opened = Workspace(tmp_path / "w.sqlite3", executor, Limits())
    yield opened
    opened.close()


def settled(workspace: Workspace, photo_id: int) -> Weighing:
    """The photo once its search has ended."""
    seen = -1
    deadline = time.monotonic() + 30
    while time.monotonic() < deadline:
        weighing = workspace.weighing(photo_id)
        if weighing.search.state != "running":
            return weighing
        seen, _ = workspace.changes.wait(seen, 1)
    raise TimeoutError


def test_a_photo_is_weighed_by_itself_and_everything_is_kept(workspace: Workspace) -> None:
    data = file(photo())
    photo_id = workspace.add_photo("a.png", data, aim=AIM)
    weighing = settled(workspace, photo_id)
    assert weighing.search.state == "done"
    assert {progress.state for progress in weighing.search.formats} == {"done"}
    assert weighing.candidates[0].measured.size_bytes <= 1_500
    for encode in weighing.encodes:
        stored, encoded = workspace.encoded_file(encode.id)
        assert stored == encode
        assert len(encoded) == encode.measured.size_bytes
    assert workspace.original(photo_id)[1] == data


@pytest.mark.parametrize("likeness", [None, 99.0])
def test_an_original_that_fits_its_place_is_offered_and_kept_to_the_byte(
    workspace: Workspace, likeness: float | None
) -> None:
    data = file(photo(96, 64), "JPEG", quality=60)
    aim = Aim(place=AIM.place, limit_bytes=len(data), likeness=likeness)
    photo_id = workspace.add_photo("a.jpg", data, aim=aim)
    best = settled(workspace, photo_id).candidates[0]
    assert best.trial.is_kept
    assert best.measured.likeness == 100
    assert workspace.encoded_file(best.id)[1] == data
    workspace.set_pick(photo_id, best.id)
    assert workspace.pages.view().photos[photo_id].pick == best
    workspace.change(photo_id, aiming({"limit_bytes": len(data) - 1, "likeness": None}))
    assert not any(encode.trial.is_kept for encode in settled(workspace, photo_id).candidates)


def test_a_search_is_done_though_its_original_cannot_be_measured(
    workspace: Workspace, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fail(*_: object) -> None:
        raise TruncatedPhoto("cut off")

    monkeypatch.setattr("lean_parcel.work.search_desk.keep_task", fail)
    data = file(photo(96, 64), "JPEG", quality=60)
    photo_id = workspace.add_photo("a.jpg", data, aim=Aim(place=AIM.place, limit_bytes=len(data)))
    weighing = settled(workspace, photo_id)
    assert weighing.search.state == "done"
    assert weighing.candidates
    assert not any(encode.trial.is_kept for encode in weighing.candidates)


def test_an_original_of_several_pictures_is_not_offered(workspace: Workspace) -> None:
    frames = [Image.fromarray(photo(96, 64, seed)) for seed in (1, 2)]
    out = io.BytesIO()
    frames[0].save(out, "WEBP", save_all=True, append_images=frames[1:], quality=20)
    aim = Aim(place=AIM.place, limit_bytes=100_000)
    photo_id = workspace.add_photo("a.webp", out.getvalue(), aim=aim)
    assert not any(encode.trial.is_kept for encode in settled(workspace, photo_id).candidates)


def test_a_bad_file_stores_nothing(workspace: Workspace) -> None:
    with pytest.raises(TruncatedPhoto):
        workspace.add_photo("cut.png", file(photo())[:4_000], aim=AIM)
    assert workspace.pages.view().photos == {}


def test_a_new_aim_replaces_the_search_and_reuses_what_was_made(
    workspace: Workspace, executor: InlineExecutor
) -> None:
    photo_id = workspace.add_photo("a.png", file(photo()), aim=AIM)
    first = settled(workspace, photo_id)
    workspace.change(photo_id, aiming({"limit_bytes": 900, "formats": ("jpeg",)}))
    other = settled(workspace, photo_id)
    assert {encode.trial.settings.format for encode in other.candidates} == {"jpeg"}
    assert max(encode.measured.size_bytes for encode in other.candidates) <= 900
    calls = executor.calls
    workspace.undo(photo_id)
    assert settled(workspace, photo_id).candidates == first.candidates
    assert executor.calls == calls


def test_the_next_photo_starts_from_the_last_settings(workspace: Workspace) -> None:
    first = workspace.add_photo("a.png", file(photo()), aim=AIM)
    changes = {"kernel": "mitchell", "straighten_deg": 2.0, "metadata": "nothing"}
    workspace.change(first, reframing(changes, turn="left", crops=False))
    second = workspace.add_photo("b.png", file(cutout()))
    state = settled(workspace, second).state
    assert state.aim == AIM
    assert (state.framing.kernel, state.framing.metadata) == ("mitchell", "nothing")
    assert (state.framing.orientation, state.framing.straighten_deg) == (1, 0)


def test_a_remembered_size_that_would_enlarge_gives_way_to_the_place(workspace: Workspace) -> None:
    first = workspace.add_photo("a.png", file(photo(400, 300)), aim=AIM)
    workspace.change(first, _sized(width_px=300))
    second = workspace.add_photo("b.png", file(photo(200, 150)))
    assert settled(workspace, second).state.framing.size == Size()


def test_a_pick_is_of_its_own_photo(workspace: Workspace) -> None:
    one = workspace.add_photo("a.png", file(photo()), aim=AIM)
    two = workspace.add_photo("b.png", file(photo(seed=2)), aim=AIM)
    best = settled(workspace, one).candidates[0]
    settled(workspace, two)
    workspace.set_pick(one, best.id)
    assert workspace.pages.view().photos[one].pick == best
    for photo_id, encode_id in ((two, best.id), (one, 9_999)):
        with pytest.raises(NotFoundError):
            workspace.set_pick(photo_id, encode_id)
    workspace.set_pick(one, None)
    assert workspace.pages.view().photos[one].pick is None


def test_undo_and_redo_give_the_same_bytes(workspace: Workspace) -> None:
    photo_id = workspace.add_photo("a.png", file(photo()), aim=AIM)
    before = settled(workspace, photo_id)
    workspace.change(photo_id, reframing({"straighten_deg": 3.0}, turn="right", crops=False))
    after = settled(workspace, photo_id)
    assert _files(workspace, after) != _files(workspace, before)
    workspace.undo(photo_id)
    assert _files(workspace, settled(workspace, photo_id)) == _files(workspace, before)
    workspace.redo(photo_id)
    assert _files(workspace, settled(workspace, photo_id)) == _files(workspace, after)


def test_another_framing_puts_the_pick_back_and_undo_takes_it_again(workspace: Workspace) -> None:
    photo_id = workspace.add_photo("a.png", file(photo()), aim=AIM)
    best = settled(workspace, photo_id).candidates[0]
    workspace.set_pick(photo_id, best.id)
    workspace.change(photo_id, reframing({"kernel": "linear"}, turn=None, crops=False))
    assert settled(workspace, photo_id).state.picked_encode_id is None
    with pytest.raises(NotFoundError):
        workspace.set_pick(photo_id, best.id)
    workspace.undo(photo_id)
    assert settled(workspace, photo_id).state.picked_encode_id == best.id


def test_a_framing_that_would_enlarge_is_refused_unless_insisted_upon(workspace: Workspace) -> None:
    photo_id = workspace.add_photo("a.png", file(photo()), aim=AIM)
    before = settled(workspace, photo_id).state
    with pytest.raises(UsageError) as caught:
        workspace.change(photo_id, _sized(width_px=192))
    assert caught.value.code == "would_enlarge"
    assert settled(workspace, photo_id).state == before
    workspace.change(photo_id, _sized(width_px=192, may_enlarge=True))
    framed = settled(workspace, photo_id).framed
    assert framed is not None
    assert framed.subject.rungs[0].width_px == 192


def test_the_journal_outlives_the_process_and_compares_entries(tmp_path: Path) -> None:
    path = tmp_path / "w.sqlite3"
    first = Workspace(path, InlineExecutor(), Limits())
    photo_id = first.add_photo("a.png", file(photo()), aim=AIM)
    settled(first, photo_id)
    first.change(photo_id, reframing({"straighten_deg": 3.0}, turn=None, crops=False))
    first.change(photo_id, aiming({"limit_bytes": 1_200}))
    settled(first, photo_id)
    first.undo(photo_id)
    first.close()
    second = Workspace(path, InlineExecutor(), Limits())
    entries, current = second.journal(photo_id)
    assert [entry.words for entry in entries] == ["Added", "Straighten: 3°", "Limit: 1.2 kB"]
    assert current == entries[1]
    comparison = second.compare(photo_id, entries[0].id, entries[1].id)
    assert [difference.topic for difference in comparison.differences] == ["Straighten"]
    assert None not in comparison.framed_ids
    second.redo(photo_id)
    assert second.weighing(photo_id).state.aim.limit_bytes == 1_200
    second.go_back_to(photo_id, entries[0].id)
    assert second.weighing(photo_id).state.framing.straighten_deg == 0
    with pytest.raises(NotFoundError):
        second.go_back_to(photo_id, 999)
    settled(second, photo_id)
    second.close()


def test_findings_and_margins_are_of_the_photo_as_it_lies(workspace: Workspace) -> None:
    framed = np.full((80, 120, 3), 255, np.uint8)
    framed[10:70, 30:100] = photo(70, 60)
    photo_id = workspace.add_photo("a.png", file(framed), aim=AIM)
    findings, _ = workspace.findings(photo_id)
    assert [finding.topic for finding in findings][:2] == ["format", "pixels"]
    inside = workspace.margins(photo_id)
    assert inside == Box(left_px=30, top_px=10, width_px=70, height_px=60)
    workspace.change(photo_id, reframing({}, turn="right", crops=False))
    assert workspace.margins(photo_id) == Box(left_px=10, top_px=30, width_px=60, height_px=70)


def _sized(*, width_px: int, may_enlarge: bool = False) -> Act:
    size = Size(by="width", width_px=width_px)
    return reframing({"size": size, "may_enlarge": may_enlarge}, turn=None, crops=False)


def _files(workspace: Workspace, weighing: Weighing) -> list[bytes]:
    return [workspace.encoded_file(encode.id)[1] for encode in weighing.candidates]


def test_a_search_that_was_running_goes_on_in_the_next_life(tmp_path: Path) -> None:
    path = tmp_path / "w.sqlite3"
    slow = ThreadPoolExecutor(1)
    first = Workspace(path, slow, Limits())
    photo_id = first.add_photo("a.png", file(photo(480, 320)), aim=AIM)
    first.close()
    slow.shutdown()
    second = Workspace(path, InlineExecutor(), Limits())
    assert second.weighing(photo_id).search.state == "running"
    second.resume_searches()
    assert settled(second, photo_id).search.state == "done"
    second.close()


def test_stopping_keeps_what_was_found(tmp_path: Path) -> None:
    slow = ThreadPoolExecutor(1)
    workspace = Workspace(tmp_path / "w.sqlite3", slow, Limits())
    photo_id = workspace.add_photo("a.png", file(photo(480, 320)), aim=AIM)
    workspace.changes.wait(1, 10)
    workspace.stop_search(photo_id)
    assert workspace.weighing(photo_id).search.state == "stopped"
    workspace.close()
    slow.shutdown()
    assert workspace.weighing(photo_id).search.state == "stopped"


def test_changes_are_announced_to_those_who_wait(workspace: Workspace) -> None:
    seen, _ = workspace.changes.wait(-1, 0)
    photo_id = workspace.add_photo("a.png", file(photo()), aim=AIM)
    version, changed = workspace.changes.wait(seen, 10)
    assert version > seen
    assert photo_id in changed
    settled(workspace, photo_id)


def test_an_aim_of_likeness_is_met_in_the_fewest_bytes(workspace: Workspace) -> None:
    photo_id = workspace.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    workspace.change(photo_id, aiming({"likeness": 75.0}))
    weighing = settled(workspace, photo_id)
    sizes = [encode.measured.size_bytes for encode in weighing.candidates]
    assert sizes == sorted(sizes)
    assert min(encode.measured.likeness for encode in weighing.candidates) >= 75
    assert weighing.outcome
    assert weighing.enough is None
    assert workspace.pages.view().photos[photo_id].best == weighing.candidates[0]
    workspace.undo(photo_id)
    assert settled(workspace, photo_id).state.aim.likeness is None
