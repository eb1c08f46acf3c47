"""A page of demo photos handed over: as an archive, in page code, and standing in a page."""

import io
import json
import re
import shutil
import time
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import httpx
import pytest
from PIL import Image
from playwright.sync_api import Browser, Locator, Page, ViewportSize, expect

from lean_parcel.core.original.source import Limits
from lean_parcel.demo.opening import bring_files, open_weighed
from lean_parcel.work.workspace import Workspace
from tests.e2e.here import ServedHere
from tests.e2e.steps import assert_accessible, take_button
from tests.executors import LentPool

pytestmark = pytest.mark.e2e
WINDOWS = (390, 820, 1440)


@pytest.fixture(scope="module")
def packed(tmp_path_factory: pytest.TempPathFactory, workers: LentPool) -> Path:
    """The workspace of the demo, whose first page is packed for two densities, with all that is
    made for it."""
    path = tmp_path_factory.mktemp("demo") / "demo.sqlite3"
    open_weighed(path)
    workspace = Workspace(path, workers, Limits())
    bring_files(workspace)
    workspace.resume()
    seen = -1
    while workspace.planning.page(1).running:
        seen = workspace.changes.wait(seen, 30).version
    workspace.close()
    return path


@pytest.fixture
def demo(tmp_path: Path, packed: Path, workers: LentPool) -> Iterator[ServedHere]:
    """The demo, on a copy of its own."""
    shutil.copy(packed, tmp_path)
    running = ServedHere(tmp_path / packed.name, workers, tmp_path)
    yield running
    running.end()


@pytest.fixture
def screen(browser: Browser, demo: ServedHere) -> Iterator[Page]:
    """The Pack screen of the demo's first page."""
    with opened(browser, demo) as page:
        show(page)
        yield page


@pytest.fixture
def whole_screen(browser: Browser, demo: ServedHere) -> Iterator[Page]:
    """Its files standing in a page, and nothing that is still made to stand there instead."""
    wait_until_made(demo)
    with opened(browser, demo) as page:
        show(page, "standing")
        expect(region(page, "Standing in the page").get_by_text("5 files")).to_be_visible()
        yield page


def wait_until_made(demo: ServedHere) -> None:
    """Until all variants are made, those included that an undo asked for."""
    with httpx.Client(base_url=demo.url) as http:
        while http.get("/api/pages/1/delivery").json()["running"]:
            time.sleep(0.1)


@contextmanager
def opened(browser: Browser, demo: ServedHere) -> Iterator[Page]:
    """A page on which no script fails and nothing is blocked."""
    context = browser.new_context(
        base_url=demo.url, viewport={"width": 1280, "height": 800}, accept_downloads=True
    )
    context.grant_permissions(["clipboard-read", "clipboard-write"])
    page = context.new_page()
    faults: list[str] = []
    page.on("pageerror", lambda error: faults.append(str(error)))
    page.on("console", lambda m: faults.append(m.text) if _is_fault(m.text) else None)
    yield page
    context.close()
    assert not faults


def show(page: Page, part: str = "files") -> None:
    """Opens a part of the screen."""
    page.goto(f"/pages/1/pack?part={part}")
    expect(page.get_by_text("20 files for 5 photos.")).to_be_visible()


def _is_fault(text: str) -> bool:
    """What a test lets a frame try is refused, and that is no fault."""
    return "Content Security" in text and "/api/pages" not in text


def send(page: Page, method: str, path: str, body: dict[str, Any]) -> Any:
    """What the server answers to a request of its own page."""
    url = page.url.partition("/pages")[0].partition("/photos")[0].partition("/standing")[0]
    headers = {"Origin": url, "Content-Type": "application/json"}
    answer = page.request.fetch(url + path, method=method, data=json.dumps(body), headers=headers)
    assert answer.ok, answer.text()
    return answer.json() if answer.text() else None


def region(page: Page, name: str) -> Locator:
    return page.get_by_role("region", name=name)


def unfold(page: Page, name: str) -> None:
    """Opens the row of a photo."""
    page.get_by_role("button", name=re.compile(f"^{name}")).click()


def code(page: Page) -> str:
    return region(page, "Page code").get_by_role("textbox", name="Page code of").input_value()


def test_an_archive_opens_elsewhere_and_every_file_is_within_its_limit(screen: Page) -> None:
    with screen.expect_download() as download:
        screen.get_by_role("link", name="Download all").click()
    assert download.value.suggested_filename == "home.zip"
    with zipfile.ZipFile(io.BytesIO(download.value.path().read_bytes())) as archive:
        listed = json.loads(archive.read("packing-list.json"))
        files = [(photo, each) for photo in listed["photos"] for each in photo["files"]]
        assert len(files) == 20
        for photo, each in files:
            data = archive.read(each["path"])
            with Image.open(io.BytesIO(data)) as image:
                image.load()
                assert image.size == (each["width_px"], each["height_px"])
            assert len(data) == each["size_bytes"]
            has_reason = each["is_pick"] and photo["reason"]
            assert each["is_pick"] == (each["limit_bytes"] is not None)  # others are as alike
            assert has_reason or len(data) <= (each["limit_bytes"] or len(data))


