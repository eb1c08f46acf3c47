"""How long a person waits after a key press on the marker, in the browser: for the part on the
stage, and for the file. Browser and workers share the cores."""

import tempfile
from dataclasses import dataclass
from pathlib import Path

from playwright.sync_api import Page
from tools.browser import headless_browser
from tools.served import Served

#: 1.5 megapixels of a photo of three by two.
WIDTH_PX = 1500
LIMIT_BYTES = 200_000
PRESSES = 6
#: Presses the key on the marker; resolves with the milliseconds until the part is painted, and
#: until the file has taken its place; with nothing where the file was there before.
_PRESS_MS = """async () => {
  const frame = () => new Promise(requestAnimationFrame)
  const name = 'Draft of the part in sight'
  const part = () => document.querySelector(`[alt="${name}"], [aria-label="${name}"]`)
  const marker = document.querySelector('[role=slider][aria-label$="on its curve"]')
  const before = marker.ariaValueNow
  const start = performance.now()
  marker.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowLeft', bubbles: true }))
  while (!part() && marker.ariaValueNow === before) await frame()
  if (!part()) return null
  await part().decode?.()
  await new Promise((done) => requestAnimationFrame(() => setTimeout(done)))
  const seen = performance.now() - start
  while (part()) await frame()
  return [seen, performance.now() - start]
}"""


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """Milliseconds of each press, to the part and to the file."""

    format: str
    parts_ms: list[float]
    files_ms: list[float]


def measure(name: str, data: bytes) -> list[Row]:
    """One photo in the formats that have quality steps close to each other."""
    with tempfile.TemporaryDirectory() as folder, headless_browser() as browser:
        served = Served(Path(folder) / "bench.sqlite3")
        try:
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.set_default_timeout(120_000)
            _weigh(page, served.url, name, data)
            return [_measured(page, each) for each in ("JPEG", "WebP", "AVIF", "PNG")]
        finally:
            served.end()


def _weigh(page: Page, url: str, name: str, data: bytes) -> None:
    headers = {"Origin": url}
    added = page.request.post(
        f"{url}/api/photos",
        headers=headers,
        multipart={"photo": {"name": name, "mimeType": "application/octet-stream", "buffer": data}},
    )
    photo = f"{url}/api/photos/{added.json()['id']}"
    aim = {"css_width_px": WIDTH_PX, "density": 1, "limit_bytes": LIMIT_BYTES}
    page.request.patch(f"{photo}/aim", headers=headers, data=aim)
    while page.request.get(f"{photo}/at/0").json()["search"]["state"] == "running":
        page.wait_for_timeout(500)
    page.goto(photo.replace("/api", ""))


def _measured(page: Page, name: str) -> Row:
    page.get_by_role("region", name="Candidates").get_by_role("row", name=name).first.click()
    page.get_by_role("slider", name=f"{name} on its curve", disabled=False).wait_for()
    pairs = [pair for _ in range(PRESSES) if (pair := page.evaluate(_PRESS_MS))]
    return Row(format=name, parts_ms=[p for p, _ in pairs], files_ms=[f for _, f in pairs])
