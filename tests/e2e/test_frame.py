import io
import re
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from lean_parcel.core.decisions.aim import FIRST_AIM
from tests.builders import cutout, file, numbered, photo
from tests.e2e.here import ServedHere
from tests.e2e.steps import (
    assert_accessible,
    choose_size,
    drop,
    open_weighed,
    saved,
    set_field,
    wait_until_weighed,
    weighing,
)

pytestmark = pytest.mark.e2e
FIRST = replace(FIRST_AIM, formats=("jpeg",))
PATCH_PX = 40
#: 6 × 4 patches, turned.
TURNED_PX = (4 * PATCH_PX, 6 * PATCH_PX)


def located() -> bytes:
    """A JPEG that lies on its side, and tells how to turn it and where it was taken."""
    exif = Image.Exif()
    exif[0x0112] = 6
    exif[0x013B] = "Ida Quillfen"
    exif.get_ifd(0x8825).update({1: "N", 2: (54.0, 28.0, 12.0), 3: "W", 4: (0.0, 36.0, 30.0)})
    return file(numbered(6, 4, PATCH_PX), "JPEG", quality=98, subsampling=0, exif=exif)


def open_frame(page: Page, panel: str = "") -> None:
    """The Frame screen of the photo in sight."""
    page.get_by_role("navigation", name="Screens").get_by_role("link", name="Frame").click()
    expect(page.get_by_role("region", name="Picture").get_by_role("img")).to_be_visible()
    if panel:
        page.get_by_role("tab", name=panel).click()


def framing(page: Page) -> dict[str, Any]:
    """The framing that the server has."""
    value: dict[str, Any] = weighing(page)["framing"]
    return value


def press(page: Page, key: str, until: str = "**/framing") -> None:
    """Presses a key, and waits until the server has what came of it."""
    with page.expect_response(until):
        page.keyboard.press(key)


