"""Many photos at once: selected, treated, weighed as a batch, balanced, undone as one."""

import json
import re
import zipfile
from typing import Any

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.builders import file, photo
from tests.e2e.here import ServedHere
from tests.e2e.steps import assert_accessible, do_more, drop_all, pages

pytestmark = pytest.mark.e2e
NAMES = ("a.png", "b.png", "c.png")
TREATMENT = """{"kind": "lean-parcel-treatment", "version": 3, "name": "Shelf card",
  "framing": {"metadata": "nothing"},
  "aim": {"place": {"size": "90"}, "limit_bytes": 4000, "formats": ["jpeg", "webp"]}}"""


def begin(page: Page) -> None:
    """Three photos on the page."""
    page.goto("/")
    drop_all(page, {name: file(photo(90, 60, i)) for i, name in enumerate(NAMES)})
    for name in NAMES:
        expect(page.get_by_role("link", name=name, exact=True)).to_be_visible()
    expect(page.get_by_text("Weighing …")).to_have_count(0)


def row(page: Page, name: str) -> Locator:
    return page.get_by_role("row").filter(has=page.get_by_role("link", name=name, exact=True))


def aims(page: Page) -> list[int]:
    (only,) = pages(page)
    return [each["aim"]["limit_bytes"] for each in only["photos"]]


def picks(shown: dict[str, Any]) -> dict[str, int | None]:
    """The encodes that were taken, by the names of their photos."""
    return {each["name"]: each["pick"] and each["pick"]["id"] for each in shown["photos"]}


def measure(page: Page) -> None:
    """Waits until the encodes are made that decide, which is begun by itself."""
    headers = {"Origin": page.url.partition("/pages")[0]}
    while page.request.post("/api/pages/1/balance", data={}, headers=headers).json()[
        "is_measuring"
    ]:
        page.wait_for_timeout(100)
    page.reload()


def load_treatment(page: Page) -> None:
    page.get_by_role("button", name="Treatments", exact=True).click()
    page.get_by_label("Treatment file").set_input_files(
        {"name": "t.json", "mimeType": "application/json", "buffer": TREATMENT.encode()}
    )
    expect(page.get_by_role("heading", name="Shelf card")).to_be_visible()


def test_photos_are_selected_as_people_expect(page: Page) -> None:
    begin(page)
    first, middle, last = (each["name"] for each in pages(page)[0]["photos"])
    bar = page.get_by_role("region", name="Selection")
    at = {"x": 420, "y": 55}
    row(page, first).click(position=at)
    expect(bar.get_by_role("status")).to_have_text("1 selected")
    row(page, last).click(position=at, modifiers=["Shift"])
    expect(bar.get_by_role("status")).to_have_text("3 selected")
    row(page, middle).click(position=at, modifiers=["Control"])
    expect(bar.get_by_role("status")).to_have_text("2 selected")
    page.keyboard.press("Escape")
    expect(bar).to_have_count(0)
    page.keyboard.press("Control+a")
    expect(bar.get_by_role("status")).to_have_text("3 selected")
    assert_accessible(bar)
    page.get_by_role("checkbox", name=f"Select {middle}").focus()
    page.keyboard.press("Space")
    expect(bar.get_by_role("status")).to_have_text("2 selected")
    bar.get_by_role("button", name="More for the selection").click()
    with page.expect_response("**/selection/shares"):
        page.get_by_role("menuitem", name="Counts 2× in a balance").click()
    assert [each["weight"] for each in pages(page)[0]["photos"]] == [2, 1, 2]
    with page.expect_response("**/selection/aim"):
        type_in(bar, "At most", "3 kB")
    assert aims(page) == [3_000, 200_000, 3_000]
    expect(row(page, first)).to_contain_text(re.compile(r"\b3 kB"))
    page.get_by_role("button", name="Undo").click()
    expect(row(page, first)).to_contain_text("200 kB")
    assert aims(page) == [200_000] * 3


