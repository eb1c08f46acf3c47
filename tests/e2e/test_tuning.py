import io
import re
import time
from typing import Any

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Locator, Page, Route, expect

from lean_parcel.core.formats import Format
from tests.builders import cutout, file, photo
from tests.e2e.steps import (
    aim_of,
    assert_accessible,
    candidates,
    do_more,
    open_more,
    open_weighed,
    saved,
    set_field,
    take_button,
    wait_until_weighed,
    weighing,
)

FILE = "/api/encodes/{id}/file?key={file_key}"
pytestmark = pytest.mark.e2e
DOOR = file(photo(300, 200))
ENCODES = "**/encodes"
FITTING = file(photo(300, 200), "JPEG", quality=70)


def weighed(*formats: Format) -> pytest.MarkDecorator:
    """The door, weighed in these formats, or in all."""
    return pytest.mark.weighed(DOOR, aim_of(300, 6_000, *formats), "door.png")


def begin(page: Page, name: str = "JPEG") -> None:
    """A photo that was weighed, and its best candidate of a format in sight."""
    open_weighed(page)
    choose(page, name)


def choose(page: Page, name: str) -> None:
    """Looks at the first candidate of a format."""
    candidates(page).and_(page.get_by_role("radio", name=name)).first.locator(
        "xpath=ancestor::tr"
    ).click()


def marker(page: Page) -> Locator:
    """The selected encode on the chart, once it can be moved."""
    return page.get_by_role("slider", name="on its curve", disabled=False)


def shown(page: Page) -> dict[str, Any]:
    """The encode in sight, as the server has it."""
    found = re.search(r"candidate=(\d+)", page.url)
    photo = weighing(page)
    encode_id = int(found[1]) if found else photo["default_id"]
    value: dict[str, Any] = next(each for each in photo["encodes"] if each["id"] == encode_id)
    return value


def wait_until_shown(page: Page, **settings: object) -> None:
    """Waits until the encode in sight has these settings."""
    deadline = time.monotonic() + 15
    while not settings.items() <= shown(page)["settings"].items():
        assert time.monotonic() < deadline, shown(page)["settings"]
        page.wait_for_timeout(50)
    expect(page.get_by_text("Encoding …")).to_have_count(0)


def assert_all_agree(page: Page) -> None:
    """Bytes, picture, chart and table are of the file that is saved."""
    encode = shown(page)
    words = f"{encode['size_bytes'] / 1000:.1f} kB"
    selected = page.get_by_role("slider", name="on its curve")
    expect(selected).to_have_attribute("aria-valuetext", re.compile(f"^{re.escape(words)}, "))
    row = (
        page.get_by_role("region", name="Candidates")
        .get_by_role("row")
        .filter(has=page.locator("input:checked"))
    )
    expect(row).to_contain_text(words)
    expect(row).to_contain_text(f"{encode['likeness']:.1f}")
    source = page.get_by_role("region", name="Stage").get_by_role("img", name="Candidate")
    picture = page.request.get(f"/api/encodes/{encode['id']}/file").body()
    if encode["width_px"] == 300:
        expect(source).to_have_attribute("src", FILE.format(**encode))
    _, data = saved(page)
    assert data == picture
    assert len(data) == encode["size_bytes"]


@weighed("jpeg")
def test_the_marker_is_dragged_along_its_curve(page: Page) -> None:
    begin(page)
    before = shown(page)
    at = marker(page).bounding_box()
    assert at
    page.mouse.move(at["x"] + at["width"] / 2, at["y"] + at["height"] / 2)
    page.mouse.down()
    with page.expect_response(ENCODES):
        page.mouse.move(at["x"] + at["width"] / 2 - 80, at["y"] + 30)  # in one go: one encode
    page.mouse.up()
    expect(page.get_by_text("Encoding …")).to_have_count(0)
    after = shown(page)
    assert after["settings"]["quality"] < before["settings"]["quality"]
    assert after["settings"] == {**before["settings"], "quality": after["settings"]["quality"]}
    expect(page.get_by_text(re.compile("lighter, .* less alike"))).to_be_visible()
    assert_all_agree(page)
    assert_accessible(page.get_by_role("region", name="Chart"))


@weighed()
def test_the_marker_is_moved_by_keys(page: Page) -> None:
    begin(page)
    before = shown(page)
    marker(page).focus()
    with page.expect_response(ENCODES):
        page.keyboard.press("ArrowLeft")
    expect(marker(page)).to_have_attribute("aria-valuenow", str(before["settings"]["quality"] - 1))
    assert_all_agree(page)
    marker(page).focus()
    page.keyboard.press("Shift+ArrowRight")
    expect(page.get_by_text("Encoding …")).to_have_count(0)
    assert shown(page)["settings"]["quality"] > before["settings"]["quality"]
    for name in ("PNG", "WebP", "AVIF"):
        choose(page, name)
        start = shown(page)
        marker(page).focus()
        page.keyboard.press("ArrowLeft")
        expect(page).not_to_have_url(re.compile(rf"candidate={start['id']}$"))
        expect(page.get_by_text("Encoding …")).to_have_count(0)
    assert_all_agree(page)


