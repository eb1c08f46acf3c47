"""Photos that are weighed one by one, for whoever waits for each."""

from hashlib import sha256

import pytest

from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.treatment import Treatment
from lean_parcel.core.errors import UnreadablePhoto
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.page import choices
from lean_parcel.core.page.layout import NamedTreatment
from lean_parcel.store import blobs
from lean_parcel.work.packing.weighing import Weighing
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo

AIM = Aim(place=Place(size="60"), limit_bytes=2_500, formats=("jpeg",))
DATA = file(photo(90, 60, 4))


@pytest.fixture
def treatment(workspace: Workspace) -> NamedTreatment:
    act = choices.keep_treatment("Card", Treatment(framing=Framing(), aim=AIM))
    return workspace.page_editing.do(act).treatments[0]


def has_original(workspace: Workspace) -> bool:
    with workspace.context.connection() as connection:
        return blobs.has(connection, sha256(DATA).hexdigest())


def test_bytes_that_photos_share_go_with_the_last_of_them(
    workspace: Workspace, treatment: NamedTreatment
) -> None:
    weighing = Weighing(workspace)
    names = ("shelf/cup.png", "sill/cup.png")
    first, second = (weighing.photo_of(name, DATA, treatment) for name in names)
    for photo_id in (first, second):
        weighing.weigh(photo_id, DATA, treatment)
    weighing.let_go(first, ())
    assert has_original(workspace)
    weighing.let_go(second, ())
    assert not has_original(workspace)


def test_a_photo_that_could_not_be_added_keeps_no_bytes_of_another(
    workspace: Workspace, treatment: NamedTreatment, monkeypatch: pytest.MonkeyPatch
) -> None:
    def refuse(*_: object, **__: object) -> None:
        raise UnreadablePhoto("It is no photo.")

    weighing = Weighing(workspace)
    photo_id = weighing.photo_of("shelf/cup.png", DATA, treatment)
    with monkeypatch.context() as patched:
        patched.setattr(workspace.adding, "add_photo", refuse)
        with pytest.raises(UnreadablePhoto):
            weighing.photo_of("sill/cup.png", DATA, treatment)
    weighing.weigh(photo_id, DATA, treatment)
    weighing.let_go(photo_id, ())
    assert not has_original(workspace)
