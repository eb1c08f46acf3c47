"""What went wrong."""

from pydantic import BaseModel


class ErrorResponse(BaseModel):
    """A stable code, a sentence, and the request's id for the log."""

    code: str
    message: str
    request_id: str
