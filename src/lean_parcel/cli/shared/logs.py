"""The log of the server, on standard error."""

import logging
from typing import Literal

from pythonjsonlogger.json import JsonFormatter

from lean_parcel.work.queue.trace import RequestIds

LogFormat = Literal["text", "json"]
_FIELDS = "%(levelname)s %(name)s %(message)s %(request_id)s"


def begin_log(log_format: LogFormat) -> None:
    """Logs what goes wrong in words, or as JSON, one object a line, with each request and task."""
    handler = logging.StreamHandler()
    handler.addFilter(RequestIds())
    if log_format == "json":
        renamed = {"levelname": "level", "name": "logger"}
        handler.setFormatter(JsonFormatter(_FIELDS, timestamp=True, rename_fields=renamed))
    else:
        handler.setFormatter(logging.Formatter("%(levelname)s %(name)s: %(message)s"))
        logging.getLogger("lean_parcel.requests").setLevel(logging.WARNING)
        logging.getLogger("lean_parcel.tasks").setLevel(logging.WARNING)
    logging.basicConfig(level=logging.INFO, handlers=[handler])
    logging.getLogger("pyvips").setLevel(logging.WARNING)