def test_a_page_is_treated_balanced_and_shows_the_same_after_a_restart(
    page: Page, server: ServedHere
) -> None:
    begin(page)
    load_treatment(page)
    page.get_by_role("button", name="Do it to the whole page: Shelf card").click()
    batch = page.get_by_role("region", name="Batch")
    expect(page.get_by_role("row").get_by_text("Shelf card")).to_have_count(3)
    expect(batch.get_by_role("status")).to_contain_text("Shelf card: 3 of 3 weighed")
    assert aims(page) == [4_000] * 3
    page.get_by_role("button", name="Close", exact=True).click()
    page.get_by_label("Budget").fill("7 kB")
    page.get_by_label("Budget").press("Enter")
    page.get_by_role("link", name="Balance", exact=True).click()
    answer = page.get_by_role("region", name="Answer")
    expect(answer.get_by_role("row")).to_have_count(4)
    measure(page)
    answer.get_by_role("button", name="See them before and after").click()
    assert_accessible(page)
    answer.get_by_role("button", name="Take this balance").click()
    page.get_by_role("button", name="Undo").hover()
    expect(page.get_by_role("tooltip")).to_contain_text("Balanced First page")
    (balanced,) = pages(page)
    assert 0 < balanced["totals"]["fetched_bytes"] <= 7_000
    # One exception, and the whole balance undone without it.
    page.get_by_role("button", name="More for a.png").click()
    page.get_by_role("menuitem", name="Weigh").click()
    page.get_by_role("button", name=re.compile("^(Put back|Take )")).first.click()
    page.get_by_role("link", name="Page", exact=True).click()
    server.end()
    server.start()
    page.reload()
    expect(page.get_by_role("link", name="b.png", exact=True)).to_be_visible()
    assert {**picks(balanced), "a.png": None} == {**picks(pages(page)[0]), "a.png": None}
    page.get_by_role("button", name="Undo").click()
    expect(row(page, "b.png")).to_contain_text("none yet")
    assert {**picks(pages(page)[0]), "a.png": None} == dict.fromkeys(NAMES)


def test_the_table_of_a_batch_agrees_with_the_files(page: Page) -> None:
    begin(page)
    page.keyboard.press("Control+a")
    bar = page.get_by_role("region", name="Selection")
    bar.get_by_role("button", name="Treatment").click()
    page.get_by_role("menuitem", name=re.compile("^Card")).click()
    batch = page.get_by_role("region", name="Batch")
    expect(page.get_by_role("row").get_by_text("Card", exact=True)).to_have_count(6)
    expect(batch.get_by_role("status")).to_contain_text("3 of 3 weighed")
    batch.get_by_role("button", name="Take 3 that are ready").click()
    expect(page.get_by_text("none yet")).to_have_count(0)
    batch.get_by_role("link", name="Table").click()
    table = page.get_by_role("table", name="Batch")
    table.get_by_role("button", name="new").click()
    assert_accessible(page)
    shown = table.get_by_role("row").all_inner_texts()
    assert all("taken" in each for each in shown[1:4])
    sizes = {each["name"]: each["pick"]["size_bytes"] for each in pages(page)[0]["photos"]}
    in_order = [each.split("\t")[0] for each in shown[1:4]]
    assert in_order == sorted(sizes, key=sizes.__getitem__, reverse=True)
    with page.expect_download() as download:
        page.get_by_role("link", name="Save as CSV").click()
    assert len(download.value.path().read_text().splitlines()) == 4


