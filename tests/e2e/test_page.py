import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.builders import file, photo
from tests.e2e.steps import (
    assert_accessible,
    choose,
    drop,
    drop_all,
    names,
    pages,
    small,
    take_button,
    wait_until_weighed,
)

pytestmark = pytest.mark.e2e


def test_one_bad_file_among_ten_is_named_and_harms_none(page: Page) -> None:
    page.goto("/")
    files = {f"photo-{i:02}.png": small(i) for i in range(9)}
    drop_all(page, {**files, "broken.png": small()[:900]})
    expect(page.get_by_role("region", name="Adding photos")).to_contain_text("to go")
    assert_accessible(page)
    expect(page.get_by_role("alert")).to_contain_text("“broken.png” is cut off")
    expect(page.get_by_role("row")).to_have_count(10)
    expect(page.get_by_role("status").filter(has_text="Adding photos")).to_have_count(0)
    assert sorted(names(page)) == sorted(files)
    page.get_by_role("alert").get_by_role("button", name="Close").click()
    expect(page.get_by_role("alert")).to_have_count(0)


def test_photos_are_named_ordered_moved_and_removed_with_undo(page: Page) -> None:
    page.goto("/")
    drop_all(page, {"one.png": small(1), "two.png": small(2), "three.png": small(3)})
    expect(page.get_by_role("row")).to_have_count(4)
    first, second, third = names(page)
    choose(page, f"More for {first}", "Rename")
    field = page.get_by_label(f"Name of {first}")
    field.fill("Jug")
    field.press("Enter")
    expect(page.get_by_role("link", name="Jug", exact=True)).to_be_visible()

    # Reordered by keyboard, then by mouse.
    second_id, third_id = (photo["id"] for photo in pages(page)[0]["photos"][1:])
    page.get_by_role("button", name=f"Move {third}").focus()
    for key, over_id in (("Space", third_id), ("ArrowUp", second_id)):
        page.keyboard.press(key)
        expect(page.get_by_text(f"over droppable area photo-{over_id}")).to_be_attached()
    with page.expect_response(re.compile(r"/api/photos/\d+$")):
        page.keyboard.press("Space")
    assert names(page) == ["Jug", third, second]
    handle = page.get_by_role("button", name="Move Jug").bounding_box()
    target = page.get_by_role("row").nth(3).bounding_box()
    assert handle
    assert target
    page.mouse.move(handle["x"] + 4, handle["y"] + 10)
    page.mouse.down()
    page.mouse.move(handle["x"] + 10, target["y"] + 40, steps=8)
    with page.expect_response(re.compile(r"/api/photos/\d+$")):
        page.mouse.up()
    assert names(page) == [third, second, "Jug"]

    page.get_by_role("button", name="New page").click()
    page.get_by_label("Name of the new page").fill("Journal")
    page.get_by_label("Name of the new page").press("Enter")
    expect(page.get_by_text("“Journal” has no photos yet")).to_be_visible()
    page.get_by_role("link", name="First page").click()
    choose(page, "More for Jug", "Move to Journal")
    expect(page.get_by_role("row")).to_have_count(3)
    assert names(page, 1) == ["Jug"]
    choose(page, f"More for {second}", "Remove")
    expect(page.get_by_role("row")).to_have_count(2)
    page.get_by_role("link", name="First page").focus()
    page.keyboard.press("Control+z")
    expect(page.get_by_role("row")).to_have_count(3)
    page.keyboard.press("Control+z")
    expect(page.get_by_role("row")).to_have_count(4)
    page.keyboard.press("Control+Shift+z")
    expect(page.get_by_role("row")).to_have_count(3)
    assert names(page, 1) == ["Jug"]
    choose(page, "More for page Journal", "Remove with 1 photo")
    expect(page.get_by_role("link", name="Journal")).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("link", name="Journal")).to_be_visible()


def test_a_pick_counts_against_the_budget(page: Page) -> None:
    page.goto("/")
    drop(page, "door.png", file(photo(200, 150)))
    wait_until_weighed(page)
    take_button(page).click()
    expect(page.get_by_role("button", name="Put back")).to_be_visible()
    page.get_by_role("navigation", name="Screens").get_by_role("link", name="Page").click()
    budget = page.get_by_label("Budget")
    budget.fill("1 kB")
    with page.expect_response(re.compile(r"/api/pages/\d+$")):
        budget.press("Enter")
    assert pages(page)[0]["totals"]["left_bytes"] < 0
    expect(page.get_by_role("region", name="Totals")).to_contain_text("over")
    expect(page.get_by_role("banner")).to_contain_text("over")
    assert_accessible(page)


