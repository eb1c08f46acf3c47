"""What nobody means to send: hostile names, bodies, numbers and addresses."""

import json
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from flask.testing import FlaskClient

from lean_parcel.web.openapi import document
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.web.steps import photos, upload, weighed
from tests.workspaces import settled


@pytest.mark.parametrize(
    ("name", "kept"),
    [
        ("../../etc/passwd.png", "passwd.png"),
        ("<img src=x onerror=alert(1)>.png", "<img src=x onerror=alert(1)>.png"),
        ("   .png", ".png"),
        ("a\x1b[2Jb\u202egnp.png", "a [2Jb gnp.png"),
        ("x" * 500 + ".png", "x" * 116 + ".png"),
        ("", "photo"),
    ],
)
def test_names_are_only_names(
    client: FlaskClient, workspace: Workspace, name: str, kept: str
) -> None:
    answer = upload(client, file(photo()), name)
    assert answer.status_code == 201, answer.text
    settled(workspace, answer.json["id"])
    assert photos(client)[0]["name"] == kept
    best = client.get(f"/api/photos/{answer.json['id']}/at/0").json["candidate_ids"][0]
    saved = client.get(f"/api/photos/{answer.json['id']}/encodes/{best}/download")
    disposition = saved.headers["Content-Disposition"]
    assert "/" not in disposition
    assert ".." not in disposition
    assert "<" not in disposition


@pytest.mark.parametrize("page_id", ["abc", "undefined", "1.5", "-1", "9" * 5_000, "²"])
def test_a_page_that_is_no_number_is_refused(lasting_client: FlaskClient, page_id: str) -> None:
    answer = upload(lasting_client, file(photo()), page_id=page_id)
    assert (answer.status_code, answer.json["code"]) == (400, "invalid_request")
    assert photos(lasting_client) == []


@pytest.mark.parametrize(
    ("method", "path"),
    [
        ("patch", "/api/photos/{id}/aim"),
        ("patch", "/api/photos/{id}/framing"),
        ("patch", "/api/photos/{id}"),
        ("put", "/api/photos/{id}/pick"),
        ("put", "/api/photos/{id}/journal/current"),
        ("post", "/api/pages"),
        ("patch", "/api/pages/1"),
        ("post", "/api/places"),
        ("post", "/api/library"),
    ],
)
@pytest.mark.parametrize(
    "body",
    [b"", b"{", b"[]", b"null", b'"words"', b"\xff\xfe", b'{"a":' * 2_000, b"9" * 5_000],
)
def test_bodies_that_are_no_request_are_refused(
    lasting_client: FlaskClient, method: str, path: str, body: bytes
) -> None:
    before = lasting_client.get("/api/pages").json
    address = path.replace("{id}", "1")
    answer = lasting_client.open(address, method=method.upper(), data=body)
    assert (answer.status_code, answer.json["code"]) == (400, "invalid_request")
    assert lasting_client.get("/api/pages").json == before


@pytest.mark.parametrize(
    "change",
    [
        {"size": "9" * 30},
        {"size": 1.5},
        {"size": None},
        {"size": "9" * 10**4},
        {"size": "<b>9</b>"},
        {"density": float("nan")},
        {"density": float("inf")},
        {"density": -1},
        {"limit_bytes": 10**40},
        {"limit_bytes": -5},
        {"formats": []},
        {"formats": ["jpeg"] * 3},
    ],
)
def test_numbers_that_cannot_be_are_refused(
    client: FlaskClient, workspace: Workspace, change: dict[str, Any]
) -> None:
    before = weighed(client, workspace, file(photo()))
    answer = client.patch(f"/api/photos/{before['id']}/aim", data=json.dumps(change))
    assert answer.status_code == 400, answer.text
    assert client.get(f"/api/photos/{before['id']}/at/0").json == before


def test_a_place_without_height_is_refused(client: FlaskClient) -> None:
    place = {"size": "300 x 0", "density": 1}
    answer = client.post("/api/places", json={"name": "Flat", "place": place})
    assert (answer.status_code, answer.json["code"]) == (400, "invalid_dimensions")