def test_photos_follow_the_settings_of_their_page_but_for_what_is_their_own(page: Page) -> None:
    begin(page)
    own = page.get_by_role("button", name=re.compile("Its own. Back to the page’s"))
    settings = page.get_by_role("region", name="Every photo here")
    expect(own).to_have_count(0)
    for label, text, shown in (
        ("Size", "80 wide", "80 × 53 at 1×"),
        ("At most", "6 kB", "6 kB"),
    ):
        type_in(settings, label, text)
        for name in NAMES:
            expect(row(page, name)).to_contain_text(shown)
    expect(page.get_by_text("Weighing …")).to_have_count(0)
    page.get_by_role("checkbox", name="Select all photos").click()
    page.get_by_role("button", name="Take 3 that are ready").click()
    expect(page.get_by_text("none yet")).to_have_count(0)
    page.get_by_role("button", name="Select none").click()
    type_in(settings, "At most", "150 B")
    why = page.get_by_label("Why a.png may be over its limit")
    why.fill("the face has to be sharp")
    why.press("Enter")
    expect(row(page, "a.png")).to_contain_text("the face has to be sharp")
    row(page, "b.png").click(position={"x": 420, "y": 55})
    selection = page.get_by_role("region", name="Selection")
    type_in(selection, "Size", "60")
    expect(row(page, "b.png")).to_contain_text("60 × 40 at 1×")
    expect(own).to_have_count(1)
    assert_accessible(page)
    own.click()
    expect(own).to_have_count(0)
    expect(row(page, "b.png")).to_contain_text("80 × 53 at 1×")
    page.get_by_role("button", name="Undo").click()
    expect(row(page, "b.png")).to_contain_text("60 × 40 at 1×")
    selection.get_by_role("button", name="More for the selection").click()
    page.get_by_role("menuitem", name="Back to the settings of the page").click()
    expect(own).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(own).to_have_count(1)
    page.get_by_role("button", name="More for b.png").click()
    page.get_by_role("menuitem", name=re.compile("^Settings of First page as this photo")).click()
    expect(row(page, "c.png")).to_contain_text("60 × 40 at 1×")
    page.get_by_role("button", name="Select none").click()
    expect(settings.get_by_label("Size", exact=True)).to_have_value("60 px")
    page.reload()
    expect(row(page, "a.png")).to_contain_text("60 × 40 at 1×")


def type_in(region: Locator, label: str, text: str) -> None:
    region.get_by_label(label, exact=True).fill(text)
    region.get_by_label(label, exact=True).press("Enter")


def test_a_treatment_is_kept_from_a_photo_and_edited(page: Page) -> None:
    begin(page)
    page.get_by_role("link", name="a.png", exact=True).click()
    do_more(page, "Keep as a treatment")
    page.get_by_label("What it is for").fill("Cups on the shelf")
    page.get_by_label(re.compile("with the knobs of this")).check()
    page.get_by_label(re.compile("and its quality")).check()
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_text("Kept as Cups on the shelf.")).to_be_visible()
    page.get_by_role("link", name="Page", exact=True).click()
    page.get_by_role("button", name="Treatments", exact=True).click()
    page.get_by_role("button", name="More for Cups on the shelf").click()
    page.get_by_role("menuitem", name="Edit").click()
    page.get_by_role("complementary").get_by_label("Size", exact=True).fill("80")
    page.get_by_role("toolbar", name="Also at").get_by_text("2×").click()
    page.get_by_role("complementary").get_by_label(re.compile("quality$")).fill("61")
    assert_accessible(page)
    page.get_by_role("button", name="Keep it").click()
    side = page.get_by_role("complementary", name="Treatments")
    expect(side.get_by_text(re.compile("^80 px at 1×.*also 2×"))).to_be_visible()
    with page.expect_download() as download:
        side.get_by_role("link", name="Save as a file").first.click()
    kept = json.loads(download.value.path().read_text())
    assert kept["aim"]["place"]["size"] == "80 px"
    assert [each["quality"] for each in kept["aim"]["held"].values()] == [61]
    page.get_by_role("button", name="Undo").click()
    expect(side.get_by_text(re.compile("^1200 px at 1×"))).to_be_visible()


