"""Statistics in the browser: the odd line is found at a glance, explained, and its trend opened."""

from __future__ import annotations

import csv
import re
import time
from collections.abc import Iterator
from urllib.parse import parse_qs, urlparse

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from cronaca.core.model import HOUR, MINUTE
from cronaca.db import Store
from cronaca.demo.history import LINES, write_history
from tests.browser.axe import serious_violations
from tests.browser.ways import Actions, choose_window, go, open_sheet, open_windows, type_window
from tests.support.application import Application, wait_for

pytestmark = pytest.mark.browser
DAMPER = re.compile(r"^Line 3, Zone 3 exhaust damper, Travel: [\d.]+.*(far )?above$")


@pytest.fixture(scope="module")
def application(module_store: Store, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Application]:
    """Four lines with ten hours of history; the dampers of the third hunt."""
    found = Application(module_store.address, tmp_path_factory.mktemp("lines"), lines=4)
    end_us = time.time_ns() // 1000
    write_history(found.store, lambda: end_us, lambda _: None, lines=LINES, length_us=10 * HOUR)
    with found.running():
        yield found


FEW = (
    "&of=Zone+3+exhaust+damper~Travel&of=Press+head+pressure~TimeAverage2&of=Cutter+jam~Starts"
    "&of=Dryer+door+open~DurationInStateNonZero"
)


def held(application: Application, page: Page, more: str = FEW) -> tuple[int, int]:
    """Opens the sheet of eight hours that have passed; their ends."""
    end_us = time.time_ns() // 1000 // MINUTE * MINUTE - HOUR
    start_us = end_us - 8 * HOUR
    open_sheet(page, application, f"held={start_us}/{end_us}{more}", "statistics")
    expect(page.get_by_test_id("lane").first).to_be_visible()
    return start_us, end_us


def test_the_odd_line_is_found_explained_and_its_trend_opened(page: Page, application: Application) -> None:
    start_us, end_us = held(application, page, "")
    lanes = page.get_by_test_id("lane")
    odd = page.get_by_role("button", name=DAMPER).first
    expect(odd).to_be_visible()
    place = lanes.filter(has=odd).first
    assert lanes.all_inner_texts().index(place.inner_text()) < 12, "it stands among the first"
    shown = re.findall(r"Travel:\s+([\d.]+)", odd.inner_text())[0]
    odd.click()
    told = page.get_by_role("dialog", name="How it was made")
    expect(told).to_contain_text("sum of |change| between neighbouring Good samples")
    expect(told).to_contain_text("median ± 4.45 MAD of 4 figures")
    expect(told).to_contain_text("half widths from its centre")
    told.get_by_role("link", name="Trend of all").click()
    expect(page.get_by_test_id("pen-card")).to_have_count(4)
    asked = parse_qs(urlparse(page.url).query)
    assert [
        int(np.datetime64(asked[end][0].rstrip("Z"), "us").astype(np.int64)) for end in ("from", "to")
    ] == [
        start_us,
        end_us,
    ]
    page.keyboard.press("g")
    figures = page.get_by_role("region", name="Figures")
    page.get_by_role("button", name="Columns").click()
    page.get_by_label("Travel").click()
    page.keyboard.press("Escape")
    line_3 = figures.get_by_role("row", name=re.compile("Line 3"))
    expect(line_3.get_by_role("button", name=re.compile("explain Travel"))).to_contain_text(shown)


def test_the_file_of_a_sheet_holds_what_the_server_computes(page: Page, application: Application) -> None:
    start_us, end_us = held(application, page)
    with page.expect_download() as waiting:
        page.get_by_role("button", name="CSV").click()
    rows = list(csv.DictReader(waiting.value.path().read_text(encoding="utf-8-sig").splitlines()))
    row = next(
        r for r in rows if (r["Member"], r["Statistic"]) == ("Press head pressure", "Time-weighted mean")
    )
    tags = application.get("/api/tags?search=Press%20head%20pressure&limit=10")["tags"]
    uid = next(tag["uid"] for tag in tags if tag["name"] == "Line 2 Press head pressure")
    body = {
        "tags": [uid], "figures": [{"stat": "TimeAverage2"}],
        "windows": [{"start_us": start_us, "end_us": end_us}],
        "configuration": {"treat_uncertain_as_bad": False},
    }  # fmt: skip
    (alone,) = application.send("POST", "/api/figures", body)["results"]
    assert float(row["Line 2"]) == alone["figures"][0]["values"][0]["value"]
    assert row["Unit"] == "bar"
    assert row["Line 2, place"] in {"normal", "above", "below", "far above", "far below"}


