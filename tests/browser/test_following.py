"""One live connection keeps every page as the plant is: what another person changes is seen without a touch,
and no page asks again and again."""

from __future__ import annotations

import json
import re
import urllib.request
from collections import Counter
from urllib.parse import urlsplit

import pytest
from playwright.sync_api import Page, Route, WebSocket, expect

from cronaca.db.ports import find_free_port
from tests.browser.axe import serious_violations
from tests.browser.ways import follow, go, open_setup
from tests.support.application import Application, wait_for

pytestmark = pytest.mark.browser


@pytest.fixture
def application(shared: Application) -> Application:
    """The one of the module: each test names its own objects."""
    return shared


class Traffic:
    """What goes between a page and the server: requests by path, live connections, and their messages."""

    def __init__(self, page: Page) -> None:
        self.requests: list[str] = []
        self.links = 0
        self.heard: Counter[str] = Counter()
        page.on("request", lambda request: self.requests.append(urlsplit(request.url).path))
        page.on("websocket", self._listen)

    def _listen(self, socket: WebSocket) -> None:
        self.links += 1
        socket.on("framereceived", self._hear)

    def _hear(self, frame: str | bytes) -> None:
        message = json.loads(frame)
        self.heard[message.get("of", message["type"])] += 1


def test_what_another_person_does_is_seen_without_a_touch(
    page: Page, other: Page, application: Application
) -> None:
    go(page, application, "Runs")
    go(other, application, "Runs")
    other.get_by_label("New run").fill("Trial of two people")
    other.keyboard.press("Enter")
    expect(page.get_by_role("cell", name="Trial of two people")).to_be_visible()
    open_setup(page, application, "Sources")
    open_setup(other, application, "Sources")
    application.send("POST", "/api/setup/sources", {
        "name": "Line 5 controller", "protocol": "modbus_tcp", "config": {"host": "127.0.0.1", "port": 1502},
    })  # fmt: skip
    for one in (page, other):
        expect(one.get_by_text("Line 5 controller")).to_be_visible()


@pytest.mark.parametrize(
    ("section", "part"), [("Runs", ""), ("Records", ""), ("Set-up", "Recorder"), ("Set-up", "Tags")]
)
def test_a_page_at_which_nothing_changes_asks_for_nothing(
    page: Page, application: Application, section: str, part: str
) -> None:
    traffic = Traffic(page)
    go(page, application, section, part)
    opened = traffic.heard["health"]
    # The time rail asks for what lies around the window once that has stood for a second.
    wait_for(lambda: page.evaluate("1") and traffic.heard["health"] >= opened + 2, 20, "a page at rest")
    page.wait_for_load_state("networkidle")
    traffic.requests.clear()
    before = traffic.heard["health"]
    # Six seconds by the server's own clock: health comes every two.
    wait_for(lambda: page.evaluate("1") and traffic.heard["health"] >= before + 3, 30, "states that come")
    assert [path for path in traffic.requests if path.startswith("/api")] == []
    assert traffic.links == 1


def test_a_connection_that_breaks_is_taken_up_again_and_what_was_missed_is_there(
    page: Page, application: Application
) -> None:
    go(page, application, "Runs")
    expect(page.get_by_test_id("health")).to_contain_text("sources")
    application.end("server")
    expect(page.get_by_test_id("health")).to_have_text("No answer from the server")
    application.start_part("server")
    wait_for(lambda: application.health().get("status"), 60, "the server's return")
    application.send("POST", "/api/runs", {"name": "Begun while nobody listened"})
    expect(page.get_by_role("cell", name="Begun while nobody listened")).to_be_visible()
    expect(page.get_by_test_id("health")).to_contain_text("sources")


def test_who_is_not_known_any_more_is_told_and_loses_nothing_typed(
    page: Page, application: Application
) -> None:
    go(page, application, "Runs")
    page.route(
        "**/api/runs",
        lambda route: route.fulfill(
            status=401, content_type="application/problem+json", body='{"detail": "Sign in first."}'
        ),
    )
    field = page.get_by_label("New run")
    field.fill("Trial 8")
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog", name="Sign in")).to_be_visible()
    expect(field).to_have_value("Trial 8")
    assert serious_violations(page) == []


def test_who_may_not_begin_a_run_is_not_offered_it(page: Page, application: Application) -> None:
    def without(route: Route) -> None:
        answer = route.fetch()
        route.fulfill(response=answer, body=answer.text().replace("&quot;annotate&quot;, ", ""))

    page.route(application.url + "/", without)
    go(page, application, "Runs")
    expect(page.get_by_label("Find in names and attributes")).to_be_visible()
    expect(page.get_by_label("New run")).to_have_count(0)


def test_it_is_served_under_a_path_with_a_name_and_an_accent_of_its_own(
    page: Page, application: Application
) -> None:
    port = find_free_port()
    application.start_part(
        "server", "below", CRONACA_PORT=str(port), CRONACA_BASE_PATH="/plant",
        CRONACA_PRODUCT_NAME="Ombralta", CRONACA_ACCENT_DAY="#5A3D8A",
    )  # fmt: skip
    try:
        _walk_below(page, application, f"http://127.0.0.1:{port}/plant/")
    finally:
        application.end("below")


def _walk_below(page: Page, application: Application, address: str) -> None:
    application.wait_for_history("head_pressure", 3, 98.0)
    wait_for(lambda: _answers(address), 60, "the server below a path")
    traffic = Traffic(page)
    page.goto(address)
    expect(page).to_have_title("Ombralta")
    expect(page.get_by_role("link", name="Ombralta")).to_be_visible()
    expect(page.get_by_test_id("pen-value").first).to_contain_text(re.compile(r"\d"))
    for section in ("Statistics", "Records", "Runs", "Set-up", "Trends"):
        follow(page, "Sections", section)
        assert urlsplit(page.url).path.startswith("/plant/")
    page.reload()
    expect(page.get_by_test_id("pen-value").first).to_contain_text(re.compile(r"\d"))
    follow(page, "Sections", "Set-up")
    follow(page, "Set-up", "Tags")
    with page.expect_download() as download:
        page.get_by_role("link", name="CSV").click()
    assert urlsplit(download.value.url).path == "/plant/api/setup/tags/export"
    assert {path for path in traffic.requests if not path.startswith("/plant/")} == set()
    assert traffic.links >= 1


def _answers(address: str) -> bool:
    try:
        with urllib.request.urlopen(address, timeout=5):
            return True
    except OSError:
        return False