def test_a_treatment_is_made_from_nothing(page: Page) -> None:
    begin(page)
    page.get_by_role("button", name="Treatments", exact=True).click()
    page.get_by_role("button", name="New treatment").click()
    side = page.get_by_role("complementary", name="Treatments")
    side.get_by_label("Name", exact=True).fill("Shelf")
    side.get_by_label("Size", exact=True).fill("40")
    side.get_by_label("Resample with").select_option(label="Mitchell")
    side.get_by_role("toolbar", name="More formats").get_by_text("AVIF").click()
    assert_accessible(page)
    side.get_by_role("button", name="Keep it").click()
    expect(side.get_by_role("heading", name="Shelf")).to_be_visible()
    kept = page.request.get("/api/treatments").json()["treatments"]
    file_of = next(each["file"] for each in kept if each["file"]["name"] == "Shelf")
    assert (file_of["framing"]["kernel"], file_of["aim"]["place"]["size"]) == ("mitchell", "40 px")
    assert file_of["aim"]["variants"]["formats"] == ["avif"]
    assert file_of["framing"]["metadata"] == pages(page)[0]["settings"]["metadata"]


class Hand:
    """Somebody at work, whose actions are counted: a drop, a value that is written or chosen, a
    click."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.actions = 0

    def drops(self, files: dict[str, bytes]) -> None:
        self.actions += 1
        drop_all(self.page, files)

    def writes(self, region: Locator, label: str, text: str) -> None:
        self.actions += 1
        type_in(region, label, text)

    def chooses(self, field: Locator, option: str) -> None:
        self.actions += 1
        field.select_option(label=option)

    def clicks(self, target: Locator) -> None:
        self.actions += 1
        target.click()


def test_four_photos_become_an_archive_in_eight_actions(page: Page) -> None:
    hand = Hand(page)
    page.goto("/")
    hand.drops({f"{i}.png": file(photo(120, 80, i)) for i in range(4)})
    every = page.get_by_role("region", name="Every photo here")
    hand.writes(every, "Size", "100")
    hand.writes(every, "At most", "11.5 kB")
    hand.chooses(every.get_by_label("Formats"), "AVIF")
    expect(page.get_by_role("row")).to_have_count(5)  # all have come
    hand.clicks(page.get_by_label("Select all photos"))
    take = page.get_by_role("region", name="Selection").get_by_role("button", name="Take 4")
    hand.clicks(take)
    hand.clicks(page.get_by_role("link", name="Pack", exact=True))
    expect(page.get_by_text(re.compile("^8 files for 4 photos. A browser"))).to_be_visible()
    with page.expect_download() as download:
        hand.clicks(page.get_by_role("link", name="Download all"))
    with zipfile.ZipFile(download.value.path()) as archive:
        listed = json.loads(archive.read("packing-list.json"))
    picks = [each for one in listed["photos"] for each in one["files"] if each["is_pick"]]
    assert [each["format"] for each in picks] == ["avif"] * 4
    assert all(each["width_px"] <= 100 and each["size_bytes"] <= 11_500 for each in picks)
    assert hand.actions == 8


def test_long_lists_are_drawn_where_they_are_looked_at(page: Page, server: ServedHere) -> None:
    data = file(photo(12, 8))
    names = [f"photo-{number:02}.png" for number in range(56)]
    light = {"settings": {"formats": ["jpeg"]}}  # what is weighed does not matter here
    headers = {"Origin": server.url}
    assert page.request.patch("/api/pages/1", data=light, headers=headers).ok
    for name in names:
        files = {"photo": {"name": name, "mimeType": "image/png", "buffer": data}}
        sent = page.request.post("/api/photos", multipart=files, headers=headers)
        assert sent.ok
    last = page.get_by_role("link", name=names[-1], exact=True)
    for path in ("", "/batch"):
        page.goto(f"/pages/{pages(page)[0]['id']}{path}")
        table = page.get_by_role("table")
        expect(table.get_by_role("link", name=names[0], exact=True)).to_be_visible()
        assert 10 < table.get_by_role("row").count() < 50
        expect(last).to_have_count(0)
        page.get_by_role("main").evaluate("frame => { frame.scrollTop = frame.scrollHeight }")
        expect(last).to_be_in_viewport()
        assert table.get_by_role("row").count() < 50
        if not path:
            page.keyboard.press("Control+a")
            bar = page.get_by_role("region", name="Selection")
            bar.get_by_role("button", name="More for the selection").click()
            with page.expect_response("**/selection/weighing"):
                page.get_by_role("menuitem", name="Weigh again").click()
