"""Takes the pictures of docs/screenshots from the demo: `make screenshots`."""

import re
import subprocess
import sys
import tempfile
from pathlib import Path

from playwright.sync_api import Page, ViewportSize, expect, sync_playwright

FOLDER = Path(__file__).parents[1] / "docs/screenshots"
SIZE: ViewportSize = {"width": 1280, "height": 800}


def weighed(page: Page) -> None:
    """Waits for the end of the search of the photo that is shown."""
    page.get_by_role("region", name="Candidates").get_by_role("radio").first.wait_for(
        state="attached", timeout=60_000
    )
    stop = page.get_by_role("button", name="Stop weighing")
    expect(stop).to_have_count(0, timeout=120_000)


def weigh(page: Page, url: str) -> None:
    """The Weigh screen: the red cup, its best candidate taken, wiped over the original."""
    page.goto(f"{url}/photos/1?mode=wipe&zoom=2")
    weighed(page)
    page.get_by_role("button", name="Take this one").click()
    page.get_by_text("taken", exact=True).wait_for()
    page.mouse.move(640, 20)
    page.screenshot(path=FOLDER / "weigh.png")


def main() -> None:
    """Starts a demo server on a fresh workspace, and photographs its screens."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        command = [sys.executable, "-c", "from lean_parcel.cli import main; main()"]
        options = ["serve", "--demo", "--port", "0", "--workspace", f"{folder}/demo.sqlite3"]
        server = subprocess.Popen([*command, *options], stdout=subprocess.PIPE, text=True)
        try:
            assert server.stdout
            found = re.search(r"http://[\d.:]+", server.stdout.readline())
            assert found
            browser = playwright.chromium.launch(
                executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
            )
            weigh(browser.new_page(viewport=SIZE), found[0])
            browser.close()
        finally:
            server.terminate()
            server.wait(timeout=30)


if __name__ == "__main__":
    main()
