"""Errors as answers: one table of statuses, one shape, no library's words."""

import logging

from flask import Flask, Response, current_app, jsonify, request
from pydantic import ValidationError
from werkzeug.exceptions import HTTPException, RequestEntityTooLarge, TooManyRequests

from lean_parcel.core.errors import (
    BytesChanged,
    LeanParcelError,
    NotFoundError,
    PhotoError,
    StorageError,
    Superseded,
    TaskError,
    TooManyBytes,
    UsageError,
)
from lean_parcel.web.responses.outcomes import ErrorResponse
from lean_parcel.work.queue import trace

_log = logging.getLogger(__name__)

STATUSES: dict[type[LeanParcelError], int] = {
    UsageError: 400,
    NotFoundError: 404,
    Superseded: 409,
    StorageError: 503,
    BytesChanged: 503,
    TooManyBytes: 413,
    PhotoError: 422,
    TaskError: 422,
}


def register(app: Flask) -> None:
    """Handlers for what routes raise."""
    app.register_error_handler(LeanParcelError, _expected)
    app.register_error_handler(ValidationError, _invalid)
    app.register_error_handler(HTTPException, _http)
    app.register_error_handler(Exception, _unexpected)


def _answer(status: int, code: str, message: str) -> tuple[Response, int]:
    value = ErrorResponse(code=code, message=message, request_id=trace.request_id())
    return jsonify(value.model_dump()), status


def _expected(error: LeanParcelError) -> tuple[Response, int]:
    if error.detail:
        _log.info("%s: %s", error.code, error.detail)
    status = next(status for kind, status in STATUSES.items() if isinstance(error, kind))
    return _answer(status, error.code, error.message)


def _invalid(error: ValidationError) -> tuple[Response, int]:
    first = error.errors(include_url=False, include_input=False)[0]
    where = ".".join(str(part) for part in first["loc"]) or "body"
    return _answer(400, "invalid_request", f"“{where}” is not valid: {first['msg']}.")


def _http(error: HTTPException) -> tuple[Response, int]:
    if isinstance(error, RequestEntityTooLarge):
        if (request.content_length or 0) > current_app.config["MAX_CONTENT_LENGTH"]:
            message = "This file has more bytes than a photo may have."
            return _answer(413, TooManyBytes.code, message)
        return _answer(413, "request_too_large", "This is more than a request may say.")
    code = (error.name or "error").lower().replace(" ", "_")
    answer, status = _answer(error.code or 500, code, error.description or "This cannot be done.")
    if isinstance(error, TooManyRequests):
        answer.headers["Retry-After"] = str(error.retry_after)
    return answer, status


def _unexpected(error: Exception) -> tuple[Response, int]:
    _log.error("request %s failed", trace.request_id(), exc_info=error)
    message = "Something went wrong here. Look whether it was done before you try it again."
    return _answer(500, "internal", message)