@pytest.mark.weighed(located(), FIRST, "jug.jpg")
def test_a_photo_is_framed_step_by_step_and_back(page: Page, server: ServedHere) -> None:
    open_weighed(page)
    set_field(page, "At most", "20 kB")
    open_frame(page, "What came in")
    came = page.get_by_role("region", name="What came in")
    expect(came.get_by_text("Mind:").first).to_be_visible()
    expect(came).to_contain_text("Ida Quillfen")
    assert_accessible(page)

    # Cropped by mouse, then one edge by keyboard.
    picture = page.get_by_role("region", name="Picture").get_by_role("img")
    picture.evaluate("picture => picture.decode()")
    image = picture.bounding_box()
    assert image
    scale = image["height"] / TURNED_PX[1]
    page.mouse.move(image["x"] + 10 * scale, image["y"] + 40 * scale)
    page.mouse.down()
    page.mouse.move(image["x"] + 140 * scale, image["y"] + 200 * scale, steps=5)
    with page.expect_response("**/framing"):
        page.mouse.up()
    by_mouse = framing(page)["crop"]
    expected = {"left_px": 10, "top_px": 40, "width_px": 130, "height_px": 160}
    assert by_mouse == pytest.approx(expected, abs=2)
    page.get_by_role("button", name="Crop, right edge").focus()
    press(page, "Shift+ArrowRight")
    by_key = framing(page)["crop"]
    assert by_key["width_px"] == pytest.approx(by_mouse["width_px"] + 10 / scale, abs=1)
    assert by_key["height_px"] == by_mouse["height_px"]

    # Straightened: held down, the key makes one step of the journal.
    page.get_by_role("slider", name="Straighten, in degrees").focus()
    with page.expect_response("**/framing"):
        for _ in range(5):
            page.keyboard.press("ArrowRight")
    assert framing(page)["straighten_deg"] == 0.5

    page.get_by_role("tab", name="Size and pixels").click()
    choose_size(page, "Thumbnail")
    expect(page.get_by_role("radiogroup", name="Fit of the size")).to_be_visible()
    with page.expect_response("**/aim"):
        page.get_by_role("radiogroup", name="Density").get_by_role("radio", name="1×").first.click()
    strip = page.get_by_role("region", name="Sharpening")
    # The automatic amount in the field changes with the pixels.
    expect(strip.get_by_role("heading")).to_contain_text("120 ×")
    strip.get_by_label("Amount", exact=True).fill("60")
    with page.expect_response("**/framing"):
        strip.get_by_label("Amount", exact=True).press("Enter")
    expect(strip.get_by_text("Sharpened 60 %")).to_be_visible()
    assert framing(page)["sharpen"]["amount_percent"] == 60
    assert_accessible(strip)

    # Three steps back, and one forth: the density again, but no sharpening, as it was.
    strip.get_by_role("group", name="Before and after").focus()
    for _ in range(3):
        press(page, "Control+z", "**/undo")
    assert weighing(page)["plan"]["css_width_px"] != 120
    for _ in range(3):
        press(page, "Control+Shift+z", "**/redo")
    done = weighing(page)
    assert done["framing"]["sharpen"]["amount_percent"] == 60
    assert (done["plan"]["css_width_px"], done["aim"]["place"]["density"]) == (120, 1)
    page.get_by_role("tab", name="Journal").click()
    expect(page.get_by_role("listitem").filter(has_text="Sharpen: 60 %")).to_contain_text("now")

    server.end()
    server.start()
    page.reload()
    expect(page.get_by_role("listitem").filter(has_text="Sharpen: 60 %")).to_contain_text("now")
    page.get_by_role("link", name="Weigh it").click()
    wait_until_weighed(page)
    assert {name: weighing(page)[name] for name in ("framing", "aim", "plan")} == {
        name: done[name] for name in ("framing", "aim", "plan")
    }
    _, data = saved(page)
    with Image.open(io.BytesIO(data)) as saved_image:
        assert saved_image.size == (120, 120)
        shown = np.asarray(saved_image.convert("RGB")).astype(int)
        exif = saved_image.getexif()
    framed_id = weighing(page)["framed"]["id"]
    framed = page.request.get(f"/api/framed/{framed_id}/pixels").body()
    expected_pixels = np.asarray(Image.open(io.BytesIO(framed)).convert("RGB")).astype(int)
    assert np.abs(shown - expected_pixels).mean() < 4
    assert exif.get_ifd(0x8825) == {}
    assert exif.get(0x0112, 1) == 1
    assert b"Ida Quillfen" in data
    # The middle of what is left is patch 14 of the upright picture, or one beside it.
    red = shown[60, 60, 0]
    box = done["plan"]["box"]
    column = int((box["left_px"] + box["width_px"] / 2) // PATCH_PX)
    row = int((box["top_px"] + box["height_px"] / 2) // PATCH_PX)
    stored = (3 - column) * 6 + row
    assert red == pytest.approx(40 + 8 * stored, abs=6)


def in_margins() -> bytes:
    """A photo within white margins."""
    framed = np.full((120, 200, 3), 250, np.uint8)
    framed[20:100, 50:170] = photo(120, 80)
    return file(framed)


@pytest.mark.weighed(in_margins(), FIRST, "scan.png")
def test_turns_trim_and_sizes(page: Page) -> None:
    open_weighed(page)
    open_frame(page, "Size and pixels")
    page.get_by_role("button", name="Trim margins").click()
    question = page.get_by_role("status").filter(has_text="Empty margins found")
    expect(question).to_contain_text("120 × 80")
    assert framing(page)["crop"] is None
    with page.expect_response("**/framing"):
        question.get_by_role("button", name="Trim").click()
    box = {"left_px": 50, "top_px": 20, "width_px": 120, "height_px": 80}
    assert framing(page)["crop"] == box
    for name in ("Turn right", "Flip"):
        with page.expect_response("**/framing"):
            page.get_by_role("button", name=name).click()
    assert framing(page)["crop"] == {**box, "left_px": 20, "top_px": 50, "width_px": 80} | {
        "height_px": 120
    }
    expect(page.get_by_label("Wide")).to_have_value("80")
    crop = page.get_by_role("group", name="Crop in pixels")
    crop.get_by_label("High").fill("100")
    with page.expect_response("**/framing"):
        crop.get_by_label("High").press("Enter")
    with page.expect_response("**/framing"):
        page.get_by_role("combobox", name="Crop", exact=True).select_option(label="1:1")
    assert framing(page)["crop"]["height_px"] == framing(page)["crop"]["width_px"] == 80

    size = page.get_by_role("region", name="Size", exact=True)
    type_size(page, "500")
    expect(size.get_by_text("500 × 500 px, sent as 80 × 80")).to_be_visible()
    with page.expect_response("**/framing"):
        size.get_by_label("May be enlarged").check()
    expect(size.get_by_text("500 × 500 px, sent as 500 × 500")).to_be_visible()
    assert weighing(page)["plan"]["width_px"] == 500
    with page.expect_response("**/framing"):
        page.get_by_role("button", name="Reset").click()
    assert framing(page)["orientation"] == 1
    assert framing(page)["crop"] is None


@pytest.mark.weighed(file(photo(300, 100)), FIRST, "wide.png")
def test_the_focus_point_moves_what_cover_keeps(page: Page) -> None:
    open_weighed(page)
    open_frame(page, "Size and pixels")
    type_size(page, "80x80")
    assert weighing(page)["plan"]["box"]["left_px"] == 100
    point = page.get_by_role("button", name="Focus point")
    at = point.bounding_box()
    assert at
    page.mouse.move(at["x"] + 14, at["y"] + 14)
    page.mouse.down()
    page.mouse.move(at["x"] + 500, at["y"] + 14, steps=4)
    with page.expect_response("**/framing"):
        page.mouse.up()
    assert weighing(page)["plan"]["box"]["left_px"] == 200
    point.focus()
    press(page, "ArrowLeft")
    assert framing(page)["focus"]["x"] < 1
    across = page.get_by_role("group", name="Focus point").get_by_label("Across")
    across.fill("30")
    with page.expect_response("**/framing"):
        across.press("Enter")
    expect(across).to_have_value("30 %")
    assert framing(page)["focus"]["x"] == 0.3


@pytest.mark.weighed(file(cutout(160, 120)), FIRST, "bottle.png")
def test_places_metadata_and_colours_are_chosen(page: Page) -> None:
    open_weighed(page)
    open_frame(page, "Size and pixels")
    page.get_by_role("button", name="Edit named sizes").click()
    page.get_by_role("button", name="Name 1200 px at 1×").click()
    page.get_by_label("Name of the new size").fill("Shelf")
    page.get_by_label("Name of the new size").press("Enter")
    width = page.get_by_label("Size of Shelf", exact=True)
    width.fill("100")
    with page.expect_response("**/places/*"):
        width.press("Enter")
    assert_accessible(page)
    page.get_by_role("button", name="Done").click()
    choose_size(page, "Shelf")
    expect(page.get_by_label("Size", exact=True).last).to_have_value("100 px")
    page.get_by_text("Resampling, colours, how it sharpens").click()
    for change in (
        lambda: page.get_by_label("Resample with").select_option(label="Mitchell"),
        lambda: page.get_by_role("radio", name="Gamma space").click(),
        lambda: page.get_by_label("Colours").select_option(value="display-p3"),
        lambda: page.get_by_label("Fill it in").click(),
        lambda: page.get_by_text("Everything", exact=True).click(),
    ):
        with page.expect_response("**/framing"):
            change()
    kept = framing(page)
    assert (kept["kernel"], kept["light"], kept["gamut"]) == ("mitchell", "gamma", "display-p3")
    assert (kept["fills_background"], kept["metadata"]) == (True, "everything")
    # The next photo begins with what the page says, and takes nothing over from this one.
    first_id = weighing(page)["id"]
    drop(page, "next.png", file(photo(200, 150)))
    expect(page).to_have_url(re.compile(rf"/photos/(?!{first_id}$)\d+$"))
    after = weighing(page)
    assert (after["framing"]["kernel"], after["framing"]["metadata"]) == ("lanczos3", "credit")
    assert after["aim"]["place"]["size"] == "1200 px"


@pytest.mark.weighed(file(photo(200, 150)), FIRST, "door.png")
def test_two_steps_of_the_journal_are_compared_and_gone_back_to(page: Page) -> None:
    open_weighed(page)
    open_frame(page, "Journal")
    with page.expect_response("**/framing"):
        page.get_by_role("button", name="Turn right").click()
    for words in ("Added", "Turn: turned right"):
        page.get_by_label(f"Compare {words}").click()
        expect(page.get_by_label(f"Compare {words}")).to_be_checked()
    comparison = page.get_by_role("main", name="Comparison of two steps")
    expect(comparison.get_by_role("row", name="Turn")).to_contain_text("as it came")
    expect(comparison.get_by_role("img")).to_have_count(2)
    comparison.get_by_role("radio", name="1:1").click()
    for picture in comparison.get_by_role("img").all():
        box = picture.bounding_box()
        assert box
        assert [box["width"], box["height"]] == picture.evaluate(
            "(e) => [e.naturalWidth, e.naturalHeight]"
        )
    assert_accessible(page)
    page.get_by_role("button", name="Close the comparison").click()
    with page.expect_response("**/current"):
        page.get_by_role("button", name="Added").click()
    expect(page.get_by_role("listitem").filter(has_text="Turn: turned right")).to_contain_text(
        "undone"
    )
    assert framing(page)["orientation"] == 1


#: What is typed, how it is shown then, and what comes of a photo of 400 × 300 pixels at 2×.
FORMS = (
    ("120", "120 px", "120 × 90 px, sent as 240 × 180"),
    ("80x80", "80 × 80 px", "80 × 80 px, sent as 160 × 160"),
    ("90 × 90 contained", "90 × 90 px contained", "90 × 68 px, sent as 180 × 135"),
    ("x 60", "60 px high", "80 × 60 px, sent as 160 × 120"),
    ("100 long", "100 px long", "100 × 75 px, sent as 200 × 150"),
    ("50 %", "50 %", "100 × 75 px, sent as 200 × 150"),
    ("as it came", "as it came", "200 × 150 px, sent as 400 × 300"),
    ("2,54 cm at 150 dpi", "2.54 cm wide at 150 dpi", "75 × 56 px, sent as 150 × 112"),
    ("1 in high", "1 in high", "128 × 96 px, sent as 256 × 192"),
)


def type_size(page: Page, text: str) -> None:
    size = page.get_by_role("region", name="Size", exact=True)
    size.get_by_label("Size", exact=True).fill(text)
    with page.expect_response("**/aim"):
        size.get_by_label("Size", exact=True).press("Enter")


@pytest.mark.weighed(file(photo(400, 300)), FIRST, "door.png")
def test_a_size_is_typed_in_one_field_in_every_form(page: Page) -> None:
    """Rail, table and page code say what stands beside the field, and the file has its pixels."""
    open_weighed(page)
    open_frame(page, "Size and pixels")
    size = page.get_by_role("region", name="Size", exact=True)
    with page.expect_response("**/aim"):
        size.get_by_role("radio", name="2×", exact=True).click()
    for typed, shown, comes_to in FORMS:
        type_size(page, typed)
        expect(size.get_by_label("Size", exact=True)).to_have_value(shown)
        expect(size.get_by_text(comes_to, exact=True)).to_be_visible()
        stands = comes_to.split(",")[0]
        expect(
            page.get_by_role("navigation", name="Photos").get_by_text(f"{stands}, 2×")
        ).to_be_visible()
    page.get_by_role("link", name="Page", exact=True).click()
    expect(page.get_by_role("row", name="door")).to_contain_text("128 × 96 at 2×")
    page.get_by_role("link", name="Weigh", exact=True).click()
    type_in = page.get_by_role("region", name="Aim").get_by_label("Size", exact=True)
    expect(type_in).to_have_value("1 in high")
    type_in.fill("a hand")
    type_in.press("Enter")
    expect(page.get_by_role("region", name="Aim").get_by_role("status")).to_contain_text(
        "“a hand” is no size. Write 1200, 600 × 450"
    )
    expect(page.get_by_role("alert")).to_have_count(0)


def test_sharpening_is_judged_at_actual_pixels_beside_each_other(page: Page) -> None:
    page.goto("/")
    drop(page, "large.png", file(photo(1000, 700)))
    page.get_by_role("button", name="Stop weighing").click()
    open_frame(page)
    strip = page.get_by_role("region", name="Sharpening")
    panes = strip.get_by_role("group", name="Before and after")
    after = strip.get_by_role("img").nth(1)

    def shown_from() -> tuple[int, int]:
        """Where the part that is shown begins."""
        source = after.get_attribute("src") or ""
        found = re.search(r"left_px=(\d+)&top_px=(\d+)", source)
        assert found
        return int(found[1]), int(found[2])

    width_px = after.evaluate("image => image.decode().then(() => image.naturalWidth)")
    assert after.bounding_box() == pytest.approx({**after.bounding_box(), "width": width_px})
    start = shown_from()
    panes.focus()
    page.keyboard.press("ArrowRight")
    assert shown_from() == (start[0] + 40, start[1])
    box = panes.bounding_box()
    assert box
    page.mouse.move(box["x"] + 200, box["y"] + 80)
    page.mouse.down()
    page.mouse.move(box["x"] + 180, box["y"] + 90, steps=3)
    page.mouse.up()
    assert shown_from() == (start[0] + 60, start[1] - 10)
    strip.get_by_role("slider", name="Sharpen, in percent").focus()
    press(page, "End")
    expect(strip.get_by_text("Sharpened 200 %")).to_be_visible()
    press(page, "Home")
    expect(strip.get_by_text("Sharpening is off")).to_be_visible()
    with page.expect_response("**/framing"):
        strip.get_by_role("button", name="Automatic").click()
    assert framing(page)["sharpen"]["amount_percent"] is None
    page.get_by_text("Resampling, colours, how it sharpens").click()
    radius = page.get_by_label("Radius")
    radius.fill("9")
    expect(page.get_by_text("0.3 to 5 pixels")).to_be_visible()
    radius.press("Escape")
    expect(radius).to_have_value("0.7 px")
    radius.fill("0.9")
    with page.expect_response("**/framing"):
        radius.press("Enter")
    assert framing(page)["sharpen"]["radius_px"] == 0.9


@pytest.mark.weighed(located(), FIRST, "jug.jpg")
def test_what_frame_shows_is_what_is_framed(page: Page) -> None:
    """By pixels: a file that lies on its side, turned and flipped by a person on top of that."""
    open_weighed(page)
    open_frame(page)
    picture = page.get_by_role("region", name="Picture").get_by_role("img")
    for name in ("Turn right", "Flip", "Turn left", "Flip", "Turn right"):
        with page.expect_response("**/framing"):
            page.get_by_role("button", name=name).click()
        expected = framed_pixels(page)
        picture.evaluate("picture => picture.decode()")
        page.mouse.move(0, 0)
        seen = Image.open(io.BytesIO(picture.screenshot())).convert("RGB")
        seen = seen.resize((expected.shape[1], expected.shape[0]))
        assert np.abs(np.asarray(seen).astype(int) - expected).mean() < 12, name


def framed_pixels(page: Page) -> np.ndarray:
    """What the server frames, as it is now."""
    for _ in range(200):
        value = weighing(page)
        if value["framed"]:
            data = page.request.get(f"/api/framed/{value['framed']['id']}/pixels").body()
            return np.asarray(Image.open(io.BytesIO(data)).convert("RGB")).astype(int)
        page.wait_for_timeout(50)
    raise AssertionError("It is not framed.")
