"""What changed."""

from pydantic import BaseModel


class ChangesResponse(BaseModel):
    """Photos that changed, and whether the pages did."""

    photo_ids: list[int]
    has_pages: bool