def test_a_position_past_every_end_is_the_end(client: FlaskClient) -> None:
    first, last = (upload(client, file(photo())).json["id"] for _ in range(2))
    move = {"page_id": 1, "position": 2**63 - 1}
    assert client.patch(f"/api/photos/{first}", json=move).status_code == 204
    assert [each["id"] for each in photos(client)] == [last, first]
    for position in (2**63, 10**40, -1):
        answer = client.patch(f"/api/photos/{first}", json={"page_id": 1, "position": position})
        assert (answer.status_code, answer.json["code"]) == (400, "invalid_request")


@pytest.mark.parametrize(
    "path",
    [
        "/api/photos/99999999999999999999/at/0",
        "/api/photos/-1/at/0",
        "/api/photos/1/at/-100",
        "/api/encodes/99999999999999999999/file",
        "/assets/../app.py",
        "/assets/%2e%2e/app.py",
        "/assets/..%2f..%2fapp.py",
        "/api/library/..%2fmanifest.json/thumbnail",
        "/pages/first",
    ],
)
def test_addresses_of_nothing_are_not_found(lasting_client: FlaskClient, path: str) -> None:
    assert lasting_client.get(path).status_code == 404


@pytest.fixture(scope="module")
def schemas() -> dict[str, Any]:
    """What our OpenAPI document says of requests and answers."""
    described: dict[str, Any] = document()["components"]["schemas"]
    return described


def _bounded(schema: dict[str, Any]) -> Iterator[tuple[str, dict[str, float]]]:
    """The fields of a schema that have bounds, and these."""
    for name, field in schema["properties"].items():
        for choice in field.get("anyOf", [field]):
            if "maximum" in choice:
                yield name, choice


def test_the_document_says_these_bounds(schemas: dict[str, Any]) -> None:
    said = {
        (schema, name): {key: value for key, value in bounds.items() if "imum" in key.lower()}
        for schema in ("Place", "Focus", "Sharpen", "FramingChangeRequest")
        for name, bounds in _bounded(schemas[schema])
    }
    assert said == {
        ("Place", "density"): {"minimum": 0.5, "maximum": 4},
        ("Focus", "x"): {"minimum": 0, "maximum": 1},
        ("Focus", "y"): {"minimum": 0, "maximum": 1},
        ("Sharpen", "amount_percent"): {"minimum": 0, "maximum": 300},
        ("Sharpen", "radius_px"): {"minimum": 0.3, "maximum": 5},
        ("Sharpen", "threshold_codes"): {"minimum": 0, "maximum": 50},
        ("FramingChangeRequest", "straighten_deg"): {"minimum": -15, "maximum": 15},
    }


@pytest.mark.parametrize(
    ("schema", "path", "wrap"),
    [
        ("Place", "/api/places", lambda value: {"name": "x", "place": value}),
        ("Focus", "/framing", lambda value: {"focus": value}),
        ("Sharpen", "/framing", lambda value: {"sharpen": value}),
        ("FramingChangeRequest", "/framing", lambda value: value),
        ("AimChangeRequest", "/aim", lambda value: value),
    ],
)
def test_documented_bounds_are_those_that_are_enforced(
    client: FlaskClient,
    schemas: dict[str, Any],
    schema: str,
    path: str,
    wrap: Callable[[dict[str, Any]], Any],
) -> None:
    photo_id = upload(client, file(photo())).json["id"]
    if path != "/api/places":
        path = f"/api/photos/{photo_id}{path}"
    send = client.post if path == "/api/places" else client.patch
    required = {"size": "300"} if schema == "Place" else {}
    fields = list(_bounded(schemas[schema]))
    assert fields
    for name, bounds in fields:
        least = bounds.get("minimum", bounds.get("exclusiveMinimum", 0) + 0.1)
        for value, is_allowed in (
            (least, True),
            (bounds["maximum"], True),
            (bounds.get("minimum", 0.1) - 1, False),
            (bounds["maximum"] + 1, False),
        ):
            body = wrap({**required, name: int(value) if value == int(value) else value})
            assert (send(path, json=body).status_code < 400) == is_allowed, (name, value)
