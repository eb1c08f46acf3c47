"""Takes the pictures of docs/screenshots from the demo: `make screenshots`."""

import json
import tempfile
import time
from pathlib import Path

import oxipng
from playwright.sync_api import Page, ViewportSize

from tools.browser import headless_browser
from tools.served import Served

FOLDER = Path(__file__).parents[1] / "docs/screenshots"
#: Longer than the slowest encode takes.
_REST_S = 15
SIZE: ViewportSize = {"width": 1280, "height": 800}


def photo_ids(page: Page, url: str) -> dict[str, int]:
    """The demo's photos by name."""
    pages = json.loads(page.request.get(f"{url}/api/pages").text())["pages"]
    return {photo["name"]: photo["id"] for each in pages for photo in each["photos"]}


def shoot(page: Page, name: str) -> None:
    """Photographs the screen at rest."""
    page.mouse.move(440, 20)  # where nothing has a hint
    page.wait_for_timeout(1_500)
    (FOLDER / f"{name}.png").write_bytes(oxipng.optimize_from_memory(page.screenshot(), level=4))


def shoot_screens(page: Page, url: str) -> None:
    """Page; Pack; treatments, a batch and the balance; Frame with a straightened crop; two steps
    compared; Weigh at a trouble spot, with damage laid over it, and in a blind round."""
    ids = photo_ids(page, url)
    page.goto(url)
    page.get_by_role("row").nth(1).wait_for()
    shoot(page, "page")
    shoot_pack(page, url)
    page.goto(url)
    shoot_many(page, url)
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
    wait_until_at_rest(page, ids["Red cup, blue door"], url)
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
    page.get_by_role("tab", name="Your eye").click()
    page.get_by_role("button", name="Blind check").click()
    page.get_by_text("Which is the original?").wait_for()
    shoot(page, "eye")


def shoot_enter(page: Page, folder: Path) -> None:
    """What a server asks for that is not for its own machine alone, after a slip of the pen."""
    token = folder / "token"
    token.touch(mode=0o600)
    token.write_text("the kiln is lit on Thursdays and on no other day of the week")
    served = Served(folder / "workspace.sqlite3", "--token-file", str(token))
    try:
        page.goto(served.url)
        page.get_by_label("Access token").fill("the kiln is lit on Tuesdays")
        page.get_by_role("button", name="Enter").click()
        page.get_by_role("alert").get_by_text("token").wait_for()
        shoot(page, "enter")
    finally:
        served.end()


def shoot_many(page: Page, url: str) -> None:
    """What is done to many photos: a treatment on three, their batch, and the balance of the page;
    the batch is undone."""
    for name in ("Opening hours", "Red cup, blue door", "Two-dip bottle, cut out"):
        page.get_by_role("checkbox", name=f"Select {name}").click()
    page.get_by_role("button", name="Treatments", exact=True).click()
    page.get_by_role("heading", name="Card", exact=True).wait_for()
    shoot(page, "treatments")
    page.get_by_role("button", name="Do it to 3 photos: Card").click()
    page.get_by_text("3 of 3 weighed").wait_for(timeout=120_000)
    page.goto(f"{url}/pages/1/batch")
    page.get_by_role("table", name="Batch").wait_for()
    shoot(page, "batch")
    page.get_by_role("button", name="Undo").click()
    page.goto(f"{url}/pages/1/balance?for=worst")
    page.get_by_role("button", name="Stop measuring").wait_for()
    page.get_by_role("button", name="Stop measuring").wait_for(state="detached", timeout=180_000)
    page.get_by_role("button", name="See them before and after").click()
    shoot(page, "balance")


def shoot_pack(page: Page, url: str) -> None:
    """What goes out of the first page, in its page, and with old references replaced."""
    page.goto(f"{url}/pages/1/pack")
    page.get_by_text("20 files for 5 photos.").wait_for()
    shoot(page, "pack")
    page.get_by_role("tab", name="Standing in the page").click()
    page.get_by_role("region", name="Standing in the page").get_by_text("5 files").wait_for()
    shoot(page, "pack-standing")
    page.get_by_role("tab", name="Old references").click()
    page.get_by_label("Text with old references").fill(
        '<img src="img/dusk-window.jpg" alt="Vases">\n'
        "<style>.door { background: url(red-cup-blue-door.jpg) }</style>\n"
    )
    page.get_by_role("button", name="Find references").click()
    page.get_by_text("2 found, 2 taken.").wait_for()
    shoot(page, "pack-references")


def wait_until_weighed(page: Page, photo_id: int, url: str) -> None:
    """Waits for the end of a photo's search."""
    while True:
        weighing = json.loads(page.request.get(f"{url}/api/photos/{photo_id}/at/0").text())
        if weighing["search"]["state"] != "running":
            return
        time.sleep(1)


def wait_until_at_rest(page: Page, photo_id: int, url: str) -> None:
    """Waits until idle workers have done for a photo what they do for one that is looked at."""
    made, at_rest_s = 0, 0
    while at_rest_s < _REST_S:
        weighing = json.loads(page.request.get(f"{url}/api/photos/{photo_id}/at/0").text())
        at_rest_s = at_rest_s + 1 if len(weighing["encodes"]) == made else 0
        made = len(weighing["encodes"])
        time.sleep(1)


def main() -> None:
    """Starts a demo server on a fresh workspace, and photographs its screens."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, headless_browser() as browser:
        shoot_enter(browser.new_page(viewport=SIZE), Path(folder))
        served = Served(Path(folder) / "demo.sqlite3", "--demo")
        try:
            shoot_screens(browser.new_page(viewport=SIZE), served.url)
        finally:
            served.end()


if __name__ == "__main__":
    main()
