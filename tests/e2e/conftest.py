"""A real server, and Debian's Chromium."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect
from tools.browser import headless_browser
from tools.served import Served

from tests.e2e.here import ServedHere, weigh
from tests.executors import LentPool

# Two cores do the encoding and run the browser.
expect.set_options(timeout=30_000)


@pytest.fixture
def server(
    request: pytest.FixtureRequest, tmp_path: Path, workers: LentPool
) -> Iterator[Served | ServedHere]:
    """The application, on a workspace of this test's own: empty, or with a photo that is `weighed`;
    in this process, or where the test is marked with `killed` in one that can be killed."""
    path = tmp_path / "workspace.sqlite3"
    if marker := request.node.get_closest_marker("weighed"):
        weigh(path, workers, *marker.args, **marker.kwargs)
    is_killed = request.node.get_closest_marker("killed")
    running = Served(path, "--workers", "1") if is_killed else ServedHere(path, workers)
    yield running
    running.end()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with headless_browser() as browser:
        yield browser


@pytest.fixture
def blank_page(browser: Browser) -> Iterator[Page]:
    page = browser.new_page()
    yield page
    page.close()


@pytest.fixture
def page(browser: Browser, server: Served | ServedHere) -> Iterator[Page]:
    """A page on which no script fails and nothing is blocked or loaded from elsewhere."""
    context = browser.new_context(
        base_url=server.url, viewport={"width": 1280, "height": 800}, accept_downloads=True
    )
    page = context.new_page()
    page.set_default_timeout(30_000)
    faults: list[str] = []
    ours = (server.url, "blob:")
    page.on("pageerror", lambda error: faults.append(str(error)))
    page.on("console", lambda m: faults.append(m.text) if "Content Security" in m.text else None)
    page.on("request", lambda r: None if r.url.startswith(ours) else faults.append(r.url))
    yield page
    page.unroute_all(behavior="ignoreErrors")  # or one that still fetches fails the next test
    context.close()
    assert not faults
