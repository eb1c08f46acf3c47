"""The damage on Weigh: spots by key, overlays, ways to compare, marks, and a slow arrival."""

import re
import time

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.builders import file, photo
from tests.e2e.steps import (
    aim_of,
    assert_accessible,
    open_weighed,
    weighing,
)

pytestmark = pytest.mark.e2e
weighed = pytest.mark.weighed(
    file(photo(240, 160)), aim_of(240, 200_000, "jpeg", "webp"), "door.png"
)


def ruin(page: Page) -> int:
    """A JPEG of the photo that nobody would take."""
    base, _, path = page.url.partition("/photos/")
    made = page.request.post(
        f"{base}/api/photos/{path.partition('?')[0]}/at/0/encodes",
        data={"settings": {"format": "jpeg", "quality": 4, "chroma": "4:2:0"}},
        headers={"Origin": base},
    )
    return int(made.json()["id"])


def look_at(page: Page, encode_id: int) -> None:
    page.goto(f"{page.url.partition('?')[0]}?candidate={encode_id}")


def spots(page: Page) -> Locator:
    return (
        page.get_by_role("region", name="Trouble spots")
        .get_by_role("listitem")
        .get_by_role("button")
    )


@weighed
def test_the_damage_is_walked_laid_over_compared_and_marked(page: Page) -> None:
    open_weighed(page)
    look_at(page, ruin(page))
    the_spots_are_walked_by_key(page)
    an_area_is_marked_by_keys_and_undone(page)
    an_arrival_is_slow(page)
    kinds_are_laid_over_and_pictures_compared(page)


def the_spots_are_walked_by_key(page: Page) -> None:
    expect(spots(page).first).to_be_visible()
    strip = page.get_by_role("region", name="Trouble spots")
    expect(strip.get_by_role("status")).to_contain_text(re.compile(r"strongly|smoothed|show|ring"))
    for key, number in (("t", 0), ("t", 1), ("Shift+T", 0)):
        page.keyboard.press(key)
        expect(spots(page).nth(number)).to_have_attribute("aria-pressed", "true")
    zoom = page.get_by_role("radio", name=re.compile("^[124]:1$"))
    assert any(one.is_checked() for one in zoom.all())
    assert_accessible(page)


def kinds_are_laid_over_and_pictures_compared(page: Page) -> None:
    page.get_by_role("combobox", name="Show damage").select_option("lost-detail")
    overlay = page.get_by_role("img", name="Where lost detail is seen")
    expect(overlay).to_be_visible()
    assert overlay.evaluate("image => image.decode().then(() => image.naturalWidth)") == 30
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
    expect(page.get_by_role("group", name="Difference")).to_contain_text("16 of 255 levels")
    assert_accessible(page)
    page.emulate_media(reduced_motion="reduce")
    page.reload()
    page.get_by_role("radio", name="Blink").click()
    expect(page.get_by_role("button", name="Go", exact=True)).to_be_visible()  # by hand only


def an_area_is_marked_by_keys_and_undone(page: Page) -> None:
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


def an_arrival_is_slow(page: Page) -> None:
    page.get_by_role("tab", name="Loading").click()
    speed = page.get_by_label("Speed of line 1")
    speed.fill("0.02")
    speed.press("Enter")
    page.get_by_role("button", name="Watch").first.click()
    began = time.monotonic()
    picture = page.get_by_role("img", name="Arriving")
    assert not picture.evaluate("image => image.complete")
    picture.evaluate("image => image.decode()")
    assert time.monotonic() - began > 0.4  # one round trip of it
    page.reload()
    page.get_by_role("tab", name="Loading").click()
    expect(page.get_by_label("Speed of line 1")).to_have_value("0.02")


@weighed
def test_blind_rounds_with_a_ruined_candidate_and_with_an_identical_one(page: Page) -> None:
    open_weighed(page)
    best = max(weighing(page)["encodes"], key=lambda encode: float(encode["likeness"]))
    assert best["likeness"] == 100
    for encode_id, tells in ((ruin(page), True), (best["id"], False)):
        look_at(page, encode_id)
        page.get_by_role("tab", name="Your eye").click()
        page.get_by_role("button", name="Blind check").click()
        answer_all(page, tells=tells)
        outcome = page.get_by_role("region", name="Stage").get_by_role("status")
        expect(outcome).to_contain_text(re.compile(r"in 10 of 10" if tells else r"in \d+ of 10"))
        page.get_by_role("button", name="Back to the candidates").click()
        assert weighing(page)["outcomes"][-1]["words"].startswith("Told ")
    expect(page.get_by_role("list").get_by_text("Told")).to_have_count(2)


_SAME = """async ([first, second]) => {
  const pixels = async (src) => {
    const image = new Image()
    image.src = src
    await image.decode()
    const canvas = new OffscreenCanvas(image.naturalWidth, image.naturalHeight)
    const context = canvas.getContext('2d')
    context.drawImage(image, 0, 0)
    return context.getImageData(0, 0, canvas.width, canvas.height).data
  }
  const [one, other] = [await pixels(first), await pixels(second)]
  return one.length === other.length && one.every((code, i) => code === other[i])
}"""


def answer_all(page: Page, *, tells: bool) -> None:
    """Ten rounds by somebody who compares every pixel, or who always says A."""
    group = page.get_by_role("group", name="Blind round")
    pixels = f"/api/framed/{weighing(page)['framed']['id']}/pixels"
    for number in range(10):
        expect(group.get_by_role("status")).to_have_text(f"Round {number + 1} of 10")
        expect(group.get_by_role("button", name="A", exact=True)).to_be_enabled()
        if number == 0:
            for told in ("Outcome", "Candidates", "Trouble spots", "Chart", "Decision"):
                expect(page.get_by_role("region", name=told)).to_have_count(0)
            page.keyboard.press("x")
            expect(page.get_by_role("img", name=re.compile("^B,"))).to_be_visible()
            assert_accessible(page)
        shown = page.get_by_role("region", name="Stage").locator("img[alt^='A,']")
        is_a = not tells or page.evaluate(_SAME, [shown.get_attribute("src"), pixels])
        group.get_by_role("button", name="A" if is_a else "B", exact=True).click()
