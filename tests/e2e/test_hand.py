"""What a hand meets at once: dragging, the wheel, typing, and where the focus is afterwards."""

import json
import re
from typing import Any

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.builders import file, photo
from tests.e2e.here import ServedHere
from tests.e2e.steps import (
    aim_of,
    candidates,
    choose,
    drop,
    drop_all,
    names,
    open_weighed,
    small,
    take_button,
    wait_until_weighed,
    weighing,
)

pytestmark = pytest.mark.e2e
weighed = pytest.mark.weighed(file(photo(360, 260)), aim_of(360, 12_000, "jpeg"), "door.png")
_IS_FRAMED = """id => fetch(`/api/photos/${id}/at/0`).then((answer) => answer.json())
  .then((photo) => photo.framed && photo.search.state === 'done')"""
_FOCUS_IN_ROW = "() => document.activeElement.closest('tr') !== null"
_DISPLAYED = "picture => picture.complete && picture.naturalWidth > 0"


def begin(page: Page) -> Locator:
    """A weighed photo, and the stage."""
    open_weighed(page)
    return page.get_by_role("group", name="Pictures: drag")


def box_of(locator: Locator) -> dict[str, float]:
    box = locator.bounding_box()
    assert box
    return {**box}


def dragged(page: Page, start: tuple[float, float], by: tuple[float, float]) -> None:
    page.mouse.move(*start)
    page.mouse.down()
    page.mouse.move(start[0] + by[0], start[1] + by[1], steps=6)
    page.mouse.up()


@weighed
def test_the_wipe_line_is_dragged_by_its_middle_and_its_ends(page: Page) -> None:
    stage = begin(page)
    page.get_by_role("radio", name="Wipe").click()
    ends = page.get_by_role("slider", name="Wipe")
    expect(ends).to_have_count(2)
    area = box_of(stage)
    picture = box_of(page.get_by_alt_text("Original, framed"))
    middle = area["x"] + area["width"] / 2, area["y"] + area["height"] / 2
    dragged(page, middle, (-150, 0))
    moved = [int(each.get_attribute("aria-valuenow") or 0) for each in ends.all()]
    share = 100 * (0.5 - 150 / area["width"])
    assert moved == [pytest.approx(share, abs=2), pytest.approx(300 - share, abs=2)]
    first = box_of(ends.first)
    dragged(page, (first["x"] + first["width"] / 2, first["y"] + 4), (100, 0))
    after = int(ends.first.get_attribute("aria-valuenow") or 0)
    assert after == pytest.approx(share + 10_000 / area["width"], abs=2)
    assert box_of(page.get_by_alt_text("Original, framed")) == picture  # only the line has moved
    at = page.get_by_label("Line at")
    page.mouse.click(area["x"] + 0.7 * area["width"], middle[1] + 60)
    before = int(ends.first.get_attribute("aria-valuenow") or 0)
    assert before > after + 10
    at.fill("50 %")
    at.press("Enter")
    expect(at).to_have_value("50 %")
    placed = [int(each.get_attribute("aria-valuenow") or 0) for each in ends.all()]
    assert placed[0] + (300 - placed[1]) == pytest.approx(100, abs=2)
    assert placed[0] - (300 - placed[1]) == pytest.approx(10_000 / area["width"], abs=3)


@weighed
def test_the_wheel_zooms_to_what_lies_under_the_pointer(page: Page) -> None:
    stage = begin(page)
    area = box_of(stage)
    original = page.get_by_alt_text("Original, framed")
    at = area["x"] + area["width"] / 8, area["y"] + area["height"] / 4

    def under_pointer() -> tuple[float, float]:
        box = box_of(original)
        return (at[0] - box["x"]) / box["width"], (at[1] - box["y"]) / box["height"]

    page.get_by_role("radio", name="2:1").click()
    page.mouse.move(*at)
    before = under_pointer()
    page.mouse.wheel(0, -120)
    expect(page.get_by_role("radio", name="4:1")).to_be_checked()
    assert under_pointer() == pytest.approx(before, abs=0.005)
    page.wait_for_timeout(200)  # another push of the wheel
    page.mouse.wheel(0, 120)
    expect(page.get_by_role("radio", name="2:1")).to_be_checked()
    assert under_pointer() == pytest.approx(before, abs=0.005)