def test_one_control_sets_the_window_of_all_figures(page: Page, application: Application) -> None:
    held(application, page)
    window = page.get_by_test_id("sheet-window")
    expect(window).to_contain_text("Held")
    choose_window(page, "10 min")
    expect(window).to_contain_text("Live")
    expect(window).to_contain_text("10 min")
    page.get_by_role("combobox", name="Beside another window").select_option("beside the window before")
    expect(window).to_contain_text("beside")
    page.get_by_role("button", name="Hold").click()
    expect(window).to_contain_text("Held")
    expect(page).to_have_url(re.compile("from="))
    choose_window(page, "Last shift")
    expect(window).to_contain_text("8 h")
    page.get_by_label("What is normal").select_option("normal: the range of the tag")
    expect(page.get_by_test_id("lane").first).to_be_visible()
    expect(page).to_have_url(re.compile("norm=range"))


def test_figures_are_chosen_and_the_choice_travels_in_the_link(page: Page, application: Application) -> None:
    held(application, page, "&of=Press+vacuum~Maximum")
    lanes = page.get_by_test_id("lane")
    expect(lanes).to_have_count(1)
    expect(lanes).to_contain_text("Press vacuum")
    page.get_by_role("button", name="Figures", exact=True).click()
    panel = page.get_by_role("form", name="Figures")
    panel.get_by_role("button", name="Add").click()
    expect(lanes).to_have_count(2)
    panel.get_by_role("button", name="Remove Press vacuum, Max").click()
    expect(lanes).to_have_count(1)
    page.reload()
    expect(lanes).to_have_count(1)
    expect(lanes).to_contain_text("Cooler product moisture")


def test_any_statistic_is_chosen_with_its_options(page: Page, application: Application) -> None:
    start_us, end_us = held(application, page, "&of=Press+vacuum~Maximum")
    page.get_by_role("button", name="Figures", exact=True).click()
    panel = page.get_by_role("form", name="Figures")
    panel.get_by_label("Tag", exact=True).select_option("Press vacuum")
    panel.get_by_label("Statistic", exact=True).select_option("Percentile")
    percent = panel.get_by_label("Percent", exact=True)
    percent.fill("120")
    expect(panel).to_contain_text("Give a number from 0 to 100.")
    expect(panel.get_by_role("button", name="Add")).to_be_disabled()
    percent.fill("90")
    panel.get_by_role("button", name="Add").click()
    lane = page.get_by_test_id("lane").filter(has_text="Percentile 90")
    shown = re.findall(r"[\d.]+$", lane.get_by_role("button").nth(1).inner_text().split("\n")[1])[0]
    tags = application.get("/api/tags?search=Press%20vacuum&limit=10")["tags"]
    uid = next(tag["uid"] for tag in tags if tag["name"] == "Line 1 Press vacuum")
    body = {
        "tags": [uid], "figures": [{"stat": "Percentile", "percent": 90}],
        "windows": [{"start_us": start_us, "end_us": end_us}],
        "configuration": {"treat_uncertain_as_bad": False},
    }  # fmt: skip
    (alone,) = application.send("POST", "/api/figures", body)["results"]
    assert float(shown) == pytest.approx(alone["figures"][0]["values"][0]["value"], abs=6e-4)
    page.reload()
    expect(page.get_by_test_id("lane").filter(has_text="Percentile 90")).to_be_visible()
    assert serious_violations(page) == []


