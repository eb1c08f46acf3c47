"""What is seen from outside: health, metrics, and the ids that answers and logs share."""

import logging
import sqlite3

import pytest
from flask.testing import FlaskClient
from prometheus_client.parser import text_string_to_metric_families

from lean_parcel.web.app import create_app
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.web.steps import LIMITS, own_page, upload


def measured(client: FlaskClient) -> dict[str, dict[tuple[str, ...], float]]:
    """All metrics by name and labels."""
    families = text_string_to_metric_families(client.get("/metrics").text)
    found: dict[str, dict[tuple[str, ...], float]] = {}
    for family in families:
        for sample in family.samples:
            found.setdefault(sample.name, {})[tuple(sample.labels.values())] = sample.value
    return found


def test_a_server_that_answers_is_ready_and_says_how_busy_it_is(client: FlaskClient) -> None:
    answer = client.get("/health")
    assert answer.status_code == 200
    assert answer.json == {
        "status": "ready",
        "queue_length": 0,
        "running_tasks": 0,
        "workers": 2,
        "workers_alive": None,  # of the executor of these tests
        "is_read_only": False,
    }


@pytest.fixture
def fresh_client(workspace: Workspace) -> FlaskClient:
    """Of an application that has measured nothing yet."""
    return own_page(create_app(workspace, LIMITS))


def test_strangers_learn_only_whether_it_is_ready(workspace: Workspace) -> None:
    client = create_app(workspace, LIMITS, token="a long enough token").test_client()
    assert client.get("/health").json == {"status": "ready"}
    assert client.get("/metrics").status_code == 401


def test_a_workspace_that_cannot_be_read_is_told(
    client: FlaskClient, workspace: Workspace, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fail(*_: object, **__: object) -> sqlite3.Connection:
        error = sqlite3.OperationalError("disk I/O error")
        error.sqlite_errorcode = sqlite3.SQLITE_IOERR
        raise error

    monkeypatch.setattr("lean_parcel.store.file.connections.Connections.lent", fail)
    answer = client.get("/health")
    assert (answer.status_code, answer.json["code"]) == (503, "workspace_unreachable")


def test_requests_and_tasks_are_measured(fresh_client: FlaskClient) -> None:
    upload(fresh_client, file(photo()))
    fresh_client.get("/api/photos/999/at/0")
    found = measured(fresh_client)
    counts = found["lean_parcel_request_seconds_count"]
    assert counts["POST", "/api/photos", "201"] == 1
    assert counts["GET", "/api/photos/<int:photo_id>/at/<int:density_percent>", "404"] == 1
    assert found["lean_parcel_tasks_total"]["frame", "done"] >= 1
    assert found["lean_parcel_task_seconds_total"]["frame",] > 0
    assert found["lean_parcel_workers"][()] == 2


def test_an_address_that_is_made_up_is_no_label_of_its_own(fresh_client: FlaskClient) -> None:
    for number in range(3):
        fresh_client.get(f"/nowhere/{number}")
    assert measured(fresh_client)["lean_parcel_request_seconds_count"]["GET", "", "404"] == 3


def test_an_error_the_log_and_the_task_share_an_id(
    client: FlaskClient, caplog: pytest.LogCaptureFixture
) -> None:
    caplog.set_level(logging.INFO)
    answer = upload(client, b"no photo at all")
    assert answer.status_code == 422
    request_id = answer.json["request_id"]
    assert request_id == answer.headers["X-Request-Id"]
    other = upload(client, file(photo()))
    told = [each for each in caplog.records if each.name == "lean_parcel.tasks"]
    ids = {(each.request_id, each.task, each.outcome) for each in told}  # type: ignore[attr-defined]
    assert (request_id, "frame", answer.json["code"]) in ids
    assert (other.headers["X-Request-Id"], "frame", "done") in ids
    assert len({each.task_id for each in told}) == len(told)  # type: ignore[attr-defined]
