"""Who is answered: the page of the server itself, under the names it was started for."""

import json

import pytest
from flask.testing import FlaskClient

from lean_parcel.web.app import create_app
from lean_parcel.web.strangers import address_of, names_of
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.web.steps import LIMITS, photos, upload
from tests.workspaces import settled


@pytest.fixture(scope="module")
def stranger(lasting_workspace: Workspace) -> FlaskClient:
    """A client that says nothing of where its requests come from."""
    return create_app(lasting_workspace, LIMITS, host_names=names_of("127.0.0.1")).test_client()


@pytest.mark.parametrize("path", ["/", "/api/pages", "/api/changes", "/api/photos/1/thumbnail"])
@pytest.mark.parametrize(
    "host", ["evil.example", "evil.example:80", "127.0.0.1.evil.example", "[::1", "]"]
)
def test_a_page_that_rebinds_its_name_is_not_answered(
    stranger: FlaskClient, path: str, host: str
) -> None:
    headers = {"Host": host, "Origin": f"http://{host}", "Sec-Fetch-Site": "same-origin"}
    assert stranger.get(path, headers=headers).status_code == 400


@pytest.mark.parametrize("host", ["127.0.0.1:8470", "localhost:8470", "localhost", "[::1]:8470"])
def test_its_own_names_are_answered(stranger: FlaskClient, host: str) -> None:
    assert stranger.get("/api/pages", headers={"Host": host}).status_code == 200


@pytest.mark.parametrize(
    "headers",
    [
        {},
        {"Origin": "http://other.example"},
        {"Origin": "http://localhost:1"},
        {"Origin": "null"},
        {"Origin": "http://[::1"},
        {"Origin": "http://[x]y"},
        {"Origin": "//\u2100"},
        {"Sec-Fetch-Site": "cross-site"},
        {"Sec-Fetch-Site": "same-site"},
        {"Sec-Fetch-Site": "none"},
    ],
)
@pytest.mark.parametrize(("method", "path"), [("POST", "/api/pages"), ("DELETE", "/api/photos/1")])
def test_only_the_own_page_changes_something(
    lasting_client: FlaskClient,
    lasting_workspace: Workspace,
    stranger: FlaskClient,
    method: str,
    path: str,
    headers: dict[str, str],
) -> None:
    if not photos(lasting_client):
        settled(lasting_workspace, upload(lasting_client, file(photo())).json["id"])
    before = lasting_client.get("/api/pages").json
    answer = stranger.open(path, method=method, json={"name": "Mine"}, headers=headers)
    assert (answer.status_code, answer.json["code"]) == (403, "forbidden")
    assert lasting_client.get("/api/pages").json == before


@pytest.mark.parametrize(
    "headers", [{"Origin": "http://localhost"}, {"Sec-Fetch-Site": "same-origin"}]
)
def test_the_own_page_is_known_by_either_header(
    stranger: FlaskClient, headers: dict[str, str]
) -> None:
    answer = stranger.post("/api/pages", json={"name": "Mine"}, headers=headers)
    assert answer.status_code == 201


@pytest.mark.parametrize("site", ["cross-site", "same-site"])
def test_other_sites_read_neither_pictures_nor_changes(stranger: FlaskClient, site: str) -> None:
    for path in ("/api/changes", "/api/framed/1/sharpened", "/api/pages"):
        assert stranger.get(path, headers={"Sec-Fetch-Site": site}).status_code == 403
    with stranger.get("/", headers={"Sec-Fetch-Site": site}) as page:
        assert page.status_code == 200  # a link to it


@pytest.mark.parametrize(
    ("host", "names"),
    [
        ("127.0.0.1", {"localhost", "127.0.0.1", "::1"}),
        ("::1", {"localhost", "127.0.0.1", "::1"}),
        ("localhost", {"localhost", "127.0.0.1", "::1"}),
        ("192.168.7.9", {"192.168.7.9"}),
        ("studio.example", {"studio.example"}),
    ],
)
def test_a_server_has_the_names_it_was_started_for(host: str, names: set[str]) -> None:
    assert names_of(host) == names


def test_a_server_for_every_address_has_no_foreign_name() -> None:
    assert {"localhost", "127.0.0.1"} < names_of("0.0.0.0")
    assert "0.0.0.0" not in names_of("0.0.0.0")


@pytest.mark.parametrize(
    ("host", "address"),
    [
        ("127.0.0.1", "http://127.0.0.1:8470"),
        ("::1", "http://[::1]:8470"),
        ("0.0.0.0", "http://127.0.0.1:8470"),
        ("::", "http://[::1]:8470"),
        ("studio.example", "http://studio.example:8470"),
    ],
)
def test_the_address_that_is_told_can_be_opened(host: str, address: str) -> None:
    assert address_of(host, 8470) == address


def test_a_name_is_known_in_upper_and_lower_case(workspace: Workspace) -> None:
    client = create_app(workspace, LIMITS, host_names=("Studio.Local",)).test_client()
    for host in ("studio.local", "Studio.Local:8470", "STUDIO.LOCAL"):
        assert client.get("/api/pages", headers={"Host": host}).status_code == 200


def test_a_body_larger_than_any_request_is_refused_unread(client: FlaskClient) -> None:
    photo_id = upload(client, file(photo())).json["id"]
    body = json.dumps({"formats": [1] * 500_000})
    answer = client.patch(f"/api/photos/{photo_id}/aim", data=body)
    assert (answer.status_code, answer.json["code"]) == (413, "request_too_large")


def test_a_list_longer_than_any_can_be_is_refused_at_once(client: FlaskClient) -> None:
    photo_id = upload(client, file(photo())).json["id"]
    answer = client.patch(f"/api/photos/{photo_id}/aim", json={"formats": ["jpeg"] * 9_000})
    assert (answer.status_code, answer.json["code"]) == (413, "request_too_large")
    answer = client.patch(f"/api/photos/{photo_id}/aim", json={"formats": ["jpeg"] * 90})
    assert (answer.status_code, answer.json["code"]) == (400, "invalid_request")
    assert photos(client)[0]["aim"]["formats"] == ["jpeg", "webp", "avif"]


def test_many_form_parts_are_not_called_a_large_file(client: FlaskClient) -> None:
    answer = client.post(
        "/api/photos",
        data={str(number): "x" for number in range(2_000)},
        content_type="multipart/form-data",
    )
    assert (answer.status_code, answer.json["code"]) == (413, "request_too_large")


def test_a_machine_whose_own_name_nobody_knows_is_served(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("socket.gethostname", lambda: "Kiln.invalid")
    assert names_of("0.0.0.0") == {"localhost", "127.0.0.1", "::1", "kiln.invalid"}