def test_chosen_equipment_stands_side_by_side(page: Page, application: Application) -> None:
    held(application, page)
    table = page.get_by_role("table", name="Figures of all equipment")
    page.get_by_role("button", name="Figures", exact=True).click()
    shown = page.get_by_role("form", name="Figures").get_by_role("group", name="Equipment shown")
    for line in ("Line 1", "Line 4"):
        shown.get_by_label(line).click()
        expect(table.get_by_role("columnheader", name=line)).to_have_count(0)
    heads = table.get_by_role("columnheader").all_inner_texts()
    assert heads[-2:] == ["Line 2", "Line 3"]
    odd = page.get_by_role("button", name=DAMPER).first
    odd.click()
    told = page.get_by_role("dialog", name="How it was made")
    expect(told).to_contain_text("median ± 4.45 MAD of 4 figures")
    page.keyboard.press("Escape")
    page.reload()
    expect(table.get_by_role("columnheader", name="Line 3")).to_be_visible()
    expect(table.get_by_role("columnheader", name="Line 1")).to_have_count(0)


def test_statistics_begin_with_this_shift_and_a_figure_has_its_last_seven(
    page: Page, application: Application
) -> None:
    """From the first page: the section, the figure, its last shifts."""
    page.goto(application.url)
    does = Actions(page)
    does.click("link", "Statistics")
    expect(page.get_by_test_id("sheet-window")).to_contain_text("Live · this shift")
    does.click("button", re.compile("^Line 3, Zone 3 exhaust damper, Travel"))
    does.click("link", "Last 7 shifts")
    assert does.count == 3
    table = page.get_by_role("table", name="Statistics over time")
    expect(table.get_by_role("columnheader", name=re.compile("^(Early|Late|Night)"))).to_have_count(7)
    expect(table.get_by_role("row").nth(1)).to_contain_text("Line 3 Zone 3 exhaust damper · Travel")
    expect(page.get_by_test_id("sheet-window")).to_contain_text("last 7 shifts")
    type_window(page, "90 min", "last 90 min")
    expect(page.get_by_test_id("sheet-window")).to_contain_text("Live · last 1 h 30 min")
    page.get_by_role("button", name="Figures", exact=True).click()
    page.get_by_role("button", name="The last 7 shifts").click()
    expect(table.get_by_role("columnheader", name=re.compile("^(Early|Late|Night)"))).to_have_count(7)


def test_a_control_chart_is_opened_from_a_figure(page: Page, application: Application) -> None:
    held(application, page)
    page.get_by_role("button", name=re.compile("^Line 2, Press head pressure")).click()
    page.get_by_role("button", name="Control chart").click()
    chart = page.get_by_role("region", name="Control chart")
    expect(chart).to_contain_text("Line 2 Press head pressure, Time-weighted mean of each 8 min")
    expect(chart.locator("canvas")).to_have_count(2)
    chart.get_by_label("Kind of chart").select_option("moving average, weight 0.3")
    expect(chart).to_contain_text("moving average, bar")
    expect(chart.locator("canvas")).to_have_count(1)
    chart.get_by_role("button", name="Limits: from this window").click()
    expect(chart.get_by_role("button", name="Limits: from the window before")).to_be_visible()
    assert serious_violations(page) == []
    chart.get_by_role("button", name="Close").click()
    expect(chart).to_have_count(0)


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_axe_finds_nothing_serious(page: Page, application: Application, scheme: str) -> None:
    page.emulate_media(color_scheme="dark" if scheme == "dark" else "light")
    held(application, page)
    page.get_by_role("button", name="Figures", exact=True).click()
    assert serious_violations(page) == []
    page.get_by_role("button", name=DAMPER).first.click()
    expect(page.get_by_role("dialog", name="How it was made")).to_contain_text("Formula")
    assert serious_violations(page) == []


def test_the_keyboard_alone_reaches_a_figure(page: Page, application: Application) -> None:
    held(application, page, "&of=Zone+2+exhaust+damper~Travel")
    figure = page.get_by_role("button", name=re.compile("^Line 1, Zone 2 exhaust damper"))
    page.get_by_label("What is normal").focus()
    for _ in range(6):
        page.keyboard.press("Tab")
        if figure.evaluate("element => element === document.activeElement"):
            break
    expect(figure).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog", name="How it was made")).to_be_visible()
    page.keyboard.press("Escape")
    expect(figure).to_be_focused()


