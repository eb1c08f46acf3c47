"""The OpenAPI document of the JSON routes.

`python -m lean_parcel.web.openapi` prints it; `make types` turns it into TypeScript, and
`make check` fails where what is committed has drifted.
"""

import json
import re
from typing import Any

from pydantic import BaseModel
from pydantic.json_schema import JsonSchemaMode, models_json_schema

from lean_parcel.web.api import Operation
from lean_parcel.web.bounds import add_bounds
from lean_parcel.web.responses.changes import ChangesResponse
from lean_parcel.web.responses.outcomes import ErrorResponse
from lean_parcel.web.routes import JSON_ROUTES

_Schema = tuple[type[BaseModel], JsonSchemaMode]
_PARAMETER = re.compile(r"<int:(\w+)>")


def document() -> dict[str, Any]:
    """The OpenAPI 3.1 document."""
    operations = [operation for routes in JSON_ROUTES for operation in routes.operations]
    taken = [each.takes for each in operations if each.takes]
    given = [each.gives for each in operations if each.gives] + [ChangesResponse, ErrorResponse]
    taken_schemas: list[_Schema] = [(model, "validation") for model in taken]
    given_schemas: list[_Schema] = [(model, "serialization") for model in given]
    _, definitions = models_json_schema(
        taken_schemas + given_schemas, ref_template="#/components/schemas/{model}"
    )
    add_bounds(definitions["$defs"])
    paths: dict[str, dict[str, Any]] = {}
    for operation in operations:
        path = _PARAMETER.sub(r"{\1}", operation.rule)
        paths.setdefault(path, {})[operation.method] = _described(operation)
    return {
        "openapi": "3.1.0",
        "info": {"title": "Lean Parcel", "version": "1"},
        "paths": paths,
        "components": {"schemas": definitions["$defs"]},
    }


def _described(operation: Operation) -> dict[str, Any]:
    done: dict[str, Any] = {"description": "Done"}
    if operation.gives:
        done["content"] = _json(operation.gives)
    values: dict[str, Any] = {
        "summary": operation.summary,
        "responses": {
            str(operation.status): done,
            "default": {"description": "Refused", "content": _json(ErrorResponse)},
        },
    }
    names = _PARAMETER.findall(operation.rule)
    if names:
        values["parameters"] = [
            {"name": name, "in": "path", "required": True, "schema": {"type": "integer"}}
            for name in names
        ]
    if operation.multipart:
        content = {"multipart/form-data": {"schema": operation.multipart}}
        values["requestBody"] = {"required": True, "content": content}
    if operation.takes:
        values["requestBody"] = {"required": True, "content": _json(operation.takes)}
    return values


def _json(model: type[BaseModel]) -> dict[str, Any]:
    return {"application/json": {"schema": {"$ref": f"#/components/schemas/{model.__name__}"}}}


if __name__ == "__main__":
    print(json.dumps(document(), indent=2))
