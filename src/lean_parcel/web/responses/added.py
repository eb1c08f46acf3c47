"""What was added."""

from pydantic import BaseModel


class AddedResponse(BaseModel):
    """The id of what was stored."""

    id: int
