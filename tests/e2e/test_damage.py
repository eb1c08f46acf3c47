"""The damage on Weigh: spots by key, overlays, ways to compare, marks, and a slow arrival."""

import re
import time

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.builders import file, photo
from tests.e2e.steps import (
    assert_accessible,
    candidates,
    drop,
    set_aim,
    wait_until_weighed,
    weighing,
)

pytestmark = pytest.mark.e2e


@pytest.fixture
def ruined(page: Page) -> Page:
    """A photo in too few bytes, its worst candidate in sight."""
    page.goto("/")
    drop(page, "door.png", file(photo(480, 320)))
    wait_until_weighed(page)
    set_aim(page, "3 kB", "480 px")
    candidates(page).last.locator("xpath=ancestor::tr").click()
    return page


def spots(page: Page) -> Locator:
    return (
        page.get_by_role("region", name="Trouble spots")
        .get_by_role("listitem")
        .get_by_role("button")
    )


def test_the_spots_are_walked_by_key(ruined: Page) -> None:
    page = ruined
    expect(spots(page).first).to_be_visible()
    strip = page.get_by_role("region", name="Trouble spots")
    expect(strip.get_by_role("status")).to_contain_text(re.compile(r"strongly|smoothed|show|ring"))
    for key, number in (("t", 0), ("t", 1), ("Shift+T", 0)):
        page.keyboard.press(key)
        expect(spots(page).nth(number)).to_have_attribute("aria-pressed", "true")
    zoom = page.get_by_role("radio", name=re.compile("^[124]:1$"))
    assert any(one.get_attribute("data-state") == "on" for one in zoom.all())
    assert_accessible(page)


def test_kinds_are_laid_over_and_pictures_compared(ruined: Page) -> None:
    page = ruined
    page.get_by_role("combobox", name="Show damage").select_option("lost-detail")
    overlay = page.get_by_role("img", name="Where lost detail is seen")
    expect(overlay).to_be_visible()
    assert overlay.evaluate("image => image.decode().then(() => image.naturalWidth)") == 60
    expect(page.get_by_role("note")).to_contain_text("lost detail")
    page.keyboard.press("b")
    blink = page.get_by_role("group", name="Blink")
    blink.get_by_role("button", name="Stop").click()
    stage = page.get_by_role("region", name="Stage")
    shown = stage.get_by_role("img", name="Original, framed")
    was_shown = shown.is_visible()
    page.keyboard.press("x")
    expect(shown).to_be_visible(visible=not was_shown)
    page.keyboard.press("d")
    page.get_by_role("combobox", name="Amplified").select_option("16 times")
    expect(page.get_by_role("group", name="Difference")).to_contain_text("16 of 255 codes")
    assert_accessible(page)


def test_people_who_asked_for_less_motion_blink_by_hand(ruined: Page) -> None:
    page = ruined
    page.emulate_media(reduced_motion="reduce")
    page.reload()
    page.get_by_role("radio", name="Blink").click()
    expect(page.get_by_role("button", name="Go", exact=True)).to_be_visible()


def test_an_area_is_marked_by_keys_and_undone(ruined: Page) -> None:
    page = ruined
    expect(spots(page).first).to_be_visible()
    page.get_by_role("group", name="Pictures").focus()
    page.keyboard.press("m")
    area = page.get_by_role("group", name="Area to mark")
    area.focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Shift+ArrowDown")
    area.get_by_role("button", name="Matters", exact=True).press("Enter")
    expect(page.get_by_text("matters", exact=True)).to_be_visible()
    (mark,) = weighing(page)["marks"]
    assert mark["matters"]
    assert mark["box"]["height_px"] == mark["box"]["width_px"] + 8
    page.keyboard.press("Control+z")
    expect(page.get_by_text("matters", exact=True)).to_have_count(0)
    assert weighing(page)["marks"] == []


def test_a_slow_arrival_is_seen_to_arrive_slowly(ruined: Page) -> None:
    page = ruined
    page.get_by_text("How it arrives").click()
    speed = page.get_by_label("Speed of line 1")
    speed.fill("0.02")
    speed.blur()
    size_bytes = weighing(page)["encodes"][0]["size_bytes"]
    assert size_bytes > 500
    page.get_by_role("button", name="Watch").first.click()
    began = time.monotonic()
    picture = page.get_by_role("img", name="Arriving")
    assert not picture.evaluate("image => image.complete")
    picture.evaluate("image => image.decode()")
    assert time.monotonic() - began > 0.4  # one round trip of it
    page.reload()
    page.get_by_text("How it arrives").click()
    expect(page.get_by_label("Speed of line 1")).to_have_value("0.02")
