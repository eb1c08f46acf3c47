"""Who may in, where others than this machine reach the server."""

from datetime import timedelta
from pathlib import Path

import pytest
from flask.testing import FlaskClient
from itsdangerous import TimestampSigner

from lean_parcel.core.errors import UsageError
from lean_parcel.web.access import new_token, read_token
from lean_parcel.web.app import create_app
from lean_parcel.work.workspace import Workspace
from tests.web.steps import LIMITS

TOKEN = "correct-horse-battery-staple-and-some-more-of-it"


@pytest.fixture
def guarded(workspace: Workspace) -> FlaskClient:
    """The page of a server that asks for a token."""
    client = create_app(workspace, LIMITS, token=TOKEN).test_client()
    client.environ_base["HTTP_SEC_FETCH_SITE"] = "same-origin"
    return client


def enter(client: FlaskClient, token: str = TOKEN, address: str = "192.0.2.1") -> int:
    """The status of an attempt to enter from an address."""
    answer = client.post(
        "/api/session", json={"token": token}, environ_base={"REMOTE_ADDR": address}
    )
    return answer.status_code


@pytest.mark.parametrize(
    "path", ["/api/pages", "/api/changes", "/api/photos/1/thumbnail", "/api/x"]
)
def test_nothing_is_read_without_the_token(guarded: FlaskClient, path: str) -> None:
    answer = guarded.get(path)
    assert (answer.status_code, answer.json["code"]) == (401, "unauthorized")


def test_nothing_is_changed_without_the_token(guarded: FlaskClient) -> None:
    before = bearing(guarded).get("/api/pages").json
    assert guarded.post("/api/pages", json={"name": "Mine"}).status_code == 401
    assert bearing(guarded).get("/api/pages").json == before


def bearing(client: FlaskClient, token: str = TOKEN) -> FlaskClient:
    """A program that sends the token itself, and says nothing of a site."""
    program = client.application.test_client()
    program.environ_base["HTTP_AUTHORIZATION"] = f"Bearer {token}"
    return program


def test_the_page_itself_is_for_everyone(guarded: FlaskClient) -> None:
    assert guarded.get("/").status_code == 200


def test_the_token_is_exchanged_for_a_cookie_that_no_script_reads(guarded: FlaskClient) -> None:
    answer = guarded.post("/api/session", json={"token": TOKEN})
    assert answer.status_code == 204
    cookie = answer.headers["Set-Cookie"]
    assert {"HttpOnly", "SameSite=Strict", "Path=/"} <= set(cookie.split("; "))
    assert TOKEN not in cookie
    assert guarded.get("/api/pages").status_code == 200
    assert guarded.post("/api/pages", json={"name": "Mine"}).status_code == 201


def test_a_cookie_of_another_server_is_none_of_this_one(
    guarded: FlaskClient, workspace: Workspace
) -> None:
    other = create_app(workspace, LIMITS, token=new_token()).test_client()
    enter(guarded)
    cookie = guarded.get_cookie("lean-parcel-access")
    assert cookie
    other.set_cookie("lean-parcel-access", cookie.value)
    assert other.get("/api/pages").status_code == 401


@pytest.mark.parametrize(("days", "status"), [(29, 200), (31, 401)])
def test_a_session_lasts_thirty_days(
    guarded: FlaskClient, monkeypatch: pytest.MonkeyPatch, days: int, status: int
) -> None:
    enter(guarded)
    cookie = guarded.get_cookie("lean-parcel-access")
    assert cookie
    assert cookie.max_age == timedelta(days=30).total_seconds()
    later = TimestampSigner("x").get_timestamp() + timedelta(days=days).total_seconds()
    monkeypatch.setattr(TimestampSigner, "get_timestamp", lambda _: int(later))
    assert guarded.get("/api/pages").status_code == status


@pytest.mark.parametrize("value", ["", "x", "IiI.x.y", "ä"])
def test_a_made_up_cookie_is_none(guarded: FlaskClient, value: str) -> None:
    guarded.set_cookie("lean-parcel-access", value)
    assert guarded.get("/api/pages").status_code == 401


