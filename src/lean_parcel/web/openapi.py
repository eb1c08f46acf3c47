"""The OpenAPI document, made from the wire types and the routes that speak them.

`python -m lean_parcel.web.openapi` prints it; `make types` turns it into TypeScript, and
`make test` fails where what is committed has drifted.
"""

import json
import re
from dataclasses import dataclass
from typing import Any

from pydantic.json_schema import models_json_schema

from lean_parcel.web import answers, requests

_UPLOAD = {
    "multipart/form-data": {
        "schema": {
            "type": "object",
            "required": ["photo"],
            "properties": {
                "photo": {"type": "string", "format": "binary"},
                "page_id": {"type": "integer"},
            },
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


def _operation_of(
    method: str,
    path: str,
    summary: str,
    *,
    takes: type | None = None,
    gives: type | None = None,
) -> Operation:
    """A JSON operation; what is added is answered with 201, what gives nothing with 204."""
    return Operation(
        method=method,
        path=path,
        summary=summary,
        body=_json(takes) if takes else None,
        status=201 if gives is answers.AddedValue else 200 if gives else 204,
        gives=gives,
    )


_PHOTO = "/api/photos/{photo_id}"
OPERATIONS = [
    Operation(
        method="post",
        path="/api/photos",
        summary="Add a photo",
        body=_UPLOAD,
        status=201,
        gives=answers.AddedValue,
    ),
    _operation_of("get", _PHOTO, "A photo and all of it", gives=answers.WeighingValue),
    _operation_of("patch", _PHOTO, "Name or move a photo", takes=requests.PhotoChangeValue),
    _operation_of("delete", _PHOTO, "Take a photo off its page"),
    _operation_of("patch", f"{_PHOTO}/aim", "Change the aim", takes=requests.AimChangeValue),
    _operation_of(
        "patch", f"{_PHOTO}/framing", "Change the framing", takes=requests.FramingChangeValue
    ),
    _operation_of("delete", f"{_PHOTO}/framing", "Take back turns, crop and straightening"),
    _operation_of("get", f"{_PHOTO}/findings", "What came in", gives=answers.FindingsValue),
    _operation_of("get", f"{_PHOTO}/margins", "Empty margins", gives=answers.MarginsValue),
    _operation_of("put", f"{_PHOTO}/pick", "Take an encode, or none", takes=requests.PickValue),
    _operation_of(
        "post",
        f"{_PHOTO}/encodes",
        "Make an encode by hand",
        takes=requests.EncodeWishValue,
        gives=answers.MadeValue,
    ),
    _operation_of("get", "/api/knobs", "What can be turned", gives=answers.KnobsValue),
    _operation_of("delete", f"{_PHOTO}/search", "End the search where it stands"),
    _operation_of("get", f"{_PHOTO}/journal", "Every step", gives=answers.JournalValue),
    _operation_of("post", f"{_PHOTO}/journal/undo", "Take a step back"),
    _operation_of("post", f"{_PHOTO}/journal/redo", "Take a step again"),
    _operation_of("put", f"{_PHOTO}/journal/current", "Go to an entry", takes=requests.GoBackValue),
    _operation_of(
        "get",
        f"{_PHOTO}/journal/{{first_id}}/{{second_id}}",
        "Compare two entries",
        gives=answers.ComparisonValue,
    ),
    _operation_of("get", "/api/pages", "All pages", gives=answers.PagesValue),
    _operation_of(
        "post", "/api/pages", "Add a page", takes=requests.NewPageValue, gives=answers.AddedValue
    ),
    _operation_of(
        "patch", "/api/pages/{page_id}", "Name or budget a page", takes=requests.PageChangeValue
    ),
    _operation_of("delete", "/api/pages/{page_id}", "Remove a page"),
    _operation_of("post", "/api/pages/undo", "Take an act on the pages back"),
    _operation_of("post", "/api/pages/redo", "Take an act on the pages again"),
    _operation_of("get", "/api/places", "Places", gives=answers.PlacesValue),
    _operation_of(
        "post", "/api/places", "Add a place", takes=requests.PlaceValue, gives=answers.AddedValue
    ),
    _operation_of("put", "/api/places/{place_id}", "Change a place", takes=requests.PlaceValue),
    _operation_of("delete", "/api/places/{place_id}", "Remove a place"),
    _operation_of("get", "/api/library", "The picture library", gives=answers.LibraryValue),
    _operation_of(
        "post",
        "/api/library",
        "Add a photo of the library",
        takes=requests.LibraryChoiceValue,
        gives=answers.AddedValue,
    ),
]


def document() -> dict[str, Any]:
    """The OpenAPI 3.1 document."""
    _, definitions = models_json_schema(
        [(model, "validation") for model in requests.REQUESTS]
        + [(model, "serialization") for model in answers.ANSWERS],
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
            "default": {"description": "Refused", "content": _json(answers.ErrorValue)},
        },
    }
    names = re.findall(r"{(\w+)}", operation.path)
    if names:
        values["parameters"] = [
            {"name": name, "in": "path", "required": True, "schema": {"type": "integer"}}
            for name in names
        ]
    if operation.body:
        values["requestBody"] = {"required": True, "content": operation.body}
    return values


if __name__ == "__main__":
    print(json.dumps(document(), indent=2))