def test_the_report_of_the_last_shift_agrees_with_the_api(page: Page, application: Application) -> None:
    held(application, page)
    page.get_by_role("button", name="Reports").click()
    panel = page.get_by_role("form", name="Reports")
    panel.get_by_label("Name of the report").fill("Dryers by shift")
    panel.get_by_role("button", name="Add report").click()
    made = panel.get_by_role("list", name="Reports made").get_by_role("listitem").first
    expect(made).to_contain_text(re.compile("Dryers by shift: (Early|Late|Night) "))
    expect(made).to_contain_text(re.compile(r"[\d.]+ % recorded, [\d.]+ % Good"))
    with page.expect_download() as waiting:
        made.get_by_role("link", name=re.compile("as CSV")).click()
    rows = list(csv.DictReader(waiting.value.path().read_text(encoding="utf-8-sig").splitlines()))
    issue = application.get("/api/reports/made")[0]
    window = {"start_us": int(issue["start_us"]), "end_us": int(issue["end_us"])}
    tags = application.get("/api/tags?search=Press%20head%20pressure&limit=10")["tags"]
    uids = {tag["name"][:6]: tag["uid"] for tag in tags}
    body = {
        "tags": list(uids.values()), "windows": [window], "figures": [{"stat": "TimeAverage2"}],
        "configuration": {"treat_uncertain_as_bad": False},
    }  # fmt: skip
    results = application.send("POST", "/api/figures", body)["results"]
    by_uid = {one["tag"]: one["figures"][0]["values"][0]["value"] for one in results}
    wanted = ("Press head pressure", "Time-weighted mean")
    there = {r["equipment"]: r for r in rows if (r["tag"], r["statistic"]) == wanted}
    assert len(there) == len(by_uid) == 4
    for line, uid in uids.items():
        shown = there[line]["value"]
        assert (float(shown) if shown else None) == by_uid[uid]
    with page.expect_popup() as opened:
        made.get_by_role("link", name=re.compile("as HTML")).click()
    expect(opened.value.get_by_role("heading")).to_contain_text("Dryers by shift")
    expect(opened.value.get_by_role("row", name=re.compile("Cutter jam"))).to_be_visible()
    panel.get_by_role("button", name="Remove …").click()
    panel.get_by_role("button", name="Remove Dryers by shift").click()
    expect(panel.get_by_role("list", name="Reports set up")).to_have_count(0)
    expect(made).to_be_visible()


def test_a_report_that_is_due_is_made_by_the_process_in_the_background(application: Application) -> None:
    kind = application.get("/api/statistics/kinds")[0]
    line = {"member": kind["members"][0]["name"], "stat": "TimeAverage2"}
    wanted = {"name": "By itself", "kind": kind["name"], "norm": "none", "every": "shift", "lines": [line]}
    report = application.send("POST", "/api/reports", wanted)
    found = wait_for(
        lambda: application.get(f"/api/reports/made?report={report['uid']}"), 90, "the report of the shift"
    )
    assert found[0]["name"] == "By itself"


def test_a_statistics_sheet_is_saved_and_opened(page: Page, application: Application) -> None:
    held(application, page)
    page.get_by_role("button", name="Sheets").click()
    panel = page.get_by_role("form", name="Sheets")
    panel.get_by_label("Save as").fill("Dampers and jams")
    panel.get_by_role("button", name="Save").click()
    expect(panel.get_by_role("button", name="Dampers and jams · shown")).to_be_visible()
    go(page, application, "Trends")
    go(page, application, "Statistics")
    page.get_by_role("button", name="Sheets").click()
    page.get_by_role("button", name="Dampers and jams").first.click()
    expect(page.get_by_test_id("lane")).to_have_count(4)
    assert "Zone+3+exhaust+damper" in page.url
    application.get("/api/sheets")
    names = [one["name"] for one in application.get("/api/sheets?page=statistics")]
    assert names.count("Dampers and jams") == 1
    assert application.get("/api/sheets") == [], "a trend sheet it is not"
    assert serious_violations(page) == []


