"""What people need who zoom in, choose their own colours, or use a keyboard alone."""

import pytest
from playwright.sync_api import Page, expect

from tests.builders import file, photo
from tests.e2e.steps import (
    aim_of,
    assert_accessible,
    drop_all,
    names,
    open_weighed,
    small,
    take_button,
)

pytestmark = pytest.mark.e2e
weighed = pytest.mark.weighed(file(photo(200, 150)), aim_of(200, 8_000, "jpeg", "webp"), "cup.png")
SCREENS = ("/pages/1", "/photos/1", "/photos/1/frame", "/pages/1/pack", "/pages/1/balance")
_CUT_OFF = """() => document.documentElement.scrollWidth - window.innerWidth"""


@weighed
def test_nothing_scrolls_sideways_in_a_small_window_or_at_a_large_zoom(page: Page) -> None:
    open_weighed(page)
    take_button(page).click()
    expect(page.get_by_role("button", name="Put back")).to_be_visible()
    for width in (320, 640):
        page.set_viewport_size({"width": width, "height": 640})
        for path in SCREENS:
            page.goto(path)
            expect(page.get_by_role("heading", level=2).first).to_be_visible()
            assert page.evaluate(_CUT_OFF) <= 0, (path, width)
        page.goto("/photos/1")
        pictures = page.get_by_role("group", name="Pictures")
        expect(pictures).to_be_visible()
        box = pictures.bounding_box()
        assert box
        assert box["height"] >= 240
        expect(page.get_by_role("region", name="Decision")).to_be_in_viewport()


@weighed
def test_what_is_chosen_has_a_shape_where_colours_are_forced(page: Page) -> None:
    page.emulate_media(forced_colors="active")
    open_weighed(page)
    outline = "element => getComputedStyle(element).outlineStyle"
    side, wipe = (page.get_by_role("radio", name=name) for name in ("Side by side", "Wipe"))
    assert (side.evaluate(outline), wipe.evaluate(outline)) == ("solid", "none")
    assert page.get_by_role("link", name="Weigh", exact=True).evaluate(outline) == "solid"


@weighed
def test_keys_are_listed_and_single_ones_can_be_turned_off(page: Page) -> None:
    open_weighed(page)
    page.keyboard.press("Tab")
    skip = page.get_by_role("button", name="To what is on the screen")
    expect(skip).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_role("main")).to_be_focused()
    page.keyboard.press("w")
    expect(page.get_by_role("radio", name="Wipe")).to_be_checked()
    page.keyboard.press("?")
    keys = page.get_by_role("dialog", name="Keys")
    expect(keys).to_be_visible()
    assert_accessible(keys)
    keys.get_by_label("Single keys work").uncheck()
    page.keyboard.press("Escape")
    page.keyboard.press("s")
    page.keyboard.press("b")
    expect(page.get_by_role("radio", name="Wipe")).to_be_checked()
    page.reload()
    page.get_by_role("group", name="Pictures").focus()
    page.keyboard.press("s")
    expect(page.get_by_role("radio", name="Wipe")).to_be_checked()
    page.get_by_role("button", name="Keys").click()
    keys.get_by_label("Single keys work").check()
    page.keyboard.press("Escape")
    page.keyboard.press("s")
    expect(page.get_by_role("radio", name="Side by side")).to_be_checked()


#: Gives each element that Tab comes to a number of its own; none for the document.
_STOP = """() => {
  const at = document.activeElement
  if (!at || at === document.body) return null
  window.stops ??= new Map()
  if (!window.stops.has(at)) window.stops.set(at, window.stops.size)
  return window.stops.get(at)
}"""


def stops_of(page: Page) -> list[int]:
    """What Tab comes to, one after the other, until it is around."""
    page.evaluate("() => document.activeElement.blur()")
    stops: list[int] = []
    while True:
        page.keyboard.press("Tab")
        stop = page.evaluate(_STOP)
        if stop is None or (stop == 0 and stops):
            return stops
        stops.append(stop)
        assert stops == list(range(len(stops))), "Tab comes to something twice"


@weighed
@pytest.mark.parametrize(
    ("path", "most"), [("/photos/1", 44), ("/photos/1/frame", 40), ("/pages/1", 30)]
)
def test_tab_goes_through_all_of_a_screen_and_is_held_nowhere(
    page: Page, path: str, most: int
) -> None:
    open_weighed(page)
    take_button(page).click()  # so that Undo has something to say
    page.goto(path)
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    assert 10 < len(stops_of(page)) <= most


def test_a_table_is_one_stop_and_arrows_go_through_it(page: Page) -> None:
    page.goto("/")
    drop_all(page, {"one.png": small(1), "two.png": small(2), "three.png": small(3)})
    expect(page.get_by_text("Ready to take")).to_have_count(3)
    first, second = (page.get_by_role("checkbox", name=f"Select {n}") for n in names(page)[:2])
    first.focus()
    page.keyboard.press("ArrowDown")
    expect(second).to_be_focused()
    page.keyboard.press("ArrowRight")
    expect(page.get_by_role("button", name=f"Move {names(page)[1]}")).to_be_focused()
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("Tab")
    page.keyboard.press("Shift+Tab")
    expect(second).to_be_focused()
