"""What a person does on the page, by roles and labels."""

import base64
from pathlib import Path

from playwright.sync_api import Locator, Page, expect

_AXE = Path(__file__).parents[2] / "frontend/node_modules/axe-core/axe.min.js"
_DROP = """async ([name, base64]) => {
  const bytes = Uint8Array.from(atob(base64), (c) => c.charCodeAt(0))
  const transfer = new DataTransfer()
  transfer.items.add(new File([bytes], name))
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


def drop(page: Page, name: str, data: bytes) -> None:
    """Drops a file on the page."""
    page.get_by_role("main").wait_for()
    page.evaluate(_DROP, [name, base64.b64encode(data).decode()])


def paste(page: Page, name: str, data: bytes) -> None:
    """Pastes a file."""
    page.get_by_role("main").wait_for()
    page.evaluate(_PASTE, [name, base64.b64encode(data).decode()])


def candidates(page: Page) -> Locator:
    """The candidates that can be looked at."""
    return page.get_by_role("region", name="Candidates").get_by_role("radio")


def wait_until_weighed(page: Page) -> None:
    """Until no format is weighed any more."""
    expect(candidates(page).first).to_be_attached()
    expect(page.get_by_role("button", name="Stop weighing")).to_have_count(0, timeout=60_000)


def set_field(page: Page, label: str, text: str) -> None:
    """Types into a field of the aim and presses Enter."""
    field = page.get_by_role("region", name="Aim").get_by_label(label)
    field.fill(text)
    field.press("Enter")


def set_aim(page: Page, limit: str, width: str) -> None:
    """Sets limit and place, and waits for the outcome."""
    set_field(page, "At most", limit)
    set_field(page, "Stands", width)
    expect(page.get_by_text(f"framed to {width.removesuffix(' px')} ×").first).to_be_visible()
    wait_until_weighed(page)


def assert_accessible(page: Page) -> None:
    """An axe check of everything on the screen."""
    page.evaluate(_AXE.read_text())
    found = page.evaluate("axe.run().then((result) => result.violations)")
    assert not found, [(v["id"], [node["html"] for node in v["nodes"]]) for v in found]
