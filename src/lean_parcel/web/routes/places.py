"""Routes of the places that photos stand in."""

from lean_parcel.web.api import JsonRoutes
from lean_parcel.web.requests import PlaceRequest
from lean_parcel.web.responses.outcomes import AddedResponse
from lean_parcel.web.responses.places import PlacesResponse
from lean_parcel.web.served import workspace

routes = JsonRoutes("places", "/api/places")


@routes.route("get", "")
def list_places() -> PlacesResponse:
    """Places to choose from."""
    return PlacesResponse(places=workspace().places.all())


@routes.route("post", "")
def add_place(place: PlaceRequest) -> AddedResponse:
    """Adds a place."""
    return AddedResponse(id=workspace().places.add(place.name, place.place))


@routes.route("put", "/<int:place_id>")
def change_place(place_id: int, place: PlaceRequest) -> None:
    """Gives a place another name and other numbers."""
    workspace().places.change(place_id, place.name, place.place)


@routes.route("delete", "/<int:place_id>")
def remove_place(place_id: int) -> None:
    """Removes a place."""
    workspace().places.remove(place_id)
