"""JSON routes that describe themselves.

What a route takes and gives is read from its view's annotations: a pydantic model among the
parameters is the JSON body, the returned model the answer. So the OpenAPI document cannot differ
from what is served.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import wraps
from typing import Any, get_type_hints

from flask import Blueprint, Response, request
from pydantic import BaseModel
from werkzeug.routing import IntegerConverter, Map

from lean_parcel.web.responses.outcomes import AddedResponse

ViewFunction = Callable[..., BaseModel | None]
#: What SQLite can count to.
MAX_ID = 2**63 - 1
#: More than most requests have to say.
_MAX_JSON_BYTES = 50_000


class IdConverter(IntegerConverter):
    """Ids in addresses."""

    def __init__(self, url_map: Map) -> None:
        super().__init__(url_map, max=MAX_ID)


@dataclass(frozen=True, slots=True, kw_only=True)
class Operation:
    """One JSON route: its method, its rule as Flask writes it, one line, and what it takes and
    gives. `multipart` is the schema of a form that is sent instead of a JSON body."""

    method: str
    rule: str
    summary: str
    takes: type[BaseModel] | None
    gives: type[BaseModel] | None
    multipart: dict[str, Any] | None

    @property
    def status(self) -> int:
        """The status of success: 201 for what was added, 204 where nothing is given."""
        if self.gives is None:
            return 204
        return 201 if issubclass(self.gives, AddedResponse) else 200


class JsonRoutes:
    """A blueprint of JSON routes, and the operations that they are."""

    def __init__(self, name: str, url_prefix: str) -> None:
        self.blueprint = Blueprint(name, __name__, url_prefix=url_prefix)
        self.operations: list[Operation] = []
        self._url_prefix = url_prefix

    def route(
        self,
        method: str,
        rule: str,
        *,
        multipart: dict[str, Any] | None = None,
        most_bytes: int = _MAX_JSON_BYTES,
    ) -> Callable[[ViewFunction], ViewFunction]:
        """Registers a view that takes at most so many bytes of JSON. Its docstring's first line is
        the summary."""

        def register(view: ViewFunction) -> ViewFunction:
            hints = get_type_hints(view)
            given = hints.pop("return")
            bodies = {name: hint for name, hint in hints.items() if issubclass(hint, BaseModel)}
            operation = Operation(
                method=method,
                rule=self._url_prefix + rule,
                summary=(view.__doc__ or "").partition(".")[0],
                takes=next(iter(bodies.values()), None),
                gives=given if isinstance(given, type) and issubclass(given, BaseModel) else None,
                multipart=multipart,
            )
            self.operations.append(operation)
            self.blueprint.add_url_rule(
                rule,
                view_func=_json_view(view, bodies, operation.status, most_bytes),
                methods=[method],
            )
            return view

        return register


def _json_view(
    view: ViewFunction, bodies: dict[str, type[BaseModel]], status: int, most_bytes: int
) -> Callable[..., tuple[Response | str, int]]:
    """A view as Flask wants it: the body parsed, the answer as JSON."""

    @wraps(view)
    def answered(**arguments: Any) -> tuple[Response | str, int]:
        for name, model in bodies.items():
            request.max_content_length = most_bytes
            arguments[name] = model.model_validate_json(request.get_data())
        answer = view(**arguments)
        if answer is None:
            return "", status
        return Response(answer.model_dump_json(), mimetype="application/json"), status

    return answered
