"""How long a person waits for the damage, in the browser: for the strip of the best candidate once
its search has ended, and for each trouble spot once it was chosen by key."""

import tempfile
from dataclasses import dataclass
from pathlib import Path

from playwright.sync_api import Page
from tools.browser import headless_browser
from tools.served import Served

#: Resolves with the milliseconds from the end of a search to the strip with its pictures.
_STRIP_MS = """async () => {
  const until = async (holds) => {
    while (!holds()) await new Promise(requestAnimationFrame)
    return performance.now()
  }
  const strip = () => document.querySelector('[aria-label="Trouble spots"]')
  const isEnded = () => document.querySelector('[aria-label="Candidates"] input') &&
    ![...document.querySelectorAll('button')].some((b) => b.textContent === 'Stop weighing')
  const isThere = () => {
    const pictures = [...(strip()?.querySelectorAll('li img') ?? [])]
    return pictures.length > 0 && pictures.every((each) => each.complete)
  }
  const [ended, there] = await Promise.all([until(isEnded), until(isThere)])
  return there - ended
}"""
#: Presses the key and resolves with the milliseconds until another spot is chosen and painted.
_SPOT_MS = """async () => {
  const chosen = () => document.querySelector('[aria-label="Trouble spots"] [aria-pressed=true]')
  const before = chosen()
  const start = performance.now()
  document.body.dispatchEvent(
    new KeyboardEvent('keydown', { key: 't', code: 'KeyT', bubbles: true }))
  do await new Promise(requestAnimationFrame)
  while (!chosen() || chosen() === before)
  await Promise.all([...document.querySelectorAll('[aria-label=Stage] img')].map((i) => i.decode()))
  await new Promise((done) => requestAnimationFrame(() => setTimeout(done)))
  return performance.now() - start
}"""


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """Milliseconds of one photo; those of the strip are negative where it was there before the
    search had ended."""

    photo: str
    strip_ms: float
    spots_ms: list[float]


def measure(files: dict[str, bytes]) -> list[Row]:
    """One photo after the other, at the place and limit that a first photo has."""
    with tempfile.TemporaryDirectory() as folder, headless_browser() as browser:
        served = Served(Path(folder) / "bench.sqlite3")
        try:
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.set_default_timeout(120_000)
            return [_measured(page, served.url, *item) for item in files.items()]
        finally:
            served.end()


def _measured(page: Page, url: str, name: str, data: bytes) -> Row:
    answer = page.request.post(
        f"{url}/api/photos",
        headers={"Origin": url},
        multipart={"photo": {"name": name, "mimeType": "application/octet-stream", "buffer": data}},
    )
    page.goto(f"{url}/photos/{answer.json()['id']}")
    strip_ms = page.evaluate(_STRIP_MS)
    spots = page.get_by_role("region", name="Trouble spots").get_by_role("listitem").count()
    spots_ms = [page.evaluate(_SPOT_MS) for _ in range(spots)] if spots > 1 else []
    return Row(photo=name, strip_ms=strip_ms, spots_ms=spots_ms)