def test_who_stops_taking_an_archive_holds_nobody_up(demo: ServedHere) -> None:
    with httpx.Client(base_url=demo.url, timeout=20) as http:
        for _ in range(6):
            with http.stream("GET", "/api/pages/1/delivery.zip") as answer:
                assert next(answer.iter_raw(1_000))
        whole = http.get("/api/pages/1/delivery.zip").content
    with zipfile.ZipFile(io.BytesIO(whole)) as archive:
        assert archive.testzip() is None


@pytest.mark.parametrize("density", [1, 2])
@pytest.mark.parametrize("chooses", ["picture", "accept"])
def test_the_browser_fetches_what_the_plan_says_to_the_byte(
    browser: Browser, demo: ServedHere, density: int, chooses: str
) -> None:
    with httpx.Client(base_url=demo.url, headers={"Origin": demo.url}) as http:
        for width in WINDOWS:
            wanted = {"window_css_px": width, "density": density, "chooses": chooses}
            visit = http.post("/api/pages/1/visits", json=wanted).json()
            size: ViewportSize = {"width": width, "height": 900}
            context = browser.new_context(viewport=size, device_scale_factor=density)
            page = context.new_page()
            page.goto(f"{demo.url}/{visit['address']}", wait_until="networkidle")
            sent = http.get(f"/api/visits/{visit['id']}").json()["sent"]
            # Only now: a page that closes is one of 1x for a moment, and may fetch files for that.
            context.close()
            paths = [sorted(file["path"] for file in files) for files in (sent, visit["plan"])]
            assert paths[0] == paths[1]
            sums = [sum(file["size_bytes"] for file in files) for files in (sent, visit["plan"])]
            assert sums[0] == sums[1]


def test_the_files_stand_in_the_page_in_windows_of_other_screens(whole_screen: Page) -> None:
    standing = region(whole_screen, "Standing in the page")
    for name, loaded in (("Phone", "5 files"), ("Tablet", "5 files"), ("Desktop", "5 files")):
        standing.get_by_role("button", name=name).click()
        expect(standing.get_by_text(f"Standing in the page, {name}")).to_be_visible()
        expect(standing.get_by_text(loaded)).to_be_visible()
        planned, sent = (
            standing.locator("dt", has_text=term).locator("+ dd").inner_text()
            for term in ("Planned", "Sent")
        )
        assert planned == sent
    standing.get_by_role("radio", name="2×").click()
    expect(standing.get_by_role("button", name="Desktop, 1440 px at 2×")).to_be_visible()
    gauge = whole_screen.get_by_role("banner").get_by_text(" of 380 kB")
    picked = gauge.inner_text().removesuffix(" of 380 kB")
    expect(standing.locator("dt", has_text="Sent").locator("+ dd")).to_have_text(f"{picked} kB")
    standing.get_by_label("Line").select_option(index=3)
    expect(standing.get_by_text("pictures are on their way")).to_be_visible()
    expect(standing.get_by_title("Over the simulated line")).to_be_visible()
    with whole_screen.context.expect_page() as opened:
        standing.get_by_role("button", name="Open it").click()
    expect(opened.value.get_by_role("heading", name="Home")).to_be_visible()


def test_names_texts_and_code_are_written_and_undone(screen: Page) -> None:
    files = region(screen, "Files and names")
    expect(screen.get_by_text("1 alternative text is missing.")).to_be_visible()
    unfold(screen, "Red cup, blue door")
    files.get_by_role("textbox", name="Alternative text of Red cup").fill('A "red" <cup>')
    screen.keyboard.press("Enter")
    expect(screen.get_by_text("1 alternative text is missing.")).to_have_count(0)
    assert 'alt="A &quot;red&quot; &lt;cup&gt;"' in code(screen)
    credit = files.get_by_label("Credit")
    credit.fill("Photo: <Ina>")
    credit.press("Enter")
    box = region(screen, "Page code").get_by_role("textbox", name="Page code of")
    expect(box).to_have_value(re.compile("<figcaption>Photo: &lt;Ina&gt;</figcaption>"))
    files.get_by_title("red-cup-blue-door-380.jpg").click()
    screen.get_by_role("textbox", name="Name of red-cup").fill("../CON.jpg")
    screen.keyboard.press("Enter")
    expect(files.get_by_title("CON-photo.jpg")).to_be_visible()
    pattern = files.get_by_label("Names")
    pattern.fill("{name}@{density}")
    pattern.press("Enter")
    expect(files.get_by_title("red-cup-blue-door@1x.avif")).to_be_visible()
    path = region(screen, "Page code").get_by_label("Path")
    path.fill("/pictures")
    path.press("Enter")
    expect(box).to_have_value(re.compile(r'src="/pictures/CON-photo\.jpg"'))
    for _ in range(5):
        with screen.expect_response("**/api/pages/undo"):
            screen.get_by_role("button", name="Undo").click()
    expect(files.get_by_title("red-cup-blue-door-380.jpg")).to_be_visible()
    expect(screen.get_by_text("1 alternative text is missing.")).to_be_visible()


