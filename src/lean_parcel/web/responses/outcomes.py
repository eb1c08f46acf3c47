"""What an act answers: the id of what was added, or why it was refused."""

from pydantic import BaseModel


class AddedResponse(BaseModel):
    """The id of what was stored."""

    id: int


class ErrorResponse(BaseModel):
    """A stable code, a sentence, and the request's id for the log."""

    code: str
    message: str
    request_id: str


class CountResponse(BaseModel):
    """How many there were."""

    count: int
