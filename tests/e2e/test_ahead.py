"""What idle workers do while somebody looks at a photo."""

import re
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.builders import file, photo
from tests.e2e.here import ServedHere
from tests.e2e.steps import assert_accessible, drop, open_more, set_field, weighing
from tests.executors import LentPool

pytestmark = pytest.mark.e2e

SOFT = file(np.asarray(cv2.GaussianBlur(photo(400, 270), (0, 0), 1), np.uint8))


@pytest.fixture
def server(tmp_path: Path, workers: LentPool) -> Iterator[ServedHere]:
    running = ServedHere(tmp_path / "workspace.sqlite3", workers, works_ahead=True)
    yield running
    running.end()


def until(page: Page, holds: Callable[[dict[str, Any]], object]) -> dict[str, Any]:
    """What the server says of the photo, once its AVIF has 4 kB and something holds."""
    for _ in range(600):
        value = weighing(page)
        aim = value["aim"]
        if (aim["formats"], aim["limit_bytes"]) == (["avif"], 4_000) and holds(value):
            return value
        page.wait_for_timeout(100)
    raise AssertionError("It takes too long.")


def size_words(encode: dict[str, Any]) -> str:
    return f"{encode['size_bytes'] / 1000:.1f} kB"


def test_a_better_candidate_does_not_take_the_place_of_what_is_looked_at(page: Page) -> None:
    page.goto("/")
    drop(page, "soft.png", SOFT)
    aim = page.get_by_role("region", name="Aim")
    open_more(page)
    with page.expect_response("**/aim"):
        for name in ("JPEG", "WebP"):  # one after the other, and none is lost
            aim.get_by_label(name, exact=True).click()
    with page.expect_response("**/aim"):
        aim.get_by_role("combobox", name="Looks").select_option(label="the best it can")
    set_field(page, "Size", "300")
    set_field(page, "At most", "4 kB")
    tag = page.get_by_role("region", name="Stage").get_by_text(re.compile("^AVIF, "))
    weighed = until(page, lambda value: value["search"]["state"] == "done")
    (before,) = [
        encode for encode in weighed["encodes"] if encode["id"] in weighed["candidate_ids"]
    ]
    expect(tag).to_contain_text(size_words(before))
    value = until(page, lambda value: value["improved"])
    assert [each["before_id"] for each in value["improved"]] == [before["id"]]
    (better,) = [encode for encode in value["encodes"] if encode["id"] in value["candidate_ids"]]
    assert better["likeness"] > before["likeness"]
    improved = page.get_by_role("region", name="Candidates").get_by_role("row", name="improved")
    expect(improved).to_be_visible()
    expect(tag).to_contain_text(size_words(before))
    assert min(encode["likeness"] for encode in value["encodes"] if encode["is_draft"]) < 50
    assert max(encode["likeness"] for encode in value["encodes"]) > 88
    chart = page.get_by_role("region", name="Chart")
    expect(chart.get_by_text("AVIF").first).to_be_visible()
    assert_accessible(chart)
    improved.click()
    page.get_by_text("Why", exact=True).click()
    expect(page.get_by_text("Tried once more while you looked")).to_be_visible()
    expect(tag).to_contain_text(size_words(better))
    page.reload()
    expect(tag).to_contain_text(size_words(better))
