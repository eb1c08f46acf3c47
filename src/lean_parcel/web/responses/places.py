"""Places."""

from pydantic import BaseModel

from lean_parcel.store.places import NamedPlace


class PlacesResponse(BaseModel):
    """Places to choose from."""

    places: list[NamedPlace]