@weighed("jpeg")
def test_undo_takes_back_a_turned_knob_and_then_what_was_done_before_it(page: Page) -> None:
    begin(page)
    with page.expect_response("**/aim"):
        set_field(page, "At most", "5 kB")
    wait_until_weighed(page)
    first = shown(page)
    tried = []
    for _ in range(2):
        marker(page).focus()
        with page.expect_response(ENCODES):
            page.keyboard.press("ArrowLeft")
        expect(page.get_by_text("Encoding …")).to_have_count(0)
        tried.append(shown(page))
    undo, redo = (page.get_by_role("button", name=each) for each in ("Undo", "Redo"))
    undo.click()
    assert shown(page) == tried[0]
    page.keyboard.press("Control+z")
    assert shown(page) == first
    redo.click()
    assert shown(page) == tried[0]
    undo.click()
    expect(page.get_by_label("At most")).to_have_value("5 kB")
    table = page.get_by_role("region", name="Candidates").get_by_role("table")
    rows = table.get_by_role("row").filter(has_text="kB")
    expect(rows.nth(-1)).to_contain_text(f"{tried[-1]['likeness']:.1f}")
    rows.nth(-2).click()
    assert shown(page) == tried[0]
    with page.expect_response("**/undo"):
        undo.click()  # chosen by hand: what a knob led to is not gone back from
    expect(page.get_by_label("At most")).to_have_value("6 kB")


@weighed("jpeg")
def test_what_the_whole_limit_buys_is_made_and_told_when_it_is_asked_for(page: Page) -> None:
    begin(page)
    aim = page.get_by_role("region", name="Aim")
    with page.expect_response("**/aim"):
        aim.get_by_role("combobox", name="Looks").select_option(label="visible if you look")
    wait_until_weighed(page)
    with page.expect_response("**/aim"):
        set_field(page, "At most", "9 kB")
    wait_until_weighed(page)
    enough = shown(page)
    assert enough["size_bytes"] < 8_000
    row = page.get_by_role("region", name="Candidates").get_by_role("row", name="Use all 9 kB")
    row.click()
    expect(page).not_to_have_url(re.compile(f"candidate={enough['id']}"))
    expect(page.get_by_text("Encoding …")).to_have_count(0)
    assert enough["size_bytes"] < shown(page)["size_bytes"] <= 9_000
    expect(page).to_have_url(re.compile(f"against={enough['id']}"))
    expect(page.get_by_role("region", name="Outcome")).to_contain_text(
        re.compile("kB more (buy|take away)")
    )
    expect(page.get_by_role("heading", name="What the bytes buy")).to_be_visible()


@weighed("jpeg")
def test_the_limit_is_dragged_and_moved_by_keys(page: Page) -> None:
    begin(page)
    line = page.get_by_role("slider", name="Limit")
    line.focus()
    with page.expect_response("**/aim"):
        page.keyboard.press("ArrowLeft")
    expect(page.get_by_label("At most")).to_have_value("5 kB")
    wait_until_weighed(page)  # the chart may move until then
    at = line.bounding_box()
    assert at
    page.mouse.move(at["x"] + at["width"] / 2, at["y"] + 20)
    page.mouse.down()
    with page.expect_response("**/aim"):
        page.mouse.move(at["x"] - 60, at["y"] + 20, steps=4)
        page.mouse.up()
    wait_until_weighed(page)
    after = weighing(page)
    assert after["aim"]["limit_bytes"] < 5_000
    assert after["search"]["limit_bytes"] == after["aim"]["limit_bytes"]


