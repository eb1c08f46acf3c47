"""What a log line belongs to: the request that is being answered, and the task that it led to."""

import logging
import secrets
from contextvars import ContextVar

_request: ContextVar[str] = ContextVar("request", default="")


def begin_request() -> None:
    """Gives what the current thread does from now on an id of its own."""
    _request.set(secrets.token_hex(6))


def request_id() -> str:
    """The id of the request that the current thread answers; empty where it answers none."""
    return _request.get()


class RequestIds(logging.Filter):
    """Adds the id of its request to every line of a log."""

    def filter(self, record: logging.LogRecord) -> bool:
        if not hasattr(record, "request_id"):
            record.request_id = _request.get()
        return True
