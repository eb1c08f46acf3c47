"""The seam between the page and its server: lost networks, streams that end, news without end."""

import json
import re
import time
from typing import Any

import pytest
from playwright.sync_api import Page, Route, expect

from tests.builders import file, photo
from tests.e2e.here import ServedHere
from tests.e2e.steps import aim_of, drop, open_weighed, set_field, small, weighing

pytestmark = pytest.mark.e2e
weighed = pytest.mark.weighed(file(photo(200, 150)), aim_of(200, 6_000, "jpeg"), "door.png")
PAGES = re.compile(r"/api/pages$")


def begin(page: Page) -> None:
    open_weighed(page)


def alone(page: Page) -> None:
    """A page with a stream of its own, which a test can hold up."""
    page.add_init_script("delete window.SharedWorker")


@weighed
def test_a_browser_without_a_network_still_asks_its_own_machine(page: Page) -> None:
    begin(page)
    page.evaluate(
        "Object.defineProperty(navigator, 'onLine', {get: () => false});"
        "window.dispatchEvent(new Event('offline'))"
    )
    set_field(page, "At most", "5 kB")
    assert weighing(page)["aim"]["limit_bytes"] == 5_000
    expect(page.get_by_role("region", name="Aim").get_by_label("At most")).to_have_value("5 kB")


def test_a_stream_that_was_refused_is_opened_again_and_said_to_be_lost(page: Page) -> None:
    alone(page)
    refused: list[Route] = []

    def refuse(route: Route) -> None:
        refused.append(route)
        route.fulfill(status=502, body="the proxy is alone")

    page.route("**/api/changes", refuse)
    page.goto("/")
    expect(page.get_by_text("Not connected")).to_be_visible()
    page.wait_for_timeout(1_800)
    assert len(refused) >= 2
    page.unroute("**/api/changes")
    expect(page.get_by_text("Not connected")).to_have_count(0)
    drop(page, "a.png", small())
    expect(page).to_have_url(re.compile(r"/photos/\d+"))


@weighed
def test_a_server_that_ends_is_missed_and_found_again(page: Page, server: ServedHere) -> None:
    begin(page)
    server.end()
    expect(page.get_by_text("Not connected")).to_be_visible()
    server.start()
    expect(page.get_by_text("Not connected")).to_have_count(0)
    set_field(page, "At most", "5 kB")
    assert weighing(page)["aim"]["limit_bytes"] == 5_000


def test_news_that_comes_faster_than_answers_does_not_keep_them_from_coming(page: Page) -> None:
    alone(page)
    page.add_init_script(
        """
        window.EventSource = class {
          constructor() {
            this.readyState = 1
            setTimeout(() => this.onopen?.())
            window.news = setInterval(
              () => this.onmessage?.({ data: '{"photo_ids": [], "has_pages": true}' }), 100)
          }
          close() { this.readyState = 2 }
        }
        window.EventSource.CLOSED = 2
        window.EventSource.OPEN = 1
        """
    )
    asked, cancelled = [], []

    def late(route: Route) -> None:
        answer = route.fetch()
        said: dict[str, Any] = answer.json()
        asked.append(len(asked))
        said["pages"][0]["name"] = f"Answer {len(asked)}"
        time.sleep(0.3)
        route.fulfill(response=answer, body=json.dumps(said))

    page.on("requestfailed", lambda request: cancelled.append(request.url))
    page.route(PAGES, late)
    page.goto("/")
    expect(page.get_by_text(re.compile(r"Answer ([3-9]|\d\d)")).first).to_be_visible()
    page.evaluate("clearInterval(window.news)")
    page.unroute_all(behavior="wait")
    assert not [url for url in cancelled if PAGES.search(url)]


@weighed
def test_a_part_of_the_page_that_cannot_be_loaded_is_told(page: Page) -> None:
    begin(page)
    page.route(re.compile(r"/assets/.*\.js$"), lambda route: route.fulfill(status=404, body=""))
    page.get_by_role("link", name="Frame", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("cannot be shown")
    page.unroute(re.compile(r"/assets/.*\.js$"))
    page.get_by_role("button", name="Load it anew").click()
    expect(page.get_by_role("region", name="Picture")).to_be_visible()


@pytest.mark.parametrize("path", ["**/aim", re.compile(r"/api/photos/\d+/at/0$")])
@weighed
def test_whichever_answer_asks_for_the_token_the_page_does(
    page: Page, path: str | re.Pattern[str]
) -> None:
    begin(page)
    body = json.dumps({"code": "unauthorized", "message": "Enter.", "request_id": "x"})
    page.route(
        path,
        lambda route: route.fulfill(status=401, body=body, content_type="application/json"),
    )
    field = page.get_by_role("region", name="Aim").get_by_label("At most")
    field.fill("4 kB")
    field.press("Enter")
    expect(page.get_by_label("Access token")).to_be_visible()


@weighed
def test_what_is_typed_is_what_is_kept_to_the_byte(page: Page) -> None:
    begin(page)
    for typed, size_bytes in (("64.1 kB", 64_100), ("1,1 kB", 1_100), ("8.3 KiB", 8_499)):
        set_field(page, "At most", typed)
        assert weighing(page)["aim"]["limit_bytes"] == size_bytes


@weighed
def test_a_tuning_ends_with_the_density_that_it_was_of(page: Page) -> None:
    begin(page)
    held: list[Route] = []
    page.route("**/encodes", lambda route: held.append(route))
    page.route("**/glimpses", lambda route: held.append(route))
    page.get_by_role("slider", name="on its curve", disabled=False).focus()
    page.keyboard.press("ArrowLeft")
    expect(page.get_by_text("Encoding …")).to_be_visible()
    other = page.url + ("&" if "?" in page.url else "?") + "density=1.5"
    page.evaluate(
        "address => { history.pushState(null, '', address);"
        " dispatchEvent(new PopStateEvent('popstate')) }",
        other,
    )
    expect(page.get_by_text("Encoding …")).to_have_count(0)