@weighed("jpeg")
def test_knobs_are_turned_and_rule_each_other_out(page: Page) -> None:
    begin(page)
    panel = page.get_by_role("region", name="Tuning")
    panel.get_by_text("More knobs").click()
    expect(panel.get_by_role("combobox", name="Chroma")).to_have_count(0)
    with page.expect_response(ENCODES):
        panel.get_by_label("Adaptive quantisation").click()
    expect(page.get_by_text("Encoding …")).to_have_count(0)
    with page.expect_response(ENCODES):
        panel.get_by_role("combobox", name="Chroma").select_option(label="4:2:2")
    wait_until_shown(page, chroma="4:2:2", trellis=False)
    expect(panel.get_by_text("another encoder, which cannot do this").first).to_be_visible()
    expect(panel.get_by_label("Trellis")).to_have_count(0)
    with page.expect_response(ENCODES):
        panel.get_by_label("Progressive").click()
    wait_until_shown(page, chroma="4:2:2", trellis=False, progressive=False)
    assert_all_agree(page)
    panel.get_by_role("slider", name="Pixels sent").focus()
    with page.expect_response(ENCODES):
        page.keyboard.press("ArrowLeft")
    expect(page.get_by_text("Encoding …")).to_have_count(0)
    assert shown(page)["width_px"] == 285
    stage = page.get_by_role("region", name="Stage")
    expect(stage.get_by_text(re.compile(r"285 × 190, enlarged$"))).to_be_visible()
    at = panel.get_by_role("slider", name="Pixels sent").bounding_box()
    assert at
    page.mouse.move(at["x"] + at["width"] / 2, at["y"] + at["height"] / 2)
    page.mouse.down()
    page.mouse.move(at["x"] - 60, at["y"] + at["height"] / 2, steps=4)
    expect(panel.get_by_text(re.compile(r"^About [\d.]+ k?B$"))).to_be_visible()
    with page.expect_response(ENCODES):
        page.mouse.up()
    expect(panel.get_by_text(re.compile(r"^About [\d.]+ k?B$"))).to_have_count(0)
    expect(page.get_by_text("Encoding …")).to_have_count(0)
    number = panel.get_by_role("textbox", name="Pixels sent")
    number.fill("4")
    number.press("Enter")
    expect(panel.get_by_text("From 5 to 100.")).to_be_visible()
    with page.expect_response(ENCODES):
        number.fill("90 %")
        number.press("Enter")
    expect(page.get_by_text("Encoding …")).to_have_count(0)
    assert shown(page)["width_px"] == 270
    _, data = saved(page)
    with Image.open(io.BytesIO(data)) as image:
        assert image.size == (270, 180)
    assert_accessible(panel)
    take_button(page).click()
    expect(page.get_by_role("button", name="Put back")).to_be_visible()
    page.reload()
    expect(page.get_by_text("taken", exact=True)).to_be_visible()


@weighed("jpeg", "avif")
def test_two_encodes_are_pinned_against_each_other(page: Page) -> None:
    begin(page)
    pinned = shown(page)
    do_more(page, "Pin")
    stage = page.get_by_role("region", name="Stage")
    expect(stage.get_by_text(re.compile("^Pinned JPEG"))).to_be_visible()
    choose(page, "AVIF")
    expect(stage.get_by_role("img", name="Pinned, JPEG")).to_be_visible()
    expect(page.get_by_role("heading", name=re.compile("^What the bytes buy"))).to_be_visible()
    told = re.compile("more (buy nothing that is seen|take away)")
    expect(page.get_by_role("region", name="Outcome").get_by_text(told)).to_be_visible()
    assert f"against={pinned['id']}" in page.url
    page.get_by_role("group", name="Pictures").focus()
    page.keyboard.down("o")
    expect(stage.get_by_text(re.compile("^Original, \\d"))).to_have_count(2)
    page.keyboard.up("o")
    do_more(page, "Unpin")
    expect(stage.get_by_text(re.compile("^Original, \\d"))).to_have_count(1)


@pytest.mark.weighed(file(cutout(160, 120)), aim_of(160, 6_000, "webp"), "bottle.png")
def test_transparent_photos_have_a_knob_for_it(page: Page) -> None:
    open_weighed(page)
    choose(page, "WebP")
    panel = page.get_by_role("region", name="Tuning")
    if panel.get_by_label("Lossless", exact=True).is_checked():
        with page.expect_response(ENCODES):
            panel.get_by_label("Lossless", exact=True).click()
    panel.get_by_text("More knobs").click()
    slider = panel.get_by_role("slider", name="Alpha quality")
    slider.focus()
    with page.expect_response(ENCODES):
        page.keyboard.press("Home")
    expect(page.get_by_text("Encoding …")).to_have_count(0)
    assert shown(page)["settings"]["alpha_quality"] == 0
    _, data = saved(page)
    with Image.open(io.BytesIO(data)) as image:
        assert len(np.unique(np.asarray(image)[..., 3])) > 1


def candidates_of(value: dict[str, Any]) -> list[dict[str, Any]]:
    """What is offered, in its order."""
    by_id = {encode["id"]: encode for encode in value["encodes"]}
    return [by_id[encode_id] for encode_id in value["candidate_ids"]]


