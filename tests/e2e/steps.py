"""What a person does on the page, by roles and labels."""

import base64
import json
import re
import time
from pathlib import Path
from typing import Any

from playwright.sync_api import Download, Locator, Page, expect

from lean_parcel.core.decisions.aim import FIRST_AIM, Aim
from lean_parcel.core.formats import Format
from lean_parcel.core.framing.place import Place
from tests.builders import file, photo

_AXE = Path(__file__).parents[2] / "frontend/node_modules/axe-core/axe.min.js"
_DROP = """async (files) => {
  const transfer = new DataTransfer()
  for (const [name, base64] of files) {
    const bytes = Uint8Array.from(atob(base64), (c) => c.charCodeAt(0))
    transfer.items.add(new File([bytes], name))
  }
  const target = document.querySelector('main')
  for (const type of ['dragenter', 'dragover', 'drop']) {
    target.dispatchEvent(new DragEvent(type, { dataTransfer: transfer, bubbles: true }))
    await new Promise(requestAnimationFrame)
  }
}"""
_PASTE = """([name, base64]) => {
  const bytes = Uint8Array.from(atob(base64), (c) => c.charCodeAt(0))
  const transfer = new DataTransfer()
  transfer.items.add(new File([bytes], name))
  window.dispatchEvent(new ClipboardEvent('paste', { clipboardData: transfer }))
}"""


#: Looks at a photo whenever something changes, until its search has ended.
_ONCE_ENDED = """(path) => new Promise((resolve, reject) => {
  const changes = new EventSource('/api/changes')
  let looking = null
  const look = async () => {
    if (looking) return
    looking = new Promise((wake) => setTimeout(wake, 150))
    await looking
    looking = null
    const photo = await fetch(path).then((answer) => answer.json()).catch(reject)
    if (!photo || photo.search.state === 'running') return
    changes.close()
    resolve(photo)
  }
  changes.onopen = look
  changes.onmessage = look
  setTimeout(() => reject(new Error('the search does not end')), 90_000)
})"""


def aim_of(width_px: int, limit_bytes: int, *formats: Format) -> Aim:
    """An aim in all formats, or these."""
    place = Place(size=str(width_px))
    return Aim(place=place, limit_bytes=limit_bytes, formats=formats or FIRST_AIM.formats)


def open_weighed(page: Page) -> None:
    """Opens the photo of the workspace that was weighed, on Weigh."""
    page.goto("/photos/1")
    wait_until_weighed(page)


def drop(page: Page, name: str, data: bytes) -> None:
    """Drops a file on the page."""
    drop_all(page, {name: data})


def drop_all(page: Page, files: dict[str, bytes]) -> None:
    """Drops several files at once."""
    page.get_by_role("main").wait_for()
    page.evaluate(_DROP, [(name, base64.b64encode(data).decode()) for name, data in files.items()])


def paste(page: Page, name: str, data: bytes) -> None:
    """Pastes a file."""
    page.get_by_role("main").wait_for()
    page.evaluate(_PASTE, [name, base64.b64encode(data).decode()])


def small(seed: int = 1) -> bytes:
    """A small photo as a file."""
    return file(photo(60, 40, seed))


def names(page: Page, index: int = 0) -> list[str]:
    """The names of a page's photos, as the server has them."""
    return [shown["name"] for shown in pages(page)[index]["photos"]]


def choose(page: Page, button: str, item: str) -> None:
    """Chooses from a folded menu."""
    page.get_by_role("button", name=button, exact=True).click()
    page.get_by_role("menuitem", name=item).click()


def candidates(page: Page) -> Locator:
    """The candidates that can be looked at."""
    return page.get_by_role("region", name="Candidates").get_by_role("radio")


def weighing(page: Page) -> dict[str, Any]:
    """What the server says of the photo that is shown."""
    expect(page).to_have_url(re.compile(r"/photos/\d+"))
    found = re.search(r"/photos/(\d+)", page.url)
    assert found
    value: dict[str, Any] = json.loads(page.request.get(f"/api/photos/{found[1]}/at/0").text())
    return value


