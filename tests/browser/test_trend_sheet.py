"""Reading a trend: cursors and figures that agree with the export, looks, sheets, notes, earlier windows."""

from __future__ import annotations

import csv
import io
import re
import time
from datetime import datetime
from xml.etree import ElementTree

import pytest
from playwright.sync_api import Page, expect

from cronaca.core.model import SECOND
from cronaca.demo.names import tag_uid
from tests.browser.axe import serious_in_both_themes
from tests.browser.rest import address
from tests.browser.test_trend import JAM, LEFT, PRESSURE, RIGHT, open_trend
from tests.browser.ways import choose_window, open_sheet, type_window
from tests.support.application import Application

pytestmark = pytest.mark.browser
MOISTURE = tag_uid("product_moisture")


@pytest.fixture
def application(shared: Application) -> Application:
    """The one of the module."""
    return shared


def hold_with_cursors(page: Page, application: Application) -> None:
    """A minute that holds a step of the pressure and a jam, cursors on both sides of them."""
    open_trend(page, application, "last=PT30S")
    application.wait_for_history("head_pressure", 6, 98.0)
    for pressure, jam in ((75.0, 1), (90.0, 0)):
        application.device.set({"head_pressure": pressure, "jam": jam})
        expect(page.get_by_test_id("pen-value").first).to_have_text(f"{pressure}")
        application.wait_for_history("head_pressure", 2.5, pressure)
    page.keyboard.press("l")
    expect(page.get_by_role("button", name="Hold")).to_have_attribute("aria-pressed", "true")
    for key, at in (("a", LEFT + 300), ("b", RIGHT - 60)):
        page.mouse.move(at, 300)
        page.keyboard.press(key)
        expect(page.get_by_test_id(f"mark-{key.upper()}")).to_be_visible()


def test_figures_between_two_cursors_agree_with_the_export(page: Page, application: Application) -> None:
    hold_with_cursors(page, application)
    page.keyboard.press("g")
    figures = page.get_by_role("region", name="Figures")
    expect(figures).to_contain_text("between A and B")
    row = figures.get_by_role("row", name=re.compile("Press head pressure"))
    expect(row).to_contain_text("75.0 bar")
    match = re.findall(r"[?&]([ab])=([^&]+)", address(page))
    ends = {
        name: datetime.fromisoformat(text.replace("%3A", ":").replace("Z", "+00:00")) for name, text in match
    }

    page.get_by_role("button", name="Export").click()
    with page.expect_download() as download:
        page.get_by_role("menuitem", name="Every recorded sample between A and B, CSV").click()
    rows = list(csv.DictReader(io.StringIO(download.value.path().read_text(encoding="utf-8-sig"))))
    page.keyboard.press("Escape")
    pressure = [float(r["value"]) for r in rows if r["tag"] == "Line 1 Press head pressure" and r["value"]]
    times = [datetime.fromisoformat(r["time"]) for r in rows]
    assert min(times) >= ends["a"], "the file holds what lies between the cursors"
    assert max(times) < ends["b"]
    shown = [float(text) for text in re.findall(r"([\d.]+) bar", row.inner_text())]
    assert shown[0] == min(pressure) == 75.0
    assert shown[1] == max(pressure)
    assert {"true", "false"} & {r["value"] for r in rows if r["tag"] == "Line 1 Cutter jam"}

    row.get_by_role("button", name=re.compile("explain Min")).click()
    told = page.get_by_role("dialog", name="How it was made")
    expect(told).to_contain_text("Minimum")
    expect(told).to_contain_text(f"{len(pressure)} good")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Columns").click()
    page.get_by_label("Rising edges").click()
    page.keyboard.press("Escape")
    expect(figures.get_by_role("row", name=re.compile("Cutter jam"))).to_contain_text("1")