@weighed("jpeg", "webp")
def test_an_aim_has_a_limit_and_a_likeness_and_formats_can_be_left_out(page: Page) -> None:
    begin(page)
    aim = page.get_by_role("region", name="Aim")
    before = weighing(page)
    with page.expect_response("**/aim"):
        aim.get_by_role("combobox", name="Looks").select_option(label="visible if you look")
    wait_until_weighed(page)
    after = weighing(page)
    assert after["aim"]["likeness"] == 70
    assert candidates_of(after)[0]["size_bytes"] < candidates_of(before)[0]["size_bytes"] <= 6_000
    set_field(page, "At most", "")
    wait_until_weighed(page)
    after = weighing(page)
    assert after["aim"]["limit_bytes"] is None
    offered = candidates_of(after)
    assert all(encode["likeness"] >= 70 for encode in offered)
    assert [e["size_bytes"] for e in offered] == sorted(e["size_bytes"] for e in offered)
    expect(page.get_by_text("enough: 70")).to_be_visible()
    line = page.get_by_role("slider", name="Enough").bounding_box()
    assert line
    page.mouse.move(line["x"] + 30, line["y"] + line["height"] / 2)
    page.mouse.down()
    page.mouse.move(line["x"] + 30, line["y"] - 12, steps=4)
    expect(page.get_by_text(re.compile(r"enough: \d\d, about [\d.]+ k?B as "))).to_be_visible()
    with page.expect_response("**/aim"):
        page.mouse.up()
    wait_until_weighed(page)
    assert weighing(page)["aim"]["likeness"] > 70
    assert_accessible(aim)
    open_more(page)
    with page.expect_response("**/aim"):
        aim.get_by_role("button", name="Opens everywhere").click()
    wait_until_weighed(page)
    assert weighing(page)["aim"]["formats"] == ["jpeg", "png"]
    expect(page.get_by_role("region", name="Outcome")).to_contain_text("JPEG")
    with page.expect_response("**/aim"):
        aim.get_by_label("PNG", exact=True).click()
    wait_until_weighed(page)
    expect(aim.get_by_label("JPEG", exact=True)).to_be_disabled()
    page.keyboard.press("Control+z")
    expect(aim.get_by_label("PNG", exact=True)).to_be_checked()


@weighed("jpeg", "avif")
def test_the_part_in_sight_comes_first_marked_as_a_draft(page: Page) -> None:
    begin(page)
    choose(page, "AVIF")
    before = shown(page)
    held: list[Route] = []
    page.route(ENCODES, lambda route: held.append(route))
    marker(page).focus()
    with page.expect_response("**/glimpses"):
        for _ in range(9):  # beyond what searches have made
            page.keyboard.press("ArrowLeft")
    stage = page.get_by_role("region", name="Stage")
    expect(stage.get_by_text("Draft: AVIF, the part in sight")).to_be_visible()
    expect(stage.get_by_alt_text("Draft of the part in sight")).to_be_visible()
    expect(page.get_by_text("On the stage is a draft")).to_be_visible()
    expect(take_button(page)).to_be_disabled()
    assert shown(page) == before
    assert_accessible(stage)
    page.wait_for_timeout(500)
    held[-1].continue_()
    expect(stage.get_by_text(re.compile("^AVIF"))).to_be_visible()
    quality = int(marker(page).get_attribute("aria-valuenow") or 0)
    assert quality < before["settings"]["quality"]
    assert shown(page)["settings"] == {**before["settings"], "quality": quality}
    assert_all_agree(page)


@weighed("jpeg", "webp")
def test_sharpening_and_metadata_go_for_every_format(page: Page) -> None:
    begin(page)
    group = page.get_by_role("group", name="For every format")
    with page.expect_response("**/framing"):
        group.get_by_role("combobox", name="Metadata").select_option(value="nothing")
    wait_until_weighed(page)
    group.get_by_role("slider", name="Sharpening").focus()
    with page.expect_response("**/framing"):
        page.keyboard.press("ArrowRight")
    wait_until_weighed(page)
    framing = weighing(page)["framing"]
    assert framing["metadata"] == "nothing"
    assert framing["sharpen"]["amount_percent"] == 5
    page.get_by_role("button", name="Undo").click()
    expect(group.get_by_role("textbox", name="Sharpening")).to_have_value("0 %")


@pytest.mark.weighed(FITTING, aim_of(300, 90_000, "jpeg", "webp"))
def test_an_original_that_fits_is_kept_to_the_byte(page: Page) -> None:
    open_weighed(page)
    expect(page.get_by_text("Same pixels, fewer bytes")).to_be_visible()
    heavier = page.get_by_role("row").filter(has_text="heavier than the original")
    rows = candidates_of(weighing(page))
    assert sum(e["size_bytes"] > len(FITTING) for e in rows) == heavier.count() > 0
    choose(page, "WebP")
    choose(page, "Original")
    expect(page.get_by_text("nothing to tune")).to_be_visible()
    assert_all_agree(page)
    assert saved(page)[1] == FITTING  # which takes it
    assert_accessible(page)
    expect(page.get_by_role("button", name="Put back")).to_be_visible()
