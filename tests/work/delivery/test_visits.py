import pytest

from lean_parcel.core.errors import NotFoundError, UsageError
from lean_parcel.core.formats import FORMATS
from lean_parcel.work.delivery.visits import Chooses, accepted_by
from lean_parcel.work.workspace import Workspace
from tests.work.delivery.steps import taken


@pytest.mark.parametrize("chooses", ["picture", "accept"])
@pytest.mark.parametrize(
    ("window_css_px", "density", "path"),
    [(400, 1, "cup-48.webp"), (400, 2, "cup-96.webp"), (24, 2, "cup-48.webp")],
)
def test_a_plan_says_what_is_sent(
    workspace: Workspace, chooses: Chooses, window_css_px: int, density: float, path: str
) -> None:
    taken(workspace, name="cup.png")
    visit = workspace.visits.begin(1, window_css_px=window_css_px, density=density, chooses=chooses)
    assert [file.path for _, file in visit.plan()] == [path]


def test_what_is_sent_is_counted_as_it_is_handed_over(workspace: Workspace) -> None:
    taken(workspace, name="cup.png")
    visit = workspace.visits.begin(1, window_css_px=400, density=1)
    data, media_type = workspace.visits.send(visit, "cup-48.webp", FORMATS)
    assert media_type == "image/webp"
    assert data[8:12] == b"WEBP"
    assert [(each.file.path, each.size_bytes) for each in visit.sent] == [
        ("cup-48.webp", len(data))
    ]
    with pytest.raises(NotFoundError):
        workspace.visits.send(visit, "../w.sqlite3", FORMATS)


def test_a_server_chooses_by_what_is_accepted(workspace: Workspace) -> None:
    photo_id = taken(workspace, name="cup.png")
    visit = workspace.visits.begin(1, window_css_px=400, density=1, chooses="accept")
    (photo,) = visit.photos
    assert {file.path for file in photo.shown.files} == {f"any/{photo_id}/1", f"any/{photo_id}/2"}
    for header, name in (
        ("image/avif,image/webp,*/*;q=0.8", "cup-48.webp"),
        ("image/png,*/*", "cup-48.jpg"),
        ("", "cup-48.jpg"),
    ):
        workspace.visits.send(visit, f"any/{photo_id}/1", accepted_by(header))
        assert visit.sent[-1].file.path == name


def test_visits_are_known_by_their_secret_and_the_oldest_are_forgotten(
    workspace: Workspace,
) -> None:
    with pytest.raises(UsageError) as caught:
        workspace.visits.begin(1, window_css_px=400, density=1)
    assert caught.value.code == "nothing_taken"
    taken(workspace, name="cup.png")
    first = workspace.visits.begin(1, window_css_px=400, density=1)
    assert workspace.visits.by_secret(first.secret) is workspace.visits.by_id(first.id)
    assert len(first.secret) >= 32
    for _ in range(64):
        workspace.visits.begin(1, window_css_px=400, density=1)
    with pytest.raises(NotFoundError):
        workspace.visits.by_secret(first.secret)
    with pytest.raises(NotFoundError):
        workspace.visits.by_id(first.id)
