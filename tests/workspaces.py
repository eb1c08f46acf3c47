"""What tests do with a workspace."""

from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.framing.place import Place
from lean_parcel.work.photos.viewing import PhotoView
from lean_parcel.work.workspace import Workspace

AIM = Aim(place=Place(css_width_px=96), limit_bytes=1_500)


def settled(workspace: Workspace, photo_id: int) -> PhotoView:
    """The photo once its search has ended."""
    seen = -1
    while (view := workspace.viewing.photo(photo_id)).search.state == "running":
        news = workspace.changes.wait(seen, 30)
        assert not news.is_empty, "the search does not go on"
        seen = news.version
    return view
