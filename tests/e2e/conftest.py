"""A real server in a process of its own, and Debian's Chromium."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect
from tools.browser import headless_browser
from tools.served import Served

# Two cores do the encoding and run the browser.
expect.set_options(timeout=30_000)


@pytest.fixture
def server(tmp_path: Path) -> Iterator[Served]:
    running = Served(tmp_path / "workspace.sqlite3", "--workers", "1")
    yield running
    running.end()


@pytest.fixture(scope="module")
def lasting_server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Served]:
    """A server for all tests of a module, where those begin with `begin_anew`: what one of them has
    encoded, the next one need not."""
    running = Served(tmp_path_factory.mktemp("lasting") / "workspace.sqlite3", "--workers", "1")
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
def page(browser: Browser, server: Served) -> Iterator[Page]:
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
    context.close()
    assert not faults
