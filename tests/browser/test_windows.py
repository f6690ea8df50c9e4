"""Windows with their meaning: chosen on the time rail, kept from one section to another, saved in sheets; and
two trends on one page."""

from __future__ import annotations

import json
import re
from datetime import datetime, timedelta
from urllib.parse import parse_qs, urlparse
from zoneinfo import ZoneInfo

import pytest
from playwright.sync_api import Page, Route, expect

from cronaca.core.model import DAY, SECOND
from cronaca.demo.names import tag_uid
from tests.browser.axe import serious_in_both_themes, serious_violations
from tests.browser.rest import address
from tests.browser.ways import choose_window, go, open_windows, type_window
from tests.support.application import Application

pytestmark = pytest.mark.browser
WEEK = 7 * DAY
ROME = ZoneInfo("Europe/Rome")


@pytest.fixture
def application(shared: Application) -> Application:
    """The one of the module."""
    return shared


def open_trends(page: Page, application: Application) -> None:
    go(page, application, "Trends")
    expect(page.get_by_test_id("pen-value").first).not_to_have_text("–")


def asked(page: Page) -> dict[str, list[str]]:
    return parse_qs(urlparse(address(page)).query)


def save_sheet(page: Page, name: str) -> None:
    page.get_by_role("button", name="Sheets").click()
    page.get_by_label("Save as").fill(name)
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_text(f"{name} has no changes.")).to_be_visible()
    page.get_by_role("button", name="Close").click()


def monday() -> datetime:
    now = datetime.now(ROME)
    return (now - timedelta(days=now.weekday())).replace(hour=0, minute=0, second=0, microsecond=0)


def test_a_window_is_understood_while_it_is_typed(page: Page, application: Application) -> None:
    open_trends(page, application)
    panel = open_windows(page)
    field = panel.get_by_label("Type a window")
    field.fill("2 min until 1 min a")
    expect(panel).to_contain_text("is not a window")
    page.keyboard.press("Enter")
    expect(panel).to_be_visible()
    field.press_sequentially("go")
    expect(panel).to_contain_text("last 2 min until 1 min ago")
    page.keyboard.press("Enter")
    expect(panel).to_have_count(0)
    assert (asked(page)["last"], asked(page)["ago"]) == (["PT2M"], ["PT1M"])
    rail = page.get_by_role("region", name="Time rail")
    expect(rail).to_contain_text("last 2 min until 1 min ago")
    page.reload()
    expect(rail).to_contain_text("last 2 min until 1 min ago")


def test_who_types_and_presses_enter_at_once_means_that_text(page: Page, application: Application) -> None:
    open_trends(page, application)
    open_windows(page)
    page.keyboard.type("90 s")
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog", name="Window")).to_have_count(0)
    expect(page.get_by_role("region", name="Time rail")).to_contain_text("last 1 min 30 s")


def test_live_goes_on_with_the_meaning_a_window_had(page: Page, application: Application) -> None:
    for section in ("Trends", "Runs"):
        go(page, application, section)
        choose_window(page, "This week")
        rail = page.get_by_role("region", name="Time rail")
        expect(rail).to_contain_text("this week")
        rail.get_by_role("button", name="Hold").click()
        expect(rail).not_to_contain_text("this week")
        rail.get_by_role("button", name="Live").click()
        expect(rail).to_contain_text("this week")


def test_a_day_and_a_time_are_written_by_keys_day_before_month(page: Page, application: Application) -> None:
    open_trends(page, application)
    panel = open_windows(page)
    assert serious_violations(page) == []
    start = panel.get_by_role("group", name="From, plant time")
    start.get_by_role("spinbutton", name="Day").click()
    page.keyboard.type("24112026060000")
    # A part that is emptied takes no other part with it.
    start.get_by_role("spinbutton", name="Minutes").click()
    page.keyboard.press("Backspace")
    expect(panel.get_by_role("button", name="Show", exact=True)).to_be_disabled()
    expect(start.get_by_role("spinbutton", name="Day")).to_have_text("24")
    page.keyboard.type("00")
    panel.get_by_role("button", name="Show", exact=True).click()
    expect(page.get_by_test_id("window-text")).to_contain_text("06:00:00 –")
    assert asked(page)["from"] == ["2026-11-24T05:00:00.000000Z"]


def test_going_from_one_section_to_another_keeps_the_window(page: Page, application: Application) -> None:
    open_trends(page, application)
    choose_window(page, "This week")
    for section in ("Statistics", "Records", "Runs", "Trends"):
        go(page, application, section)
        expect(page.get_by_role("region", name="Time rail")).to_contain_text("this week")
        assert asked(page)["window"] == ["this week"]
    go(page, application, "Set-up")
    expect(page.get_by_role("region", name="Time rail")).to_have_count(0)


