"""Behind Debian's nginx, with the configuration of the documentation: TLS, a path, a token."""

import re
import shutil
import socket
import subprocess
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
import trustme
from playwright.sync_api import Browser, Page, expect
from tools.served import Served

from tests.e2e.steps import assert_accessible, drop_all, small

pytestmark = pytest.mark.e2e

TOKEN = "a token that stays the same, and is as long as it has to be"
CONFIGURATION = Path(__file__).parents[2] / "docs/nginx.conf"


@pytest.fixture
def address(tmp_path: Path) -> Iterator[str]:
    """Where the server is reached through nginx."""
    token_path = tmp_path / "token"
    token_path.touch(mode=0o600)
    token_path.write_text(TOKEN)
    options = ("--workers", "1", "--behind-proxy", "1", "--token-file", str(token_path))
    served = Served(tmp_path / "workspace.sqlite3", *options)
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    with trustme.CA().issue_cert("localhost").private_key_and_cert_chain_pem.tempfile() as pem:
        nginx = subprocess.Popen(_nginx(tmp_path, pem, port, served.url))
        _wait_for(port)
        yield f"https://localhost:{port}/photos/"
        nginx.terminate()
        nginx.wait(timeout=10)
    served.end()


def _nginx(folder: Path, pem: str, port: int, upstream: str) -> list[str]:
    """The command that starts it, with the documented file at free ports."""
    text = CONFIGURATION.read_text()
    for documented, here in {
        "listen 443": f"listen 127.0.0.1:{port}",
        "/etc/ssl/photos.example.pem": pem,
        "/etc/ssl/photos.example.key": pem,
        "http://127.0.0.1:8470": upstream,
        "http {": f"http {{ {_temporary(folder)}",
    }.items():
        assert documented in text
        text = text.replace(documented, here)
    path = folder / "nginx.conf"
    path.write_text(text)
    program = shutil.which("nginx", path="/usr/sbin:/usr/bin")
    assert program, "nginx is missing: `make nginx`"
    directives = f"daemon off; pid {folder}/nginx.pid; error_log {folder}/error.log;"
    return [program, "-e", f"{folder}/early.log", "-c", str(path), "-g", directives]


def _temporary(folder: Path) -> str:
    kinds = ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
    paths = " ".join(f"{kind}_temp_path {folder}/{kind};" for kind in kinds)
    return f"access_log {folder}/access.log; {paths}"


def _wait_for(port: int) -> None:
    deadline = time.monotonic() + 20
    while True:
        try:
            socket.create_connection(("127.0.0.1", port), timeout=1).close()
            return
        except OSError:
            assert time.monotonic() < deadline, "nginx does not listen"
            time.sleep(0.05)


@pytest.fixture
def proxied(browser: Browser, address: str) -> Iterator[Page]:
    context = browser.new_context(ignore_https_errors=True, viewport={"width": 1280, "height": 800})
    page = context.new_page()
    faults: list[str] = []
    page.on("pageerror", lambda error: faults.append(str(error)))
    page.on(
        "request", lambda r: None if r.url.startswith((address, "blob:")) else faults.append(r.url)
    )
    yield page
    context.close()
    assert not faults


def test_a_person_enters_and_weighs_a_photo_below_a_path_over_tls(
    proxied: Page, address: str
) -> None:
    proxied.goto(address)
    token = proxied.get_by_label("Access token")
    expect(token).to_be_visible()
    assert_accessible(proxied)
    token.fill("not this one at all")
    proxied.keyboard.press("Enter")
    expect(proxied.get_by_text("not the access token")).to_be_visible()
    token.fill(TOKEN)
    proxied.keyboard.press("Enter")
    expect(token).to_be_hidden()
    drop_all(proxied, {"one.png": small(1), "two.png": small(2)})
    expect(proxied.get_by_text("Ready to take")).to_have_count(2)  # told by the stream of changes
    proxied.get_by_role("link", name="Weigh").first.click()
    expect(proxied).to_have_url(re.compile(rf"{address}photos/[12]$"))
    proxied.reload()
    proxied.get_by_role("button", name=re.compile("^Take")).first.click()
    expect(proxied.get_by_text("taken", exact=True)).to_be_visible()
    proxied.goto(f"{address}pages/1/pack?part=standing")
    site = proxied.frame_locator("iframe[title='The page on a phone']")
    expect(site.locator("img").first).to_be_visible()
    cookie = next(each for each in proxied.context.cookies() if each["name"].startswith("lean"))
    assert (cookie["path"], cookie["secure"], cookie["httpOnly"]) == ("/photos", True, True)
    assert cookie["sameSite"] == "Strict"