def test_the_library_brings_photos_with_their_credit(page: Page) -> None:
    page.goto("/")
    expect(page.get_by_text("Drop a photo here.")).to_be_visible()
    assert_accessible(page)
    page.get_by_role("button", name="Open the picture library").click()
    library = page.get_by_role("complementary", name="Picture library")
    library.get_by_label("Width of Red cup, blue door").select_option(label="800 px")
    library.get_by_role("button", name="Add Red cup, blue door").click()
    row = page.get_by_role("row").filter(has_text="Red cup, blue door")
    expect(row).to_contain_text("800 × 533")
    assert_accessible(page)
    row.get_by_role("link", name="Frame Red cup, blue door").click()
    page.get_by_role("tab", name="What came in").click()
    came = page.get_by_role("region", name="What came in")
    expect(came).to_contain_text("Shingle Bank Picture Library")


def test_a_folder_is_added_with_all_that_is_meant_in_it(page: Page, tmp_path: Path) -> None:
    folder = tmp_path / "shoot"
    (folder / "more").mkdir(parents=True)
    (folder / "one.png").write_bytes(small(1))
    (folder / "more" / "two.png").write_bytes(small(2))
    (folder / ".hidden").write_bytes(b"x")
    (folder / "Thumbs.db").write_bytes(b"x")
    (folder / "notes.txt").write_text("Glaze at 1240 degrees.")
    page.goto("/")
    page.get_by_label("Folder of photos").set_input_files(folder)
    expect(page.get_by_role("row")).to_have_count(3)
    expect(page.get_by_role("alert")).to_contain_text("notes.txt")
    assert sorted(names(page)) == ["one.png", "two.png"]


def test_eight_tabs_load_and_share_one_stream(page: Page) -> None:
    """A browser opens six connections to a server, which streams would use up."""
    page.goto("/")
    drop(page, "one.png", small(1))
    expect(take_button(page)).to_be_visible()
    others = [page.context.new_page() for _ in range(7)]
    for other in others:
        other.goto("/")
        expect(other.get_by_role("row")).to_have_count(2)
    choose(others[-1], f"More for {names(others[-1])[0]}", "Remove")
    for other in others:
        expect(other.get_by_role("row")).to_have_count(0)


def test_adding_can_be_stopped(page: Page) -> None:
    page.goto("/")
    drop_all(page, {f"photo-{i:02}.png": small(i) for i in range(24)})
    expect(page.get_by_role("row").nth(1)).to_be_visible()
    page.get_by_role("button", name="Stop adding").click()
    expect(page.get_by_role("region", name="Adding photos")).to_have_count(0)
    assert 1 <= len(names(page)) < 24


def test_from_a_photo_that_is_gone_there_is_a_way_back(page: Page) -> None:
    page.goto("/photos/99")
    expect(page.get_by_text("There is no such photo, or it was removed.")).to_be_visible()
    page.get_by_role("link", name="Back to the photos").click()
    expect(page.get_by_role("link", name="Page", exact=True)).to_have_attribute(
        "aria-current", "page"
    )


def test_knobs_that_are_held_are_seen_in_the_row_and_released_there(page: Page) -> None:
    page.goto("/")
    drop_all(page, {"one.png": small(1), "two.png": small(2)})
    expect(page.get_by_text("Ready to take")).to_have_count(2)
    photo = pages(page)[0]["photos"][0]
    held = {"held": {"jpeg": {"quality": 61}}}
    path = f"/api/photos/{photo['id']}/aim"
    headers = {"Origin": page.url.rstrip("/").split("/pages")[0]}
    assert page.request.patch(path, data=held, headers=headers).status == 204
    row = page.get_by_role("row").filter(has_text=photo["name"])
    expect(row).to_contain_text("Held: JPEG")
    with page.expect_response("**/aim"):
        row.get_by_role("button", name=f"Release the knobs of {photo['name']}").click()
    expect(row).not_to_contain_text("Held:")
    assert pages(page)[0]["photos"][0]["aim"]["held"] == {}
