"""Debian's Chromium without a window, for tests, benchmarks and screenshots."""

import shutil
from collections.abc import Iterator
from contextlib import contextmanager

from playwright.sync_api import Browser, sync_playwright

#: Debian packages the same browser twice; the first has no window to draw, and starts sooner.
_PROGRAMS = ("chromium-headless-shell", "chromium")
_OPTIONS = ["--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage"]


@contextmanager
def headless_browser() -> Iterator[Browser]:
    """A browser. Raises RuntimeError where none is installed."""
    program = next(filter(None, map(shutil.which, _PROGRAMS)), None)
    if program is None:
        raise RuntimeError("There is no Chromium here: make chromium.")
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=program, args=_OPTIONS)
        yield browser
        browser.close()
