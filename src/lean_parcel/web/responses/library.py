"""The picture library."""

from pydantic import BaseModel

from lean_parcel.demo import LibraryPhoto


class LibraryResponse(BaseModel):
    """What the picture library offers."""

    name: str
    photos: list[LibraryPhoto]
