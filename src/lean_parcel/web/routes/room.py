"""Routes of the room that the workspace takes."""

from lean_parcel.web.api import JsonRoutes
from lean_parcel.web.requests import ReclaimRequest
from lean_parcel.web.responses.room import RoomResponse
from lean_parcel.web.served import workspace

routes = JsonRoutes("room", "/api/room")


@routes.route("get", "")
def show_room() -> RoomResponse:
    """What the workspace takes, and what could be given back."""
    return RoomResponse.of(workspace().room_keeping.room())


@routes.route("post", "/reclaim")
def reclaim_room(wanted: ReclaimRequest) -> None:
    """Gives back what can be made again, and photos that were removed."""
    workspace().room_keeping.reclaim(forgets_removed=wanted.forgets_removed)
