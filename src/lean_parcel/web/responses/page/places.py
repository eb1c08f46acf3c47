"""Places."""

from pydantic import BaseModel

from lean_parcel.core.page.layout import NamedPlace


class PlacesResponse(BaseModel):
    """Places to choose from."""

    places: list[NamedPlace]
