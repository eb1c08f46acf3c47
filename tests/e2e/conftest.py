"""A real server in a process of its own, and Debian's Chromium."""

import re
import signal
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

# Two cores do the encoding and run the browser.
expect.set_options(timeout=30_000)
_COMMAND = [sys.executable, "-c", "from lean_parcel.cli import main; main()"]


class Server:
    """`lean-parcel serve` on a workspace; it can be killed and started again at the same port."""

    def __init__(self, workspace: Path) -> None:
        self._workspace = workspace
        self._port = 0
        self.url = ""
        self.start()

    def start(self) -> None:
        options = ["--workspace", str(self._workspace), "--port", str(self._port), "--workers", "1"]
        self._process = subprocess.Popen(
            [*_COMMAND, "serve", *options],
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
        )
        assert self._process.stdout
        for line in self._process.stdout:
            found = re.search(r"http://127\.0\.0\.1:(\d+)", line)
            if found:
                self.url, self._port = found[0], int(found[1])
                return
        raise RuntimeError("The server did not start.")

    def end(self, how: signal.Signals = signal.SIGTERM) -> None:
        self._process.send_signal(how)
        self._process.wait(timeout=30)
        assert self._process.stdout
        self._process.stdout.close()


@pytest.fixture
def server(tmp_path: Path) -> Iterator[Server]:
    running = Server(tmp_path / "workspace.sqlite3")
    yield running
    running.end()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        yield playwright.chromium.launch(
            executable_path="/usr/bin/chromium",
            args=["--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage"],
        )


@pytest.fixture
def blank_page(browser: Browser) -> Iterator[Page]:
    page = browser.new_page()
    yield page
    page.close()


@pytest.fixture
def page(browser: Browser, server: Server) -> Iterator[Page]:
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