def test_a_figure_is_looked_at_more_closely(page: Page, application: Application) -> None:
    start_us, _ = held(application, page)
    page.get_by_role("button", name="Look closer at Zone 3 exhaust damper, Travel").click()
    closer = page.get_by_role("region", name="Closer look")
    expect(closer.get_by_role("heading")).to_contain_text("Travel of each 30 min")
    pieces = closer.get_by_role("list", name="Over time, by equipment").get_by_role("listitem")
    expect(pieces).to_have_count(4)
    expect(pieces.first).to_contain_text("Line 3")
    expect(pieces.first).to_contain_text(re.compile(r"not normal in \d+ of 16"))
    closer.get_by_label("Stretches").select_option("by hours")
    # Hours that an end of the window cuts short are drawn, but not counted.
    whole = 7 if start_us % HOUR else 8
    expect(pieces.first).to_contain_text(re.compile(rf"not normal in \d+ of {whole}"))
    closer.get_by_role("button", name="Spread").click()
    expect(closer.get_by_role("img", name="Box of Line 4")).to_be_visible()
    expect(closer.get_by_role("img", name="Histogram of Line 4")).to_be_visible()
    closer.get_by_role("button", name="Against another").click()
    closer.get_by_label("Tag on the vertical axis").select_option("Zone 3 relative humidity")
    expect(closer.get_by_role("img", name=re.compile(r"^Line 2: r -?[01]\.\d\d$"))).to_be_visible()
    page.get_by_role("button", name="Look closer at Dryer door open, Time on").click()
    closer.get_by_role("button", name="States").click()
    row = closer.get_by_role("row", name=re.compile("Line 1"))
    expect(row).to_contain_text(re.compile(r"off: [\d.]+ (s|min|h), \d+×"))
    assert serious_violations(page) == []
    closer.get_by_role("button", name="Close").click()
    expect(closer).to_have_count(0)


def test_a_window_of_ones_own_is_typed(page: Page, application: Application) -> None:
    held(application, page)
    panel = open_windows(page)
    panel.get_by_label("Type a window").fill("yesterdayish")
    expect(panel).to_contain_text("'yesterdayish' is not a window")
    page.keyboard.press("Enter")
    expect(panel).to_be_visible()
    expect(panel).to_contain_text("No run has ended yet.")
    page.keyboard.press("Escape")
    type_window(page, "2026-11-24T06:00:00Z/PT2H", "Tue 24.11.2026 07:00 to 09:00")
    expect(page.get_by_test_id("sheet-window")).to_contain_text("Tue 24 Nov 07:00 to 09:00, 2 h")
    application.send("POST", "/api/runs", {
        "name": "Trial 7", "start_us": "1795000000000000", "end_us": "1795003600000000"
    })  # fmt: skip
    panel = open_windows(page)
    panel.get_by_label("Or a run").fill("Trial")
    panel.get_by_role("button", name="Trial 7").click()
    expect(page.get_by_test_id("sheet-window")).to_contain_text("Wed 18 Nov 12:06 to 13:06")


def test_past_shifts_are_reported(page: Page, application: Application) -> None:
    kind = application.get("/api/statistics/kinds")[0]
    line = {"member": kind["members"][0]["name"], "stat": "Percentile 90"}
    wanted = {"name": "Past ones", "kind": kind["name"], "norm": "none", "every": "shift", "lines": [line]}
    report = application.send("POST", "/api/reports", wanted)
    held(application, page)
    page.get_by_role("button", name="Reports").click()
    panel = page.get_by_role("form", name="Reports")
    entry = (
        panel.get_by_role("list", name="Reports set up").get_by_role("listitem").filter(has_text="Past ones")
    )
    entry.get_by_role("button", name="Past reports").click()
    entry.get_by_role("button", name="Make past reports").click()
    expect(page.get_by_role("status").filter(has_text="every shift since")).to_be_visible()
    made = wait_for(
        lambda: len(found := application.get(f"/api/reports/made?report={report['uid']}")) >= 4 and found,
        90, "the reports of a day before",
    )  # fmt: skip
    assert len({one["start_us"] for one in made}) == len(made)
    first = (
        panel.get_by_role("list", name="Reports made").get_by_role("listitem").filter(has_text="Past ones")
    )
    expect(first).to_have_count(len(made))
