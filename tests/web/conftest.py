from collections.abc import Iterator
from pathlib import Path

import pytest
from flask.testing import FlaskClient

from lean_parcel.web.app import create_app
from lean_parcel.work.workspace import Workspace
from tests.executors import InlineExecutor
from tests.web.steps import LIMITS


@pytest.fixture
def workspace(new_file: Path) -> Iterator[Workspace]:
    opened = Workspace(new_file, InlineExecutor(), LIMITS)
    yield opened
    opened.close()


@pytest.fixture
def client(workspace: Workspace) -> FlaskClient:
    """The page of the server itself."""
    return own_page(workspace)


@pytest.fixture(scope="module")
def lasting_workspace(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Workspace]:
    """One for all requests of a module that are refused, which change nothing."""
    opened = Workspace(tmp_path_factory.mktemp("lasting") / "w.sqlite3", InlineExecutor(), LIMITS)
    yield opened
    opened.close()


@pytest.fixture(scope="module")
def lasting_client(lasting_workspace: Workspace) -> FlaskClient:
    return own_page(lasting_workspace)


def own_page(workspace: Workspace) -> FlaskClient:
    own = create_app(workspace, LIMITS).test_client()
    own.environ_base["HTTP_SEC_FETCH_SITE"] = "same-origin"
    return own
