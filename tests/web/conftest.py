from collections.abc import Iterator
from pathlib import Path

import pytest
from flask import Flask
from flask.testing import FlaskClient

from lean_parcel.web.access import Access
from lean_parcel.web.app import create_app
from lean_parcel.work.workspace import Workspace
from tests.executors import InlineExecutor
from tests.web.steps import LIMITS, own_page


@pytest.fixture
def workspace(new_file: Path) -> Iterator[Workspace]:
    opened = Workspace(new_file, InlineExecutor(), LIMITS)
    yield opened
    opened.close()


@pytest.fixture(scope="session")
def application(tmp_path_factory: pytest.TempPathFactory) -> Flask:
    """To bind its hundred addresses takes as long as a test, so tests follow each other on one."""
    unused = Workspace(tmp_path_factory.mktemp("unused") / "w.sqlite3", InlineExecutor(), LIMITS)
    unused.close()
    return create_app(unused, LIMITS)


@pytest.fixture
def client(application: Flask, workspace: Workspace) -> FlaskClient:
    """The page of the server itself."""
    application.extensions |= {"workspace": workspace, "access": Access(None)}
    return own_page(application)


@pytest.fixture(scope="module")
def lasting_workspace(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Workspace]:
    """One for all requests of a module that are refused, which change nothing."""
    opened = Workspace(tmp_path_factory.mktemp("lasting") / "w.sqlite3", InlineExecutor(), LIMITS)
    yield opened
    opened.close()


@pytest.fixture(scope="module")
def lasting_client(lasting_workspace: Workspace) -> FlaskClient:
    return own_page(create_app(lasting_workspace, LIMITS))