@weighed
def test_two_steps_of_the_journal_are_compared_though_their_pixels_were_let_go(
    page: Page, server: ServedHere
) -> None:
    begin(page)
    page.get_by_role("link", name="Frame", exact=True).click()
    with page.expect_response("**/framing"):
        page.get_by_role("button", name="Turn left").click()
    expect(page.get_by_role("region", name="Sharpening").get_by_role("heading")).to_contain_text(
        "×"
    )
    photo_id = weighing(page)["id"]
    page.wait_for_function(_IS_FRAMED, arg=photo_id)
    for _ in range(8):  # more than are kept
        page.request.post(
            "/api/room/reclaim", data={"forgets_removed": True}, headers={"Origin": server.url}
        )
    page.get_by_role("tab", name="Journal").click()
    boxes = page.get_by_role("checkbox", name=re.compile("^Compare "))
    boxes.nth(0).click()
    boxes.nth(boxes.count() - 1).click()
    pictures = page.get_by_role("main", name="Comparison").get_by_role("img")
    expect(pictures).to_have_count(2)
    for picture in pictures.all():
        page.wait_for_function(_DISPLAYED, arg=picture.element_handle())


@weighed
def test_the_focus_stays_where_the_hand_is(page: Page) -> None:
    begin(page)
    take = take_button(page)
    take.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Put back")).to_be_focused()
    page.keyboard.press("Enter")
    expect(take).to_be_focused()

    drop_all(page, {f"{name}.png": small(seed) for seed, name in enumerate("abc", start=5)})
    page.get_by_role("link", name="Page", exact=True).click()
    expect(page.get_by_role("row")).to_have_count(5)
    menu = page.get_by_role("button", name="More for b.png")
    menu.focus()
    page.keyboard.press("Enter")
    page.get_by_role("menuitem", name="Remove").focus()
    page.keyboard.press("Enter")
    expect(menu).to_have_count(0)
    page.wait_for_function(_FOCUS_IN_ROW)

    for opener in ("Treatments", "open the picture library"):
        page.get_by_role("button", name=opener, exact=True).focus()
        page.keyboard.press("Enter")
        close = page.get_by_role("complementary").get_by_role("button", name="Close", exact=True)
        expect(close).to_have_count(1)
        close.focus()
        page.keyboard.press("Enter")
        expect(page.get_by_role("button", name=opener, exact=True)).to_be_focused()


def test_escape_closes_a_menu_and_leaves_what_is_selected(page: Page) -> None:
    page.goto("/")
    drop_all(page, {f"{name}.png": small(seed) for seed, name in enumerate("abc")})
    expect(page.get_by_role("row")).to_have_count(4)
    page.keyboard.press("Control+a")
    expect(page.get_by_text("3 selected")).to_be_visible()
    page.get_by_role("button", name="Treatment", exact=True).click()
    expect(page.get_by_role("menu")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("menu")).to_have_count(0)
    expect(page.get_by_text("3 selected")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_text("3 selected")).to_have_count(0)


@pytest.mark.parametrize("width_px", [1024, 1280])
@weighed
def test_nothing_lies_over_its_labels_or_past_the_window(page: Page, width_px: int) -> None:
    page.set_viewport_size({"width": width_px, "height": 768})
    begin(page)
    take_button(page).click()
    expect(page.get_by_role("button", name="Put back")).to_be_visible()
    for screen in ("Frame", "Pack", "Weigh", "Page"):
        page.get_by_role("link", name=screen, exact=True).click()
        page.get_by_role("main").wait_for()
        assert page.evaluate("document.scrollingElement.scrollWidth") <= width_px
    page.get_by_role("link", name="Frame", exact=True).click()
    panel = box_of(page.get_by_role("tab", name="What came in"))
    for inside in (
        page.get_by_role("region", name="Picture"),
        page.get_by_role("button", name="Reset"),
        page.get_by_role("button", name="Automatic"),
        page.get_by_role("group", name="Before and after"),
    ):
        box = box_of(inside)
        assert box["x"] + box["width"] <= panel["x"]


