"""What tests do with a workspace."""

from threading import Event

from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.settings import EncoderSettings
from lean_parcel.core.framing.place import Place
from lean_parcel.store import searches
from lean_parcel.store.encodes import Encode
from lean_parcel.store.searches import OWN
from lean_parcel.work.photos.tuning import Wanted
from lean_parcel.work.photos.viewing import PhotoView
from lean_parcel.work.queue.work_queue import Job, Priority
from lean_parcel.work.workspace import Workspace

AIM = Aim(place=Place(size="96"), limit_bytes=1_500)


def settled(workspace: Workspace, photo_id: int) -> PhotoView:
    """The photo once its search has ended. To read all that is shown of it takes long: that is
    done once."""
    seen = -1
    workspace.context.queue.prefer(photo_id)
    while _is_running(workspace, photo_id):
        news = workspace.changes.wait(seen, 30)
        assert not news.is_empty, "the search does not go on"
        seen = news.version
    return workspace.viewing.photo(photo_id)


def all_settled(workspace: Workspace) -> None:
    """Once no search runs any more, of variants neither."""
    seen = -1
    while _are_running(workspace):
        news = workspace.changes.wait(seen, 30)
        assert not news.is_empty, "a search does not go on"
        seen = news.version


def _are_running(workspace: Workspace) -> bool:
    with workspace.context.connection() as connection:
        return bool(searches.running(connection))


def _is_running(workspace: Workspace, photo_id: int) -> bool:
    with workspace.context.connection() as connection:
        return searches.of_photo(connection, photo_id).state == "running"


class _Arrived(Job):
    """Wants nothing, and says when it was asked."""

    priority = Priority.ANSWER

    def __init__(self) -> None:
        self.was_asked = Event()

    def next_task(self) -> None:
        self.is_ended = True
        self.was_asked.set()

    def record(self) -> None:
        """Stores nothing."""

    def fail(self, error: Exception) -> None:
        raise error


def catch_up(workspace: Workspace) -> None:
    """Waits until the queue has heard all that it was told before; it needs a free worker."""
    last = _Arrived()
    workspace.context.queue.add(last)
    assert last.was_asked.wait(30)


def made_by_hand(
    workspace: Workspace,
    photo_id: int,
    settings: EncoderSettings,
    width_px: int | None = None,
    density: float = OWN,
) -> Encode:
    """An encode that a person asks for."""
    wanted = Wanted(photo_id=photo_id, settings=settings, width_px=width_px, density=density)
    return workspace.tuning.encode(wanted).encode
