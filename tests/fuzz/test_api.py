"""Every operation of our own OpenAPI document, with what chance makes of it: no error of the
server, and no answer that the document does not know."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
import schemathesis
from flask import Flask
from hypothesis import given
from hypothesis import strategies as st
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import response_schema_conformance, status_code_conformance

from lean_parcel.core.original.source import Limits
from lean_parcel.web.app import create_app
from lean_parcel.web.openapi import document
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.executors import InlineExecutor
from tests.fuzz import tries
from tests.workspaces import AIM, settled

_HEADERS = {"Sec-Fetch-Site": "same-origin"}
_DOCUMENT = document()
_SCHEMA: Any = schemathesis.openapi.from_dict(_DOCUMENT)
_OPERATIONS = [(method, path) for path, methods in _DOCUMENT["paths"].items() for method in methods]
_CHECKS = [not_a_server_error, status_code_conformance, response_schema_conformance]


@pytest.fixture(scope="module")
def app(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Flask]:
    """A workspace with photos that are weighed."""
    path: Path = tmp_path_factory.mktemp("fuzz") / "w.sqlite3"
    workspace = Workspace(path, InlineExecutor(), Limits(), out=path.parent / "out")
    for seed in range(3):
        photo_id = workspace.adding.add_photo(f"{seed}.png", file(photo(seed=seed)), aim=AIM)
        settled(workspace, photo_id)
    yield create_app(workspace, Limits())
    workspace.close()


@pytest.mark.parametrize(("method", "path"), _OPERATIONS, ids=lambda value: str(value))
def test_no_request_breaks_the_server_or_the_document(app: Flask, method: str, path: str) -> None:
    _SCHEMA.app = app
    operation = _SCHEMA[path][method.upper()]

    @tries(3)
    @given(data=st.data())
    def send(data: st.DataObject) -> None:
        case = data.draw(operation.as_strategy())
        for name in case.path_parameters or {}:
            # Half of the ids are of what there is.
            if data.draw(st.booleans()):
                case.path_parameters[name] = data.draw(st.integers(1, 4))
        case.call_and_validate(headers=_HEADERS, checks=_CHECKS)

    send()
