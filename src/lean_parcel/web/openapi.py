"""The OpenAPI document, made from the wire types and the routes that speak them.

`python -m lean_parcel.web.openapi` prints it; `make types` turns it into TypeScript, and
`make test` fails where what is committed has drifted.
"""

import json
from dataclasses import dataclass
from typing import Any

from pydantic.json_schema import models_json_schema

from lean_parcel.web import schema

_UPLOAD = {
    "multipart/form-data": {
        "schema": {
            "type": "object",
            "required": ["photo"],
            "properties": {"photo": {"type": "string", "format": "binary"}},
        }
    }
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Operation:
    """A route that takes or gives JSON."""

    method: str
    path: str
    summary: str
    body: dict[str, Any] | None = None
    status: int = 200
    gives: type | None = None


def _json(model: type) -> dict[str, Any]:
    return {"application/json": {"schema": {"$ref": f"#/components/schemas/{model.__name__}"}}}


OPERATIONS = [
    Operation(method="get", path="/api/photos", summary="All photos", gives=schema.PhotosValue),
    Operation(
        method="post",
        path="/api/photos",
        summary="Add a photo",
        body=_UPLOAD,
        status=201,
        gives=schema.AddedValue,
    ),
    Operation(
        method="get",
        path="/api/photos/{photo_id}",
        summary="A photo with its search, encodes and candidates",
        gives=schema.WeighingValue,
    ),
    Operation(
        method="patch",
        path="/api/photos/{photo_id}/aim",
        summary="Change the aim",
        body=_json(schema.AimChangeValue),
        status=204,
    ),
    Operation(
        method="put",
        path="/api/photos/{photo_id}/pick",
        summary="Take an encode, or take the pick back",
        body=_json(schema.PickValue),
        status=204,
    ),
    Operation(
        method="delete",
        path="/api/photos/{photo_id}/search",
        summary="End the search where it stands",
        status=204,
    ),
    Operation(
        method="get", path="/api/samples", summary="The demo photos", gives=schema.SamplesValue
    ),
    Operation(
        method="post",
        path="/api/samples",
        summary="Add a demo photo",
        body=_json(schema.SampleNameValue),
        status=201,
        gives=schema.AddedValue,
    ),
]


def document() -> dict[str, Any]:
    """The OpenAPI 3.1 document."""
    _, definitions = models_json_schema(
        [(model, "validation") for model in schema.REQUESTS]
        + [(model, "serialization") for model in schema.ANSWERS],
        ref_template="#/components/schemas/{model}",
    )
    paths: dict[str, dict[str, Any]] = {}
    for operation in OPERATIONS:
        paths.setdefault(operation.path, {})[operation.method] = _operation(operation)
    return {
        "openapi": "3.1.0",
        "info": {"title": "Lean Parcel", "version": "1"},
        "paths": paths,
        "components": {"schemas": definitions["$defs"]},
    }


def _operation(operation: Operation) -> dict[str, Any]:
    done: dict[str, Any] = {"description": "Done"}
    if operation.gives:
        done["content"] = _json(operation.gives)
    values: dict[str, Any] = {
        "summary": operation.summary,
        "responses": {
            str(operation.status): done,
            "default": {"description": "Refused", "content": _json(schema.ErrorValue)},
        },
    }
    if "{photo_id}" in operation.path:
        values["parameters"] = [
            {"name": "photo_id", "in": "path", "required": True, "schema": {"type": "integer"}}
        ]
    if operation.body:
        values["requestBody"] = {"required": True, "content": operation.body}
    return values


if __name__ == "__main__":
    print(json.dumps(document(), indent=2))
