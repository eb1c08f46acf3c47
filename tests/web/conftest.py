from collections.abc import Iterator
from pathlib import Path

import pytest
from flask.testing import FlaskClient

from lean_parcel.web.app import create_app
from lean_parcel.work.workspace import Workspace
from tests.executors import InlineExecutor
from tests.web.steps import LIMITS


@pytest.fixture
def workspace(path: Path) -> Iterator[Workspace]:
    opened = Workspace(path, InlineExecutor(), LIMITS)
    yield opened
    opened.close()


@pytest.fixture
def client(workspace: Workspace) -> FlaskClient:
    """The page of the server itself."""
    own = create_app(workspace, LIMITS).test_client()
    own.environ_base["HTTP_SEC_FETCH_SITE"] = "same-origin"
    return own
