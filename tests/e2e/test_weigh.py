import io
import math
import re
import signal
from itertools import product

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Browser, Page, Route, expect
from tools.served import Served

from tests.builders import cutout, file, oriented, photo
from tests.e2e.here import ServedHere
from tests.e2e.steps import (
    aim_of,
    assert_accessible,
    candidates,
    drop,
    open_more,
    open_weighed,
    pages,
    paste,
    saved,
    set_aim,
    set_field,
    take_button,
    wait_until_weighed,
    weighing,
)

pytestmark = pytest.mark.e2e
PHOTO = file(photo(200, 150), "JPEG", quality=92)
weighed = pytest.mark.weighed(PHOTO, aim_of(150, 5_000, "jpeg", "webp"))
DENSE = file(photo(400, 300))
RUINED = file(photo(320, 240), "JPEG", quality=95)


def test_the_whole_job_with_the_mouse(page: Page) -> None:
    page.goto("/")
    drop(page, "Blaue Tür.jpg", oriented(photo(150, 200), 6))
    expect(page).to_have_url(re.compile(r"/photos/\d+$"))
    wait_until_weighed(page)
    set_aim(page, "6 kB", "160 px")
    before = weighing(page)
    assert before["aim"]["limit_bytes"] == 6_000
    assert before["source"]["width_px"] == 200

    set_field(page, "At most", "4 kB")
    expect(page.get_by_text("limit 4 kB").first).to_be_visible()
    wait_until_weighed(page)
    after = weighing(page)
    encodes = {encode["id"]: encode for encode in after["encodes"]}
    offered = [encodes[i] for i in after["candidate_ids"]]
    assert {encode["settings"]["format"] for encode in offered} == {"jpeg", "webp", "avif"}
    assert all(encode["size_bytes"] <= 4_000 for encode in offered)

    page.get_by_role("radio", name="Wipe").click()
    page.get_by_role("radio", name="2:1").click()
    expect(page.get_by_role("slider", name="Wipe")).to_have_count(2)
    page.get_by_role("radio", name="Side by side").click()
    candidates(page).nth(1).locator("xpath=ancestor::tr").click()
    chosen = offered[1]
    stage = page.get_by_role("region", name="Stage")
    expect(stage.get_by_text(f"{chosen['width_px']} × {chosen['height_px']}").last).to_be_visible()

    take_button(page).click()
    expect(page.get_by_role("button", name="Put back")).to_be_visible()
    expect(page.get_by_role("navigation", name="Photos").get_by_text("of 4 kB")).to_be_visible()
    download, data = saved(page)
    kind = chosen["settings"]["format"]
    assert len(data) == chosen["size_bytes"] <= 4_000
    suffix = "jpg" if kind == "jpeg" else kind
    assert download.suggested_filename == f"blaue-tur-{chosen['width_px']}.{suffix}"
    with Image.open(io.BytesIO(data)) as image:
        assert image.format == kind.upper()
        assert image.size == (chosen["width_px"], chosen["height_px"])


@pytest.mark.killed
@weighed
def test_nothing_is_lost_when_the_server_is_killed(page: Page, server: Served) -> None:
    open_weighed(page)
    take_button(page).click()
    expect(page.get_by_text("taken", exact=True)).to_be_visible()
    _, before = saved(page)
    kept = weighing(page)
    server.end(signal.SIGKILL)
    server.start()
    page.reload()
    expect(page.get_by_text("taken", exact=True)).to_be_visible()
    expect(page.get_by_label("At most")).to_have_value("5 kB")
    assert weighing(page) == kept
    assert saved(page)[1] == before


@weighed
def test_a_server_that_is_away_is_said_and_comes_back_by_itself(
    page: Page, server: ServedHere
) -> None:
    open_weighed(page)
    server.end()
    take_button(page).click()
    expect(page.get_by_role("alert").first).to_contain_text("The server does not answer")
    assert_accessible(page.get_by_role("alert").first)
    server.start()
    take_button(page).click()
    expect(page.get_by_role("button", name="Put back")).to_be_visible()
    expect(page.get_by_role("alert")).to_have_count(0)