def test_code_is_copied_by_a_key_in_each_language(screen: Page) -> None:
    panel = region(screen, "Page code")
    for kind, words in (("HTML", "<picture>"), ("CSS", "image-set("), ("Markdown", "![")):
        panel.get_by_role("radio", name=kind).click()
        screen.get_by_role("heading", name="What goes out").click()
        screen.keyboard.press("c")
        expect(panel.get_by_text("Copied.")).to_be_visible()
        assert words in screen.evaluate("navigator.clipboard.readText()")
    panel.get_by_role("button", name="Copy all").click()
    expect(panel.get_by_text("Copied for 6 photos.")).to_be_visible()


def test_old_references_are_approved_one_by_one(screen: Page) -> None:
    text = (
        '<img src="img/dusk-window.jpg" alt="Vases">\n<p>a</p>\n'
        "<style>a { background: url(opening-hours.jpg?v=2) }</style>\n<img src='logo.png'>\n"
    )
    screen.get_by_role("tab", name="Old references").click()
    panel = region(screen, "Old references")
    panel.get_by_label("Text with old references").fill(text)
    panel.get_by_role("button", name="Find references").click()
    expect(panel.get_by_text("2 found, 2 taken.")).to_be_visible()
    expect(panel.get_by_text("logo.png").last).to_be_visible()
    panel.get_by_label("Take the change of line 3").click()
    expect(panel.get_by_text("2 found, 1 taken.")).to_be_visible()
    expect(panel.get_by_text("dusk-window.jpg (2.34 MB)")).to_be_visible()
    panel.get_by_role("button", name="Copy the result").click()
    expect(panel.get_by_text("The text copied.")).to_be_visible()
    result = screen.evaluate("navigator.clipboard.readText()")
    assert result == text.replace("dusk-window.jpg", "window-shelf-at-dusk-1440.jpg")
    assert "Alternative text of" not in panel.inner_text()  # both have one
    panel.get_by_label("each img becomes a picture").click()
    expect(panel.get_by_text("<source", exact=False).first).to_be_visible()
    assert_accessible(screen)
    panel.get_by_role("button", name="Begin again").click()
    expect(panel.get_by_label("Text with old references")).to_be_visible()


def test_what_the_page_says_of_a_photo_is_used_where_nothing_is_written(screen: Page) -> None:
    screen.get_by_role("tab", name="Old references").click()
    panel = region(screen, "Old references")
    text = '<img src="red-cup-blue-door.jpg" alt="A red cup &amp; a door">'
    panel.get_by_label("Text with old references").fill(text)
    panel.get_by_role("button", name="Find references").click()
    expect(panel.get_by_text("A red cup & a door")).to_be_visible()
    panel.get_by_role("button", name="Use it").click()
    expect(screen.get_by_text("1 alternative text is missing.")).to_have_count(0)
    expect(panel.get_by_role("button", name="Use it")).to_have_count(0)
    photos = send(screen, "GET", "/api/pages/1/delivery", {})["photos"]
    assert "A red cup & a door" in {each["alt_text"] for each in photos}


def test_texts_are_dropped_beside_photos_and_saved(screen: Page, tmp_path: Path) -> None:
    screen.get_by_role("tab", name="Old references").click()
    panel = region(screen, "Old references")
    panel.wait_for()
    page = tmp_path / "index.html"
    page.write_bytes("\ufeff<img src='dusk-window.jpg'>\r\n".encode())
    screen.evaluate(
        """async (text) => {
          const transfer = new DataTransfer()
          transfer.items.add(new File([text], 'index.html'))
          const target = document.querySelector('section[aria-label="Old references"]')
          for (const type of ['dragenter', 'dragover', 'drop']) {
            target.dispatchEvent(new DragEvent(type, { dataTransfer: transfer, bubbles: true }))
            await new Promise(requestAnimationFrame)
          }
        }""",
        page.read_bytes().decode(),
    )
    expect(panel.get_by_text("1 found, 1 taken.")).to_be_visible()
    with screen.expect_download() as download:
        panel.get_by_role("button", name="Save it").click()
    assert download.value.suggested_filename == "index.html"
    assert download.value.path().read_bytes() == (
        page.read_bytes().replace(b"dusk-window.jpg", b"window-shelf-at-dusk-1440.jpg")
    )
    expect(screen.get_by_text("Adding photos.")).to_have_count(0)


