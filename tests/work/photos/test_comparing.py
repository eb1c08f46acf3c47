import pytest

from lean_parcel.core.decisions.acts import change_aim, pick
from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.size import format_size
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.workspaces import AIM, settled


def test_picks_are_compared_by_their_bytes_and_their_likeness(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    made = settled(workspace, photo_id).encodes.made[:2]
    for encode in made:
        workspace.deciding.do(photo_id, pick(encode.id))
    added, *took = [entry.id for entry, _ in workspace.viewing.journal(photo_id)]
    (difference,) = workspace.comparing.states(photo_id, *took)
    for told, encode in zip((difference.before, difference.after), made, strict=True):
        measured = encode.measured
        what = f"{format_size(measured.size_bytes)}, likeness {measured.likeness:.1f}"
        assert told.split(", ", 1)[1].split(":")[0] == what
    (difference,) = workspace.comparing.states(photo_id, added, took[0])
    assert (difference.topic, difference.before) == ("Pick", "none")


def test_an_encode_of_another_size_is_compared_and_one_of_another_part_is_told(
    workspace: Workspace,
) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    made = settled(workspace, photo_id).encodes.made[0]
    pinned = workspace.comparing.pinned(photo_id, made.id)
    assert (pinned.encode, pinned.shows_the_same) == (made, True)
    workspace.deciding.do(photo_id, change_aim({"size": "60"}))
    settled(workspace, photo_id)
    pinned = workspace.comparing.pinned(photo_id, made.id)
    assert (pinned.encode, pinned.shows_the_same) == (made, True)
    workspace.deciding.do(photo_id, change_aim({"size": "40x40"}))
    settled(workspace, photo_id)
    assert not workspace.comparing.pinned(photo_id, made.id).shows_the_same
    other_id = workspace.adding.add_photo("b.png", file(photo(seed=2)), aim=AIM)
    settled(workspace, other_id)
    with pytest.raises(NotFoundError):
        workspace.comparing.pinned(other_id, made.id)