def test_a_program_sends_the_token_itself(guarded: FlaskClient) -> None:
    assert bearing(guarded).get("/api/pages").status_code == 200
    assert bearing(guarded).post("/api/pages", json={"name": "Mine"}).status_code == 201
    assert bearing(guarded, "wrong").get("/api/pages").status_code == 401


@pytest.mark.parametrize("site", ["cross-site", "same-site", "none"])
def test_another_site_changes_nothing_with_the_visitor_s_cookie(
    guarded: FlaskClient, site: str
) -> None:
    enter(guarded)
    guarded.environ_base["HTTP_SEC_FETCH_SITE"] = site
    assert guarded.post("/api/pages", json={"name": "Mine"}).status_code == 403


def test_too_many_wrong_tokens_are_no_longer_looked_at(guarded: FlaskClient) -> None:
    assert [enter(guarded, f"wrong {number}") for number in range(11)] == [403] * 10 + [429]
    assert enter(guarded, TOKEN) == 429
    answer = guarded.post(
        "/api/session", json={"token": TOKEN}, environ_base={"REMOTE_ADDR": "192.0.2.1"}
    )
    assert int(answer.headers["Retry-After"]) > 0
    assert enter(guarded, TOKEN, "192.0.2.2") == 204  # others still may


def test_wrong_tokens_of_programs_are_counted_too(guarded: FlaskClient) -> None:
    program = bearing(guarded, "wrong")
    tries = [program.get("/api/pages").status_code for _ in range(12)]
    assert tries == [401] * 10 + [429] * 2
    assert bearing(guarded).get("/api/pages").status_code == 429  # the right one, a moment later
    assert enter(guarded, TOKEN, "127.0.0.1") == 429
    assert enter(guarded, TOKEN, "192.0.2.2") == 204  # others still may


def test_a_server_without_a_token_counts_none(client: FlaskClient) -> None:
    program = bearing(client, "anything")
    program.environ_base["HTTP_SEC_FETCH_SITE"] = "same-origin"
    assert {program.get("/api/pages").status_code for _ in range(20)} == {200}


def test_many_addresses_together_do_not_try_more(guarded: FlaskClient) -> None:
    tries = [enter(guarded, "wrong", f"192.0.2.{number}") for number in range(101)]
    assert tries == [403] * 100 + [429]


def test_a_right_token_is_never_counted(guarded: FlaskClient) -> None:
    assert [enter(guarded) for _ in range(20)] == [204] * 20


def test_without_a_token_nothing_is_asked_for(client: FlaskClient) -> None:
    assert client.get("/api/pages").status_code == 200
    assert enter(client, "") == 403


def test_a_cookie_is_sent_over_tls_alone_where_a_proxy_speaks_it(workspace: Workspace) -> None:
    client = create_app(workspace, LIMITS, token=TOKEN, proxies=1).test_client()
    told = {
        "X-Forwarded-Proto": "https",
        "X-Forwarded-Prefix": "/photos",
        "Origin": "https://localhost",
    }
    answer = client.post("/api/session", json={"token": TOKEN}, headers=told)
    assert {"Secure", "Path=/photos"} <= set(answer.headers["Set-Cookie"].split("; "))


def test_the_page_begins_where_a_proxy_has_put_it(workspace: Workspace) -> None:
    client = create_app(workspace, LIMITS, proxies=1).test_client()
    page = client.get("/", headers={"X-Forwarded-Prefix": "/a<b"}).text
    assert '<base href="/a&lt;b/"' in page


def test_without_a_proxy_nobody_says_where_the_page_is(client: FlaskClient) -> None:
    told = {"X-Forwarded-Prefix": "/photos", "X-Forwarded-Host": "evil.example"}
    answer = client.get("/", headers=told)
    assert (answer.status_code, '<base href="/" />' in answer.text) == (200, True)


def test_a_token_comes_from_a_file_that_nobody_else_reads(tmp_path: Path) -> None:
    path = tmp_path / "token"
    path.write_text(f"{TOKEN}\n")
    path.chmod(0o644)
    with pytest.raises(UsageError, match="chmod 600"):
        read_token(path)
    path.chmod(0o600)
    assert read_token(path) == TOKEN
    path.write_text("x" * 42)
    with pytest.raises(UsageError, match="fewer than 43"):
        read_token(path)