def test_one_file_is_saved_under_the_name_that_it_has_in_the_delivery(screen: Page) -> None:
    with screen.expect_download() as download:
        unfold(screen, "Opening hours")
        screen.get_by_role("link", name="Save opening-hours-600.jpg").click()
    assert download.value.suggested_filename == "opening-hours-600.jpg"


def test_a_delivery_is_written_where_the_server_may(screen: Page) -> None:
    screen.get_by_role("button", name="More ways to hand over").click()
    screen.get_by_role("menuitem", name="Write into the server’s folder").click()
    expect(screen.get_by_text("22 files")).to_be_visible()


def test_a_variant_is_weighed_and_another_one_taken(screen: Page) -> None:
    unfold(screen, "Opening hours")
    files = region(screen, "Files and names")
    files.get_by_role("link", name="Weigh opening-hours-600.jpg").click()
    expect(screen.get_by_role("radio", name="variants, 1×")).to_be_checked()
    expect(screen.get_by_role("region", name="Tuning")).to_be_visible()
    quality = screen.get_by_role("slider", name="Quality")
    quality.focus()
    quality.press("ArrowLeft")
    take = take_button(screen)
    take.click()
    put_back = screen.get_by_role("button", name="Put back")
    expect(put_back).to_be_visible()
    assert_accessible(screen)
    put_back.click()
    expect(take).to_be_visible()
    screen.get_by_role("link", name="Pack").click()
    expect(screen.get_by_text("20 files for 5 photos.")).to_be_visible()


def test_densities_and_formats_are_chosen_for_all_and_undone(screen: Page) -> None:
    limit = region(screen, "Files and names").get_by_label("At most at 1×")
    limit.fill("30 kB")
    with screen.expect_response(lambda answer: "/api/selection" in answer.url):
        limit.press("Enter")
    expect(limit).to_have_value("30 kB")
    variants = send(screen, "GET", "/api/pages/1/delivery", {})["photos"][0]["variants"]
    assert variants["limits"] == [{"density": 1.0, "limit_bytes": 30_000}]
    screen.get_by_role("button", name="Undo").click()
    expect(limit).to_have_value("")
    densities = screen.get_by_role("toolbar", name="Densities").first
    densities.get_by_role("button", name="1×", exact=True).click()
    expect(screen.get_by_text("10 files for 5 photos.")).to_be_visible()
    screen.get_by_role("button", name="Undo").click()
    expect(screen.get_by_text("20 files for 5 photos.")).to_be_visible()


def test_nothing_that_a_photo_brings_runs_in_the_page_or_the_application(
    whole_screen: Page,
) -> None:
    nasty = (
        "</title><script>parent.postMessage('x','*');top.x=1</script><img src=x onerror=top.x=1>"
    )
    photo_id = send(whole_screen, "GET", "/api/pages/1/delivery", {})["photos"][0]["id"]
    send(whole_screen, "PATCH", f"/api/photos/{photo_id}", {"name": nasty[:119]})
    body = {"photo_ids": [photo_id], "alt_text": nasty}
    send(whole_screen, "PATCH", "/api/selection/code", body)
    whole_screen.reload()
    expect(region(whole_screen, "Standing in the page").get_by_text("5 files")).to_be_visible()
    assert whole_screen.evaluate("window.x") is None
    for frame in whole_screen.frames[1:]:
        assert frame.evaluate("window.origin") == "null"
        told = frame.evaluate(
            """async () => {
              const reach = (act) => act().then(() => 'reached', () => 'refused')
              return [
                await reach(async () => top.document.title),
                await reach(async () => localStorage.length),
                await reach(() => fetch('/api/pages')),
              ]
            }"""
        )
        assert told == ["refused"] * 3
    for _ in range(2):
        whole_screen.get_by_role("button", name="Undo").click()
    whole_screen.get_by_role("tab", name="Files and page code").click()
    expect(whole_screen.get_by_text("Window shelf at dusk").first).to_be_visible()


def test_the_screen_is_accessible(whole_screen: Page) -> None:
    assert_accessible(whole_screen)
    whole_screen.get_by_role("tab", name="Files and page code").click()
    whole_screen.get_by_role("button", name="Loading, sizes, own densities").click()
    assert_accessible(whole_screen)
