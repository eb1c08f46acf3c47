"""Damage is looked for once in each encode, and goes with it."""

from concurrent.futures import ThreadPoolExecutor

import pytest

from lean_parcel.core.damage.spots import MATTERS
from lean_parcel.core.decisions.acts import change_framing, change_marks
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.marks import Mark
from lean_parcel.core.encoding.settings import JpegSettings
from lean_parcel.core.errors import NotFoundError, UsageError
from lean_parcel.core.framing.place import Place
from lean_parcel.core.picture.box import Box
from lean_parcel.store import damages
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.executors import InlineExecutor
from tests.workspaces import made_by_hand, settled

AIM = Aim(place=Place(size="96"), limit_bytes=2_000, formats=("jpeg", "webp"))
RUIN = JpegSettings(quality=5, chroma="4:2:0")


@pytest.fixture
def photo_id(workspace: Workspace) -> int:
    return workspace.adding.add_photo("a.png", file(photo()), aim=AIM)


def test_a_search_ends_with_a_look_at_what_it_found(workspace: Workspace, photo_id: int) -> None:
    encodes = settled(workspace, photo_id).encodes
    for encode in encodes.candidates:
        assert encode.worst is not None
    others = [encode for encode in encodes.made if encode.id not in encodes.candidate_ids]
    assert all(encode.worst is None for encode in others)


def test_each_encode_is_examined_once(
    workspace: Workspace, executor: InlineExecutor, photo_id: int
) -> None:
    settled(workspace, photo_id)
    ruined = made_by_hand(workspace, photo_id, RUIN)
    calls = executor.calls
    with ThreadPoolExecutor(4) as threads:
        views = list(
            threads.map(lambda _: workspace.examining.encode(photo_id, ruined.id), range(4))
        )
    assert executor.calls == calls + 1
    assert all(view.spots == views[0].spots for view in views)
    assert views[0].damage.verdict.endswith(".")
    (worst,) = (e.worst for e in settled(workspace, photo_id).encodes.made if e.id == ruined.id)
    assert worst
    assert worst.strength > 30


def test_spots_lie_in_all_pixels_of_the_framed_picture(workspace: Workspace, photo_id: int) -> None:
    view = settled(workspace, photo_id)
    assert view.framed
    ruined = made_by_hand(workspace, photo_id, RUIN)
    boxes = [spot.box for spot in workspace.examining.encode(photo_id, ruined.id).spots]
    fewer = view.framed.search_input.rungs[1].width_px
    assert fewer < max(box.left_px + box.width_px for box in boxes) <= view.plan.width_px


def test_what_was_found_leaves_the_store_with_its_encode(
    workspace: Workspace, photo_id: int
) -> None:
    encode_id = settled(workspace, photo_id).encodes.candidate_ids[0]
    with workspace.context.connection() as connection:
        assert damages.find(connection, encode_id)
        connection.execute("DELETE FROM candidate")
        connection.execute("DELETE FROM encode WHERE id = :id", {"id": encode_id})
        assert damages.find(connection, encode_id) is None


def test_marks_are_kept_counted_turned_and_undone(workspace: Workspace, photo_id: int) -> None:
    settled(workspace, photo_id)
    ruined = made_by_hand(workspace, photo_id, RUIN)
    face = Mark(box=Box(left_px=8, top_px=16, width_px=24, height_px=16), matters=True)
    workspace.deciding.do(photo_id, change_marks((face,)))
    marked = [s for s in workspace.examining.encode(photo_id, ruined.id).spots if s.is_marked]
    assert [spot.box for spot in marked] == [face.box]
    ranked = [
        spot.strength * (MATTERS if spot.is_marked else 1)
        for spot in workspace.examining.encode(photo_id, ruined.id).spots
    ]
    assert ranked == sorted(ranked, reverse=True)
    workspace.deciding.do(photo_id, change_framing({}, "right"))
    (turned,) = settled(workspace, photo_id).state.marks
    assert turned.box == Box(left_px=64 - 32, top_px=8, width_px=16, height_px=24)
    for _ in range(2):
        workspace.deciding.undo(photo_id)
    assert settled(workspace, photo_id).state.marks == ()
    words = [entry.words for entry, _ in workspace.viewing.journal(photo_id)]
    assert "Marks: 1 that matters" in words


def test_a_mark_lies_in_the_picture(workspace: Workspace, photo_id: int) -> None:
    outside = Mark(box=Box(left_px=90, top_px=0, width_px=20, height_px=5), matters=False)
    with pytest.raises(UsageError) as refused:
        workspace.deciding.do(photo_id, change_marks((outside,)))
    assert refused.value.code == "invalid_marks"
    with pytest.raises(UsageError):
        workspace.deciding.do(photo_id, change_marks(9 * (Mark(box=outside.box, matters=True),)))


def test_an_encode_of_another_photo_is_not_examined(workspace: Workspace, photo_id: int) -> None:
    other_id = workspace.adding.add_photo("b.png", file(photo(seed=5)), aim=AIM)
    encode_id = settled(workspace, other_id).encodes.candidate_ids[0]
    with pytest.raises(NotFoundError):
        workspace.examining.encode(photo_id, encode_id)


def test_what_is_bought_is_of_the_lighter_of_two_of_the_same_pixels(
    workspace: Workspace, executor: InlineExecutor, photo_id: int
) -> None:
    best = settled(workspace, photo_id).encodes.candidates[0]
    ruined = made_by_hand(workspace, photo_id, RUIN)
    one, other = (
        workspace.examining.bought(photo_id, *ids)
        for ids in ((best.id, ruined.id), (ruined.id, best.id))
    )
    assert one == other
    assert (one.lighter_id, one.heavier_id) == (ruined.id, best.id)
    assert one.bought.more_bytes == best.measured.size_bytes - ruined.measured.size_bytes
    assert one.bought.gains
    calls = executor.calls
    workspace.examining.bought(photo_id, best.id, ruined.id)
    assert executor.calls == calls
    workspace.deciding.do(photo_id, change_framing({"straighten_deg": 3.0}))
    settled(workspace, photo_id)
    turned = made_by_hand(workspace, photo_id, RUIN)
    with pytest.raises(UsageError) as caught:
        workspace.examining.bought(photo_id, best.id, turned.id)
    assert caught.value.code == "not_comparable"