def test_runs_of_a_window_and_of_all_times(page: Page, application: Application) -> None:
    started = round((monday() - timedelta(days=10)).timestamp() * SECOND)
    application.send("POST", "/api/runs", {
        "name": "Long ago", "start_us": str(started), "end_us": str(started + DAY // 24),
    })  # fmt: skip
    go(page, application, "Runs")
    choose_window(page, "All of history")
    expect(page.get_by_role("cell", name="Long ago")).to_be_visible()
    choose_window(page, "Today")
    expect(page.get_by_text("No run touches this window.")).to_be_visible()
    page.get_by_role("button", name="Show runs of all times").click()
    expect(page.get_by_role("cell", name="Long ago")).to_be_visible()


def test_marks_of_the_rail_are_reached_by_keys(page: Page, application: Application) -> None:
    at = round((datetime.now(ROME) - timedelta(days=3)).timestamp() * SECOND)
    for i, text in enumerate(("Die 4 in", "Die 4 out")):
        body = {"start_us": str(at + i * DAY), "end_us": None, "tag": None, "text": text}
        application.send("POST", "/api/notes", body)
    open_trends(page, application)
    choose_window(page, "1 d")
    marks = page.get_by_role("toolbar", name="Marks on the time rail")
    first = marks.get_by_role("button", name="Die 4 in")
    expect(first).to_be_visible()
    first.focus()
    page.keyboard.press("End")
    page.keyboard.press("Home")
    while page.evaluate("document.activeElement.getAttribute('aria-label')") != "Die 4 out":
        page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Hold")).to_have_attribute("aria-pressed", "true")
    (start,) = asked(page)["from"]
    half = timedelta(hours=12)
    middle = datetime.fromisoformat(start) + half
    assert abs(middle.timestamp() * SECOND - (at + DAY)) < SECOND


def test_a_sheet_of_this_week_opened_a_week_later_shows_that_week(
    page: Page, application: Application
) -> None:
    open_trends(page, application)
    choose_window(page, "This week")
    expect(page.get_by_test_id("window-text")).to_contain_text("00:00:00 –")
    save_sheet(page, "The week so far")
    (sheet,) = [s for s in application.get("/api/sheets") if s["name"] == "The week so far"]
    document = json.loads(sheet["view"])
    assert (document["version"], document["window"]) == (2, "this week")
    assert not {"from", "to"} & set(document), "the meaning is kept, not the instants"

    def a_week_later(route: Route) -> None:
        answer = route.fetch()
        body = answer.json()
        later = {key: str(int(body[key]) + WEEK) for key in ("start_us", "end_us", "changes_us")}
        route.fulfill(json={**body, **later})

    page.route(re.compile("/api/windows"), a_week_later)
    page.clock.install(time=datetime.now(ROME) + timedelta(days=7))
    page.goto(f"{application.url}/trends?sheet={sheet['uid']}")  # a link that was sent
    shown = page.get_by_role("region", name="Time rail")
    expect(shown).to_contain_text((monday() + timedelta(days=7)).strftime("%-d %b"))


def test_a_strip_ends_an_hour_before_its_sheet(page: Page, application: Application) -> None:
    open_trends(page, application)
    type_window(page, "24.11.2026 06:00 to 14:00", "06:00 to 14:00")
    page.get_by_role("button", name="Layout").click()
    page.get_by_role("button", name="Strip beside").click()
    second = page.get_by_role("region", name="Strip 2")
    second.get_by_label("Its window follows").select_option("a length until before the sheet's end")
    own = page.get_by_test_id("own-window")
    expect(own).to_have_text("own window: 1 h until 1 h before the end of the sheet")
    page.get_by_role("button", name="Close").click()
    save_sheet(page, "An hour before")
    (sheet,) = [s for s in application.get("/api/sheets") if s["name"] == "An hour before"]
    assert json.loads(sheet["view"])["strips"][1] == {"beside": True, "last": "PT1H", "before": "PT1H"}

    with page.expect_request(lambda request: "/api/series/curves" in request.url and "end=1795525200000000"
                             in request.url) as seen:  # fmt: skip
        # The sheet ends at 15:00 now, so the strip ends at 14:00 of the plant's clock.
        type_window(page, "24.11.2026 07:00 to 15:00", "07:00 to 15:00")
    assert parse_qs(urlparse(seen.value.url).query)["start"] == ["1795521600000000"]


def test_two_trends_on_one_page_do_not_fight(page: Page, application: Application) -> None:
    for name, key in (("Press", "head_pressure"), ("Air", "temperature_3")):
        view = f"tags={tag_uid(key)}&last=PT5M"  # as the version before saved it
        body = {"name": name, "folder": "", "view": view, "own": False, "page": "trends"}
        application.send("POST", "/api/sheets", body)
    open_trends(page, application)
    page.get_by_role("button", name="Sheets").click()
    page.get_by_role("button", name="Press", exact=True).click()
    page.get_by_label("Show Press beside").select_option("Air")
    press, air = (page.get_by_role("region", name=name, exact=True) for name in ("Press", "Air"))
    for one in (press, air):
        expect(one.get_by_test_id("pen-card")).to_have_count(1)
        expect(one.get_by_test_id("pen-value")).not_to_have_text("–")
    assert serious_in_both_themes(page) == []

    # A key is for the one that is pointed at; the address stays that of the page.
    before = address(page)
    air.get_by_test_id("plot").hover()
    page.keyboard.press("g")
    expect(air.get_by_role("region", name="Figures")).to_be_visible()
    expect(press.get_by_role("region", name="Figures")).to_have_count(0)
    expect(press.get_by_test_id("cursor-line")).to_have_count(0)
    press.get_by_role("button", name=re.compile("^Scales")).click()
    expect(press.get_by_role("button", name="Scales: fitted")).to_be_visible()
    expect(air.get_by_role("button", name="Scales: own ranges")).to_be_visible()
    assert address(page) == before

    # The window is that of the page, wherever it is moved.
    press.get_by_test_id("plot").hover()
    page.keyboard.press("l")
    expect(page.get_by_role("button", name="Hold")).to_have_attribute("aria-pressed", "true")
    held = asked(page)["from"]
    air.get_by_test_id("plot").hover()
    page.keyboard.press("[")
    expect(page.get_by_test_id("window-text")).to_be_visible()
    assert asked(page)["from"] != held