def test_the_whole_job_with_the_keyboard(page: Page) -> None:
    page.goto("/")
    paste(page, "pasted.jpg", PHOTO)
    wait_until_weighed(page)
    set_aim(page, "5000 B", "160")
    candidates(page).first.focus()
    page.keyboard.press("ArrowDown")
    expect(candidates(page).nth(1)).to_be_checked()
    page.get_by_role("group", name="Pictures").focus()
    for key, name in (("w", "Wipe"), ("4", "4:1"), ("f", "Fit"), ("s", "Side by side")):
        page.keyboard.press(key)
        expect(page.get_by_role("radio", name=name)).to_be_checked()
    page.keyboard.press("w")
    end = page.get_by_role("slider", name="Wipe, first end")
    end.focus()
    page.keyboard.press("ArrowRight")
    expect(end).to_have_attribute("aria-valuenow", "52")
    page.keyboard.press("s")
    stage = page.get_by_role("region", name="Stage")
    page.keyboard.down("o")
    expect(stage.get_by_text("Original, 160 × 120")).to_have_count(2)
    page.keyboard.up("o")
    expect(stage.get_by_text("Original, 160 × 120")).to_have_count(1)
    page.get_by_label("At most").press("w")
    expect(page.get_by_role("radio", name="Side by side")).to_be_checked()
    page.get_by_role("radio", name="Side by side").focus()  # what it does is told to keyboards too
    expect(page.get_by_role("tooltip")).to_contain_text("Original left, candidate right")
    page.get_by_label("At most").fill("5 kB")
    candidates(page).nth(1).focus()
    page.keyboard.down("o")
    expect(stage.get_by_text("Original, 160 × 120")).to_have_count(2)
    page.keyboard.up("o")
    take_button(page).focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Put back")).to_be_visible()
    page.reload()
    expect(candidates(page).nth(1)).to_be_checked()


@pytest.mark.weighed(PHOTO, aim_of(200, 200_000, "jpeg", "webp"))
def test_pictures_move_together_and_pixels_stay_crisp(page: Page) -> None:
    open_weighed(page)
    page.get_by_role("radio", name="4:1").click()
    pictures = page.get_by_role("region", name="Stage").get_by_role("figure").locator("> div")
    start = [pictures.nth(i).bounding_box() for i in range(2)]
    box = page.get_by_role("group", name="Pictures").bounding_box()
    assert box
    page.mouse.move(box["x"] + 100, box["y"] + 100)
    page.mouse.down()
    page.mouse.move(box["x"] + 160, box["y"] + 130, steps=4)
    page.mouse.up()
    for i in range(2):
        moved, before = pictures.nth(i).bounding_box(), start[i]
        assert moved
        assert before
        assert moved["x"] - before["x"] == pytest.approx(60, abs=1)
        assert moved["y"] - before["y"] == pytest.approx(30, abs=1)
        assert moved["width"] == 200 * 4
        look = (
            pictures.nth(i)
            .locator("img, canvas")
            .evaluate("e => getComputedStyle(e).imageRendering")
        )
        assert look == "pixelated"


