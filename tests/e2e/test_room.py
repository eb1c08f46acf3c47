import pytest
from playwright.sync_api import Page, expect

from tests.e2e.steps import assert_accessible, choose, drop_all, names, small

pytestmark = pytest.mark.e2e


def test_room_is_given_back_and_says_how_much(page: Page) -> None:
    page.goto("/")
    drop_all(page, {"one.png": small(1), "two.png": small(2)})
    expect(page.get_by_text("Ready to take")).to_have_count(2)
    choose(page, "More for the workspace", "Free disk space")
    room = page.get_by_role("region", name="Workspace")
    expect(room).to_contain_text("can be freed")
    assert_accessible(page)
    room.get_by_role("button", name="Cancel").click()
    choose(page, f"More for {names(page)[0]}", "Remove")
    expect(page.get_by_role("row")).to_have_count(2)
    choose(page, "More for the workspace", "Free disk space")
    room.get_by_role("checkbox", name="Forget removed photos").check()
    before = page.request.get("/api/room").json()
    room.get_by_role("button", name="Free ").click()
    expect(room).not_to_contain_text("can be freed")
    after = page.request.get("/api/room").json()
    assert after["removed_bytes"] == 0 < before["removed_bytes"]
    assert after["file_bytes"] < before["file_bytes"]
    expect(page.get_by_role("button", name="Undo")).to_be_disabled()
    expect(page.get_by_role("row")).to_have_count(2)
