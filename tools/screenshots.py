"""Takes the pictures of docs/screenshots from the demo: `make screenshots`."""

import json
import tempfile
import time
from pathlib import Path

import oxipng
from playwright.sync_api import Page, ViewportSize, sync_playwright

from lean_parcel.demo import samples
from tools.served import Served

FOLDER = Path(__file__).parents[1] / "docs/screenshots"
SIZE: ViewportSize = {"width": 1280, "height": 800}


def photo_ids(page: Page, url: str) -> dict[str, int]:
    """The demo's photos by name, once all that is to be weighed is weighed."""
    while True:
        pages = json.loads(page.request.get(f"{url}/api/pages").text())["pages"]
        photos = [photo for each in pages for photo in each["photos"]]
        is_done = all(photo["search_state"] != "running" for photo in photos)
        if is_done and len(photos) == len(samples()) and any(p["pick"] for p in pages[1]["photos"]):
            return {photo["name"]: photo["id"] for photo in photos}
        time.sleep(1)


def shoot(page: Page, name: str) -> None:
    """Photographs the screen at rest."""
    page.mouse.move(640, 20)
    page.wait_for_timeout(1_500)
    (FOLDER / f"{name}.png").write_bytes(oxipng.optimize_from_memory(page.screenshot(), level=4))


def shoot_screens(page: Page, url: str) -> None:
    """Page; Frame with a straightened crop; two steps compared; Weigh at a trouble spot, with
    damage laid over it, and in a blind round."""
    ids = photo_ids(page, url)
    page.goto(url)
    page.get_by_role("row").nth(1).wait_for()
    shoot(page, "page")
    dusk_id = ids["Window shelf at dusk"]
    page.goto(f"{url}/photos/{dusk_id}/frame")
    for change in ({"straighten_deg": 1.5}, {"sharpen": {"amount_percent": 60}}):
        path = f"{url}/api/photos/{dusk_id}/framing"
        assert page.request.patch(path, data=change, headers={"Origin": url}).ok
    page.get_by_text("Sharpened 60 %").wait_for()
    wait_until_weighed(page, dusk_id, url)
    shoot(page, "frame")
    page.get_by_role("tab", name="Journal").click()
    page.get_by_label("Compare Added").click()
    page.get_by_label("Compare Sharpen").click()
    page.get_by_role("row", name="Sharpen").wait_for()
    shoot(page, "journal")
    red_cup = f"{url}/photos/{ids['Red cup, blue door']}"
    page.goto(f"{red_cup}?mode=side&zoom=2")
    page.get_by_text("taken", exact=True).wait_for()
    spot = page.get_by_role("region", name="Trouble spots").get_by_role("listitem").nth(1)
    spot.get_by_role("button").click()
    shoot(page, "weigh")
    glaze = f"{url}/photos/{ids['Speckled glaze, close up']}"
    page.goto(f"{glaze}?mode=wipe&zoom=fit&overlay=lost-detail")
    page.get_by_role("img", name="Where lost detail is seen").wait_for()
    end = page.get_by_role("slider", name="Wipe, first end")
    end.focus()
    for _ in range(9):
        page.keyboard.press("ArrowRight")
    shoot(page, "damage")
    page.goto(f"{red_cup}?mode=side&zoom=1")
    page.get_by_text("Your own eye").click()
    page.get_by_role("button", name="Blind check").click()
    page.get_by_text("Which is the original?").wait_for()
    shoot(page, "eye")


def wait_until_weighed(page: Page, photo_id: int, url: str) -> None:
    """Waits for the end of a photo's search."""
    while True:
        weighing = json.loads(page.request.get(f"{url}/api/photos/{photo_id}").text())
        if weighing["search"]["state"] != "running":
            return
        time.sleep(1)


def main() -> None:
    """Starts a demo server on a fresh workspace, and photographs its screens."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        served = Served(Path(folder) / "demo.sqlite3", "--demo")
        try:
            browser = playwright.chromium.launch(
                executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
            )
            shoot_screens(browser.new_page(viewport=SIZE), served.url)
            browser.close()
        finally:
            served.end()


if __name__ == "__main__":
    main()
