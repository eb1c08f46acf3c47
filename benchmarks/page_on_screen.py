"""Hundreds of photos dropped on a page at once, and that page in the browser."""

import json
import tempfile
import time
from dataclasses import dataclass
from pathlib import Path

import psutil
from playwright.sync_api import Page
from tests.e2e.steps import drop_all
from tools.browser import headless_browser
from tools.served import Served

from benchmarks.waiting_photos import small_png

#: Scrolls to the end and gives the longest time between two frames.
_SCROLL = """async () => {
  const main = document.querySelector('main')
  let longest = 0, last = performance.now()
  while (main.scrollTop + main.clientHeight < main.scrollHeight - 1) {
    main.scrollTop += 400
    await new Promise(requestAnimationFrame)
    const now = performance.now()
    longest = Math.max(longest, now - last)
    last = now
  }
  return longest
}"""


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """Seconds until all were taken in, and of each third; the memory of server and workers before
    and at the most; files refused; and of the page: milliseconds until its rows are there, rows in
    the document, and the longest frame while scrolling."""

    dropped_s: float
    thirds_s: list[float]
    memory_bytes: tuple[int, int]
    refused: int
    opens_ms: float
    rows_drawn: int
    longest_frame_ms: float


def measure(photos: int) -> Row:
    """Photos of 64 x 48 pixels, of which one is broken."""
    files = [(f"{i}.png", small_png(i)) for i in range(photos)]
    files[photos // 2] = ("broken.png", b"\x89PNG\r\n\x1a\n, cut off")
    with tempfile.TemporaryDirectory() as folder, headless_browser() as browser:
        served = Served(Path(folder) / "bench.sqlite3")
        try:
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(served.url)
            return _measured(page, served, files)
        finally:
            served.end()


def _measured(page: Page, served: Served, files: list[tuple[str, bytes]]) -> Row:
    memory = [_memory_bytes(served)]
    drop_all(page, dict(files))
    start = time.perf_counter()
    ends: list[float] = []
    while len(ends) < 3:
        memory.append(_memory_bytes(served))
        if _count(page, served) >= (len(ends) + 1) * (len(files) - 1) // 3:
            ends.append(time.perf_counter() - start)
        time.sleep(0.2)
    refused = page.get_by_text("broken.png").count()
    start = time.perf_counter()
    page.goto(served.url)
    page.get_by_role("row").nth(3).wait_for()
    opens_ms = (time.perf_counter() - start) * 1000
    rows_drawn = page.get_by_role("row").count()
    longest_frame_ms = page.evaluate(_SCROLL)
    return Row(
        dropped_s=ends[-1],
        thirds_s=[end - before for end, before in zip(ends, [0.0, *ends], strict=False)],
        memory_bytes=(memory[0], max(memory)),
        refused=refused,
        opens_ms=opens_ms,
        rows_drawn=rows_drawn,
        longest_frame_ms=longest_frame_ms,
    )


def _count(page: Page, served: Served) -> int:
    pages = json.loads(page.request.get(f"{served.url}/api/pages").text())["pages"]
    return sum(len(each["photos"]) for each in pages)


def _memory_bytes(served: Served) -> int:
    total = 0
    for each in (served.process, *served.workers()):
        try:
            total += each.memory_info().rss
        except psutil.Error:
            continue
    return total