def test_a_bad_file_is_named_and_changes_nothing(page: Page) -> None:
    page.goto("/")
    drop(page, "cut.jpg", PHOTO[: len(PHOTO) // 2])
    expect(page.get_by_role("alert")).to_contain_text("“cut.jpg” is cut off")
    assert pages(page)[0]["photos"] == []
    page.get_by_role("alert").get_by_role("button", name="Close").click()
    expect(page.get_by_role("alert")).to_have_count(0)


@weighed
def test_where_nothing_fits_there_is_a_way_out(page: Page) -> None:
    open_weighed(page)
    set_field(page, "At most", "100 B")
    notice = page.get_by_role("status", name="Nothing fits")
    expect(notice).to_contain_text("Nothing fits 0.1 kB")
    assert_accessible(notice)
    notice.get_by_role("button", name="Allow").click()
    expect(notice).to_have_count(0)
    wait_until_weighed(page)
    after = weighing(page)
    assert after["encodes"]
    assert after["search"]["limit_bytes"] < 4_000
    page.get_by_label("At most").fill("lots")
    page.get_by_label("At most").press("Enter")
    expect(page.get_by_text("is not a size")).to_be_visible()
    assert weighing(page)["aim"] == after["aim"]


@pytest.mark.weighed(RUINED, aim_of(320, 1_500))
def test_a_limit_that_ruins_a_photo_is_told_with_one_that_would_do(page: Page) -> None:
    open_weighed(page)
    told = page.get_by_role("status", name="Limit")
    expect(told).to_contain_text("is too little here")
    assert_accessible(told)
    for _ in range(6):  # what would do is an estimate, and may fall a little short
        if weighing(page)["rescue"]:
            with page.expect_response("**/aim"):
                told.get_by_role("button", name="Allow").click()
            wait_until_weighed(page)
    assert weighing(page)["rescue"] is None
    expect(told).to_have_count(0)


def test_a_search_that_ends_while_its_photo_is_fetched_is_known_to_have_ended(page: Page) -> None:
    states = []

    def answer_late(route: Route) -> None:
        before = route.fetch()
        states.append(before.json()["search"]["state"])
        while weighing(page)["search"]["state"] == "running":
            page.wait_for_timeout(50)
        page.wait_for_timeout(1_000)  # nothing is announced any more
        route.fulfill(response=before)

    one_photo = re.compile(r"/api/photos/\d+/at/0$")
    page.goto("/")
    page.route(one_photo, answer_late, times=1)
    with page.expect_request(one_photo):  # the page's own, before anybody else asks
        drop(page, "new.jpg", file(photo(200, 150, seed=91)))
    wait_until_weighed(page)
    assert states == ["running"]


@weighed
def test_two_tabs_show_the_same(page: Page) -> None:
    open_weighed(page)
    other = page.context.new_page()
    other.goto(page.url)
    wait_until_weighed(other)
    set_field(page, "At most", "3 kB")
    expect(other.get_by_label("At most")).to_have_value("3 kB")
    wait_until_weighed(other)
    take_button(other).click()
    expect(page.get_by_role("button", name="Put back")).to_be_visible()


@pytest.mark.weighed(file(cutout(160, 120)), aim_of(160, 20_000, "jpeg", "webp"), "bottle.png")
def test_transparency_stands_on_the_colour_of_the_page(page: Page) -> None:
    open_weighed(page)
    open_more(page)
    with page.expect_response("**/framing"):
        page.get_by_label("Colour of the page behind it").fill("#204060")
    expect(page.get_by_text("filled", exact=True)).to_be_visible()
    wait_until_weighed(page)
    wait_until_weighed(page)
    jpegs = [e for e in weighing(page)["encodes"] if e["settings"]["format"] == "jpeg"]
    assert "#204060" in {e["settings"]["background"] for e in jpegs}


@pytest.mark.weighed(DENSE, aim_of(200, 9_000, "jpeg"), "door.png")
def test_a_dense_photo_is_judged_as_it_is_seen_or_pixel_by_pixel(page: Page) -> None:
    open_weighed(page)
    expect(page.get_by_text("Judged")).to_have_count(0)
    open_more(page)
    with page.expect_response("**/aim"):
        page.get_by_role("radio", name="2×").click()
    expect(page.get_by_text("Judged as it is seen at 2×")).to_be_visible()
    wait_until_weighed(page)
    as_seen = best_likeness(page)
    assert_accessible(page.get_by_role("region", name="Stage"))
    with page.expect_response("**/aim"):
        page.get_by_role("button", name="Pixel by pixel").click()
    expect(page.get_by_text("Judged pixel by pixel")).to_be_visible()
    wait_until_weighed(page)
    assert best_likeness(page) < as_seen - 5
    with page.expect_response("**/aim"):
        page.get_by_role("button", name="As it is seen").click()
    wait_until_weighed(page)
    assert best_likeness(page) == as_seen


def best_likeness(page: Page) -> float:
    photo = weighing(page)
    return float(next(e["likeness"] for e in photo["encodes"] if e["id"] == photo["default_id"]))


def test_the_screen_is_accessible_while_and_after_weighing(page: Page) -> None:
    page.goto("/")
    drop(page, "large.jpg", file(photo(400, 300), "JPEG", quality=90))
    expect(page.get_by_role("button", name="Stop weighing")).to_be_visible()
    assert_accessible(page)
    wait_until_weighed(page)
    page.get_by_role("radio", name="Wipe").click()
    assert_accessible(page)


@pytest.mark.weighed(PHOTO, aim_of(200, 200_000, "jpeg", "webp"))
def test_steps_are_undone_with_the_same_keys_here(page: Page) -> None:
    open_weighed(page)
    set_aim(page, "5 kB", "160")
    take_button(page).click()
    expect(page.get_by_role("button", name="Put back")).to_be_visible()
    page.get_by_role("group", name="Pictures").focus()
    page.keyboard.press("Control+z")
    expect(take_button(page)).to_be_visible()
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    expect(page.get_by_label("At most")).to_have_value("200 kB")
    expect(page.get_by_role("button", name="Undo")).to_be_disabled()
    page.keyboard.press("Control+z")
    expect(page.get_by_role("alert")).to_have_count(0)
    for _ in range(3):
        page.keyboard.press("Control+Shift+z")
    expect(page.get_by_role("button", name="Put back")).to_be_visible()
    expect(page.get_by_label("At most")).to_have_value("5 kB")


@weighed
@pytest.mark.parametrize("ratio", [1, 2])
def test_at_1_to_1_a_pixel_is_a_pixel_of_the_screen(
    browser: Browser, server: ServedHere, ratio: int
) -> None:
    context = browser.new_context(
        base_url=server.url, viewport={"width": 1280, "height": 800}, device_scale_factor=ratio
    )
    page = context.new_page()
    open_weighed(page)
    page.get_by_role("radio", name="1:1").click()
    framed = weighing(page)["framed"]
    data = page.request.get(f"/api/framed/{framed['id']}/pixels").body()
    expected = np.asarray(Image.open(io.BytesIO(data)).convert("RGB"))
    box = page.get_by_alt_text("Original, framed").bounding_box()
    assert box
    assert (box["width"] * ratio, box["height"] * ratio) == expected.shape[1::-1]
    seen = np.asarray(Image.open(io.BytesIO(page.screenshot())).convert("RGB"))
    # The layout may lie between pixels of the screen, what is drawn may not.
    height_px, width_px = expected.shape[:2]
    corners = product(*({math.floor(box[at] * ratio) + by for by in (0, 1)} for at in "yx"))
    parts = [seen[top : top + height_px, left : left + width_px] for top, left in corners]
    assert any(np.array_equal(part, expected) for part in parts)
    context.close()


@weighed
def test_two_sizes_are_compared_in_one_place(page: Page) -> None:
    open_weighed(page)
    with page.expect_response("**/pick"):
        take_button(page).click()
    taken = next(e for e in weighing(page)["encodes"] if e["id"] in weighing(page)["picked_ids"])
    with page.expect_response("**/aim"):
        set_field(page, "Size", "150 long")  # the same pixels: what was taken stays
    expect(page.get_by_label("Size", exact=True)).to_have_value("150 px long")
    expect(page.get_by_role("button", name="Put back")).to_be_visible()
    expect(page).not_to_have_url(re.compile("against="))
    with page.expect_response("**/aim"):
        set_field(page, "Size", "60 %")
    wait_until_weighed(page)
    expect(page).to_have_url(re.compile(f"against={taken['id']}"))
    stage = page.get_by_role("region", name="Stage")
    expect(stage.get_by_text(re.compile("^Pinned .*, enlarged$"))).to_have_count(0)
    pinned = page.get_by_role("img", name=f"Pinned, {taken['name']}")
    expect(pinned).to_be_visible()
    before, after = (
        each.bounding_box() for each in (pinned, page.get_by_role("img", name="Candidate"))
    )
    assert before
    assert after
    assert (before["width"], before["height"]) == (after["width"], after["height"])
    words = page.get_by_role("region", name="Candidates")
    expect(words).to_contain_text(f"of another size: likeness {taken['likeness']:.1f} there")
    with page.expect_response("**/aim"):
        set_field(page, "Size", "50x50")
    wait_until_weighed(page)
    expect(words).to_contain_text("shows another part of the photo, and is let go")
    expect(pinned).to_have_count(0)