def pages(page: Page) -> list[dict[str, Any]]:
    """What the server says of all pages."""
    value: list[dict[str, Any]] = json.loads(page.request.get("/api/pages").text())["pages"]
    return value


def limit_words(value: dict[str, Any]) -> str:
    """The limit of a search as the page writes it."""
    limit_bytes = value["search"]["limit_bytes"]
    if limit_bytes is None:
        return "no limit"
    return f"limit {limit_bytes} B" if limit_bytes % 100 else f"limit {limit_bytes / 1000:g} kB"


def encodes_of(page: Page, path: str) -> int:
    """How many encodes the server has of a photo."""
    return len(json.loads(page.request.get(path).text())["encodes"])


def drawn_as(plot: Locator) -> str:
    """What the plot says that it draws."""
    return plot.get_attribute("aria-label") or ""


def wait_until_weighed(page: Page) -> None:
    """Until the search has ended, and the page knows. An encode that was on its way to an earlier
    limit may join afterwards."""
    path = f"/api/photos/{weighing(page)['id']}/at/0"
    value = page.evaluate(_ONCE_ENDED, path)
    plot = page.get_by_role("group", name=f"encodes, {limit_words(value)}")
    expect(plot).to_be_visible()
    ends_at = time.monotonic() + 30
    while (count := f"of {encodes_of(page, path)} encodes") not in drawn_as(plot):
        assert time.monotonic() < ends_at, f"{drawn_as(plot)} is drawn, not {count}"
        page.wait_for_timeout(50)
    expect(candidates(page).first).to_be_attached()
    expect(page.get_by_role("button", name="Stop weighing")).to_have_count(0)


def set_field(page: Page, label: str, text: str) -> None:
    """Types into a field of the aim, presses Enter, and waits until the server has it."""
    field = page.get_by_role("region", name="Aim").get_by_label(label, exact=True)
    field.fill(text)
    with page.expect_response("**/aim"):
        field.press("Enter")


def choose_size(page: Page, name: str) -> None:
    """Chooses a named size."""
    sizes = page.get_by_label("Used as")
    text = sizes.get_by_role("option").filter(has_text=f"{name}, ").inner_text()
    with page.expect_response("**/aim"):
        sizes.select_option(label=text)


def set_aim(page: Page, limit: str, width: str) -> None:
    """Sets limit and place, and waits for the outcome."""
    set_field(page, "At most", limit)
    set_field(page, "Size", width)
    wait_until_weighed(page)
    expect(page.get_by_text(f"sent as {width.removesuffix(' px')} ×").first).to_be_visible()


def saved(page: Page) -> tuple[Download, bytes]:
    """Saves the file of the candidate that is looked at."""
    with page.expect_download() as download:
        page.get_by_role("link", name="Save file").click()
    return download.value, download.value.path().read_bytes()


def assert_accessible(where: Page | Locator) -> None:
    """An axe check of everything on the screen, or of a part of it that has changed."""
    page = where if isinstance(where, Page) else where.page
    if page.evaluate("() => !window.axe"):
        page.evaluate(_AXE.read_text())
    run = "axe.run({}, {{resultTypes: ['violations']}}).then((result) => result.violations)"
    if isinstance(where, Page):
        found = page.evaluate(run.format("document"))
    else:
        found = where.evaluate(f"(element) => {run.format('element')}")
    assert not found, [(v["id"], [node["html"] for node in v["nodes"]]) for v in found]


def take_button(page: Page) -> Locator:
    """What takes the candidate that is looked at."""
    return page.get_by_role("region", name="Decision").get_by_role(
        "button", name=re.compile("^Take ")
    )


def open_more(page: Page) -> None:
    """Shows what is folded away below the aim."""
    page.get_by_role("region", name="Aim").locator("summary").click()


def do_more(page: Page, act: str) -> None:
    """Does an act from the menu of the file that is looked at."""
    page.get_by_role("button", name="More of this file").click()
    page.get_by_role("menuitem", name=re.compile(f"^{act}")).click()