def test_a_sheet_is_saved_changed_and_opened_as_it_was(page: Page, application: Application) -> None:
    open_trend(page, application, "last=PT1M&scale=fit")
    page.get_by_role("button", name="Sheets").click()
    page.get_by_label("Save as").fill("Press and jams")
    page.get_by_role("button", name="Save", exact=True).click()
    panel = page.get_by_role("form", name="Sheets")
    expect(panel).to_contain_text("has no changes")
    page.get_by_role("button", name="Scales: fitted").click()
    expect(panel).to_contain_text("has changes that are not saved")
    sheet = re.search(r"sheet=([0-9a-f-]{36})", address(page))
    assert sheet is not None
    expect(page.get_by_role("heading", level=1)).to_contain_text("Press and jams")

    curves: list[str] = []
    page.on("request", lambda asked: curves.append(asked.url) if "/series/curves" in asked.url else None)
    page.goto(f"{application.url}/trends?sheet={sheet[1]}")
    expect(page.get_by_role("button", name="Scales: fitted")).to_be_visible()
    expect(page.get_by_test_id("pen-card")).to_have_count(2)
    drawn = [url for url in curves if "width=200&" not in f"{url}&"]
    assert len(drawn) == 1, "what was asked for before the page was there is what the page draws"


def test_a_view_outlives_a_tag_that_it_names(page: Page, application: Application) -> None:
    gone = "00000000-0000-0000-0000-000000000000"
    open_trend(page, application, "last=PT1M")
    page.goto(address(page).replace("tags=", f"tags={gone},"))
    expect(page.get_by_test_id("gone")).to_contain_text("A tag of this view is not there any more.")
    expect(page.get_by_test_id("pen-card")).to_have_count(2)
    page.get_by_role("button", name="Take off").click()
    expect(page.get_by_test_id("gone")).to_have_count(0)
    expect(page.get_by_test_id("pen-card")).to_have_count(2)
    assert gone not in address(page)


def choose_scale(page: Page, words: str) -> None:
    page.get_by_label("Scale", exact=True).select_option(words)


def test_a_pen_has_its_own_scale_and_one_that_is_not_seen_is_said(
    page: Page, application: Application
) -> None:
    open_trend(page, application)
    page.get_by_test_id("pen-card").first.hover()
    page.get_by_role("button", name="Change Press head pressure").click()
    choose_scale(page, "fixed")
    page.get_by_label("Scale from").fill("20")
    page.get_by_label("to", exact=True).fill("40")
    expect(page.get_by_test_id("unseen")).to_contain_text("1 pen lies outside the scale")
    page.get_by_label("Scale from").fill("50")
    expect(page.get_by_text("The lower end has to be below the upper one.")).to_be_visible()
    page.get_by_label("Scale from").fill("20")
    page.get_by_label("Guide lines at").fill("25 30,5")
    choose_scale(page, "as the sheet says")
    expect(page.get_by_test_id("unseen")).to_have_count(0)
    assert "30.5" in address(page).replace("%2E", ".")
    page.get_by_role("button", name="Show another tag").click()
    page.get_by_label("Find a tag").fill("product moisture")
    # A click while the list still changes may fall beside the row that moves.
    expect(page.get_by_test_id("tag-list").get_by_role("button")).to_have_count(1)
    page.get_by_test_id("tag-list").get_by_role("button", name="Cooler product moisture").click()
    expect(page.get_by_test_id("pen-card").first).to_contain_text("Cooler product moisture")
    assert MOISTURE in address(page)
    assert PRESSURE not in address(page)


def test_two_pens_share_one_scale(page: Page, application: Application) -> None:
    """A measurement on the scale of another one, also after a reload, and again on its own."""
    open_sheet(page, application, f"tags={PRESSURE},{MOISTURE}&last=PT1M")
    moisture = page.get_by_test_id("pen-card").nth(1)
    expect(page.get_by_test_id("pen-card").first).to_contain_text("60 to 150")
    expect(moisture).not_to_contain_text("60 to 150")
    for scale, shared in (("that of Press head pressure", True), ("as the sheet says", False)):
        moisture.hover()
        moisture.get_by_role("button", name="Change Cooler product moisture").click()
        choose_scale(page, scale)
        page.get_by_role("button", name="Close", exact=True).click()
        in_link = expect(page)
        (in_link.to_have_url if shared else in_link.not_to_have_url)(re.compile("scaleOf"))
        for _ in range(2):  # as it is chosen, and after a reload
            if shared:
                expect(moisture).to_contain_text("60 to 150")
            else:
                expect(moisture).to_contain_text("10.00 to 16.00")
            page.reload()


