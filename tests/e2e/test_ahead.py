"""What idle workers do while somebody looks at a photo."""

import re
from collections.abc import Iterator
from pathlib import Path

import cv2
import numpy as np
import pytest
from playwright.sync_api import Page, expect
from tools.served import Served

from tests.builders import file, photo
from tests.e2e.steps import assert_accessible, drop, set_field, weighing

SOFT = file(np.asarray(cv2.GaussianBlur(photo(600, 400), (0, 0), 1), np.uint8))


@pytest.fixture
def server(tmp_path: Path) -> Iterator[Served]:
    running = Served(tmp_path / "workspace.sqlite3", "--workers", "2")
    yield running
    running.end()


def test_a_better_candidate_does_not_take_the_place_of_what_is_looked_at(page: Page) -> None:
    page.goto("/")
    drop(page, "soft.png", SOFT)
    aim = page.get_by_role("region", name="Aim")
    for name in ("JPEG", "PNG", "WebP"):
        with page.expect_response("**/aim"):
            aim.get_by_label(name, exact=True).click()
    set_field(page, "Stands", "400")
    set_field(page, "At most", "8 kB")
    tag = page.get_by_role("region", name="Stage").get_by_text(re.compile("^AVIF, "))
    expect(page.get_by_role("button", name="Stop weighing")).to_have_count(0)
    expect(tag).to_be_visible()
    chart = page.get_by_role("region", name="Chart")
    improved = page.get_by_role("region", name="Candidates").get_by_role("row", name="improved")
    expect(improved).to_be_visible()
    value = weighing(page)
    ((better_id, before_id),) = [(i["encode_id"], i["before_id"]) for i in value["improved"]]
    by_id = {encode["id"]: encode for encode in value["encodes"]}
    assert by_id[better_id]["likeness"] > by_id[before_id]["likeness"]
    expect(tag).to_contain_text(f"{by_id[before_id]['size_bytes'] / 1000:.1f} kB")
    assert any(encode["is_draft"] for encode in value["encodes"])
    assert max(encode["likeness"] for encode in value["encodes"] if encode["is_draft"]) > 85
    expect(chart.get_by_text("AVIF").first).to_be_visible()
    assert_accessible(page)
    improved.click()
    expect(page.get_by_text("Tried once more with the slowest settings")).to_be_visible()
    expect(tag).to_contain_text(f"{by_id[better_id]['size_bytes'] / 1000:.1f} kB")
    page.reload()
    expect(tag).to_contain_text(f"{by_id[better_id]['size_bytes'] / 1000:.1f} kB")