def test_one_encode_is_one(page: Page) -> None:
    page.goto("/")
    begin_with_one_encode(page)
    page.get_by_text("Why", exact=True).click()
    expect(page.get_by_text("1 encode was weighed.")).to_be_visible()
    expect(page.get_by_text("1 encodes")).to_have_count(0)


def begin_with_one_encode(page: Page) -> None:
    """A photo whose page says that a single encode was made of it."""

    def once(route: Any) -> None:
        answer = route.fetch()
        said = answer.json()
        if said["search"]["state"] == "done":
            formats = [{**each, "encodes": 0} for each in said["search"]["formats"]]
            said["search"]["formats"] = [{**formats[0], "encodes": 1}, *formats[1:]]
        route.fulfill(response=answer, body=json.dumps(said))

    page.route(re.compile(r"/api/photos/\d+/at/0$"), once)
    drop(page, "a.png", small())
    expect(candidates(page).first).to_be_attached()
    wait_until_weighed(page)


def test_the_second_of_two_quick_reorderings_builds_on_the_first(page: Page) -> None:
    page.goto("/")
    drop_all(page, {f"{name}.png": small(seed) for seed, name in enumerate("abcd")})
    expect(page.get_by_role("row")).to_have_count(5)
    order = names(page)
    held: list[Any] = []
    is_held = True
    page.route(
        re.compile(r"/api/photos/\d+$"),
        lambda route: held.append(route) if is_held else route.continue_(),
    )
    for name, key in ((order[0], "ArrowDown"), (order[3], "ArrowUp")):
        handle = page.get_by_role("button", name=f"Move {name}")
        handle.focus()
        page.keyboard.press("Space")
        page.wait_for_timeout(100)
        for _ in range(2):
            page.keyboard.press(key)
            page.wait_for_timeout(100)
        page.keyboard.press("Space")
        page.wait_for_timeout(300)
    is_held = False
    for route in held:
        route.continue_()
    expected = [order[1], order[3], order[2], order[0]]
    rows = page.get_by_role("row").get_by_role("link", name=re.compile(r"^[abcd]\.png$"))
    expect(rows).to_have_text(expected)
    page.wait_for_function(
        "want => fetch('/api/pages').then(a => a.json())"
        ".then(p => p.pages[0].photos.map(x => x.name).join() === want)",
        arg=",".join(expected),
    )


@weighed
def test_a_dial_moved_out_and_back_follows_what_others_decide(
    page: Page, server: ServedHere
) -> None:
    begin(page)
    page.get_by_role("link", name="Frame", exact=True).click()
    dial = page.get_by_role("slider", name="Straighten, in degrees")
    thumb = box_of(dial)
    at = thumb["x"] + thumb["width"] / 2, thumb["y"] + thumb["height"] / 2
    page.mouse.move(*at)
    page.mouse.down()
    page.mouse.move(at[0] + 20, at[1], steps=4)
    page.mouse.move(*at, steps=4)
    page.mouse.up()
    expect(dial).to_have_attribute("aria-valuenow", "0")
    path = f"/api/photos/{weighing(page)['id']}/framing"
    page.request.patch(path, data={"straighten_deg": 3}, headers={"Origin": server.url})
    expect(dial).to_have_attribute("aria-valuenow", "3")


def test_a_size_typed_for_many_is_read_by_the_server(page: Page) -> None:
    page.goto("/")
    drop_all(page, {f"{name}.png": small(seed) for seed, name in enumerate("ab")})
    expect(page.get_by_role("row")).to_have_count(3)
    page.keyboard.press("Control+a")
    field = page.get_by_role("region", name="Selection").get_by_label("At most")
    field.fill("a lot")
    field.press("Enter")
    expect(page.get_by_text("“a lot” is not a size")).to_be_visible()
    field.fill("64.1 kB")
    with page.expect_response("**/selection/aim"):
        field.press("Enter")
    expect(page.get_by_text("64.1 kB").first).to_be_visible()
    choose(page, "More for the selection", "Remove 2 photos")
