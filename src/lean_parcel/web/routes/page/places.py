"""Routes of the places that photos stand in."""

from lean_parcel.core.page import choices
from lean_parcel.web.api import JsonRoutes
from lean_parcel.web.requests import PlaceRequest
from lean_parcel.web.responses.outcomes import AddedResponse
from lean_parcel.web.responses.page.places import PlacesResponse
from lean_parcel.web.served import workspace

routes = JsonRoutes("places", "/api/places")


@routes.route("get", "")
def list_places() -> PlacesResponse:
    """Places to choose from."""
    return PlacesResponse(places=list(workspace().page_viewing.layout().places))


@routes.route("post", "")
def add_place(place: PlaceRequest) -> AddedResponse:
    """Adds a place."""
    layout = workspace().page_editing.do(choices.add_place(place.name, place.place))
    return AddedResponse(id=layout.places[-1].id)


@routes.route("put", "/<int:place_id>")
def change_place(place_id: int, place: PlaceRequest) -> None:
    """Gives a place another name and other numbers."""
    workspace().page_editing.do(choices.change_place(place_id, place.name, place.place))


@routes.route("delete", "/<int:place_id>")
def remove_place(place_id: int) -> None:
    """Removes a place."""
    workspace().page_editing.do(choices.remove_place(place_id))