def test_figures_are_also_of_the_window_that_is_laid_beside(page: Page, application: Application) -> None:
    """Two held seconds, and beside them the two before: each figure is that of the API for its own window."""
    application.wait_for_history("head_pressure", 6)
    end_us = time.time_ns() // 1000 // SECOND * SECOND
    span = (end_us - 2 * SECOND, end_us)
    open_sheet(page, application, f"tags={PRESSURE}&held={span[0]}/{span[1]}&ghost=PT2S", "trends")
    page.keyboard.press("g")
    figures = page.get_by_role("region", name="Figures")
    rows = figures.get_by_role("table", name="Figures by pen").locator("tbody tr")
    expect(rows).to_have_count(2)
    expect(rows.nth(1)).to_contain_text("2 s before")
    for row, (start, end) in (
        (rows.nth(0), span),
        (rows.nth(1), (span[0] - 2 * SECOND, span[1] - 2 * SECOND)),
    ):
        body = {
            "tags": [PRESSURE], "figures": [{"stat": "Maximum"}],
            "windows": [{"start_us": start, "end_us": end}],
            "configuration": {"treat_uncertain_as_bad": False},
        }  # fmt: skip
        value = application.send("POST", "/api/figures", body)["results"][0]["figures"][0]["values"][0][
            "value"
        ]
        expect(row.get_by_role("button", name=re.compile("explain Max of"))).to_contain_text(f"{value:.1f}")


def test_a_note_is_pinned_found_and_kept(page: Page, application: Application) -> None:
    open_trend(page, application)
    application.wait_for_history("head_pressure", 3)
    page.keyboard.press("l")
    page.mouse.move(RIGHT - 100, 300)
    page.keyboard.press("a")
    page.get_by_role("button", name="Notes").click()
    page.get_by_label("New note").fill("Die changed")
    page.get_by_role("button", name="Add note").click()
    note = page.get_by_role("article")
    expect(note).to_contain_text("Die changed")
    expect(page.get_by_test_id("note-mark")).to_have_count(1)
    note.get_by_role("button", name="Edit").click()
    note.get_by_label("Text").fill("Die 4 changed")
    note.get_by_role("button", name="Save").click()
    expect(note).to_contain_text("Die 4 changed")
    page.get_by_label("Find in the notes of this window").fill("valve")
    expect(page.get_by_role("article")).to_have_count(0)


def test_a_window_by_words_and_by_text(page: Page, application: Application) -> None:
    open_trend(page, application)
    choose_window(page, "Yesterday")
    expect(page.get_by_test_id("window-text")).to_have_text("00:00:00 – 00:00:00")
    type_window(page, "06:00 to 14:00", "06:00 to 14:00")
    expect(page.get_by_test_id("window-text")).to_have_text("06:00:00 – 14:00:00")
    page.get_by_role("button", name="Compare", exact=True).click()
    page.get_by_role("menuitem", name="the day before", exact=True).click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("pale: 1 d before")


def test_a_picture_is_saved_and_no_panel_has_a_barrier(page: Page, application: Application) -> None:
    hold_with_cursors(page, application)
    page.get_by_role("button", name="Export").click()
    with page.expect_download() as download:
        page.get_by_role("menuitem", name="Picture (PNG)").click()
    data = download.value.path().read_bytes()
    assert data.startswith(b"\x89PNG")
    assert len(data) > 10_000
    page.get_by_role("button", name="Export").click()
    with page.expect_download() as download:
        page.get_by_role("menuitem", name="Picture (SVG)").click()
    drawing = ElementTree.fromstring(download.value.path().read_text("utf-8"))
    texts = {one.text for one in drawing.iter("{http://www.w3.org/2000/svg}text")}
    assert "1  Line 1 Press head pressure" in texts
    assert any(text and text.startswith("Prepared view ") for text in texts), "the name of the sheet"
    paths = [
        one for one in drawing.iter("{http://www.w3.org/2000/svg}path") if one.get("stroke") == "#0067A5"
    ]
    assert max(len(one.get("d", "")) for one in paths) > 200, "the pen's line"
    page.keyboard.press("g")
    expect(page.get_by_role("region", name="Figures")).to_contain_text("bar")
    for button in ("Sheets", "Notes", None):
        if button is None:
            page.get_by_role("button", name="Close", exact=True).last.click()
            page.get_by_test_id("pen-card").first.hover()
            page.get_by_role("button", name="Change Press head pressure").click()
        else:
            page.get_by_role("button", name=button).click()
        assert serious_in_both_themes(page) == [], button
    assert JAM in address(page)
