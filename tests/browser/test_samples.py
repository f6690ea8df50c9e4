"""Samples as a table: found, counted, exported, corrected, by the hands of a person."""

from __future__ import annotations

import csv
import io
import re
import time
from datetime import datetime, timedelta
from typing import Any
from urllib.parse import urlencode
from zoneinfo import ZoneInfo

import numpy as np
import pytest
from playwright.sync_api import Locator, Page, expect

from cronaca.core.model import MINUTE, SECOND, Series, ValueType, Window
from cronaca.demo.names import tag_uid
from cronaca.history.write.bulk import backfill
from cronaca.logbook.texts import codes_of
from cronaca.plant.archives import get_archive_id
from cronaca.plant.histories import find_history, open_history
from cronaca.plant.tags import find_tags, insert_tag
from tests.browser.axe import serious_violations
from tests.browser.ways import go, type_window
from tests.support.application import Application
from tests.support.builders import a_tag

pytestmark = pytest.mark.browser
ROME = ZoneInfo("Europe/Rome")
DOOR = tag_uid("door")
AIR = tag_uid("temperature_1")


DAYS = 4
"""How many days of the plant's clock the door was opened and closed on, today among them."""


def first_day() -> datetime:
    """The start of the first of these days."""
    today = datetime.now(ROME).replace(hour=0, minute=0, second=0, microsecond=0)
    return today - timedelta(days=DAYS - 1)


@pytest.fixture(scope="module")
def opened(module_application: Application) -> tuple[int, int]:
    """The door was opened and closed every 20 minutes; from when on, and how many samples there are."""
    start_us, end_us = int(first_day().timestamp()) * SECOND, time.time_ns() // 1000 - 10 * MINUTE
    times = np.arange(start_us, end_us, 10 * MINUTE)
    values = np.arange(len(times)) % 2
    with module_application.store.snapshot() as tx:
        tag = find_tags(tx, [DOOR])[DOOR]
        history = find_history(tx, tag.tag_id, None)
    assert history is not None
    series = Series.of(ValueType.BOOLEAN, times, values)
    backfill(module_application.store, {history.key: series}, Window(start_us, end_us))
    return start_us, len(times)


def remove_others(chosen: Locator, kept: str) -> None:
    """Leaves the one chosen tag whose name holds this; each click waits until the one before has worked."""
    others = chosen.get_by_role("button", name=re.compile(f"^Remove (?!.*{kept})"))
    for left in range(others.count() - 1, -1, -1):
        others.first.click()
        expect(others).to_have_count(left)
    expect(chosen.get_by_role("listitem")).to_have_count(1)


def choose_door(page: Page, application: Application) -> None:
    """A table of the door's samples alone."""
    go(page, application, "Samples")
    page.get_by_role("button", name=re.compile("^Tags and rows")).click()
    panel = page.get_by_role("form", name="Tags and rows")
    panel.get_by_label("Add a tag").fill("dryer door")
    page.get_by_role("option", name=re.compile("Line 1.*dryer door", re.IGNORECASE)).first.click()
    chosen = panel.get_by_role("list", name="Chosen tags")
    expect(chosen).to_contain_text("door")
    remove_others(chosen, "door")
    panel.get_by_label("A row is").select_option("one sample")


def table_of_door(page: Page, application: Application) -> Locator:
    """The same since the first day."""
    choose_door(page, application)
    type_window(page, f"since {first_day():%A}".lower(), f"{first_day():%a}")
    table = page.get_by_role("table", name="Samples")
    expect(table.get_by_role("row").nth(1)).to_contain_text("dryer door", ignore_case=True)
    return table


def api(application: Application, path: str, **params: Any) -> Any:  # noqa: ANN401
    return application.get(f"/api/{path}?{urlencode(params, doseq=True)}")


def test_a_contact_since_a_weekday_is_counted_exported_and_corrected(
    page: Page, shared: Application, opened: tuple[int, int]
) -> None:
    start_us, count = opened
    table_of_door(page, shared)

    # How often it changed, as the figures of the API say.
    page.get_by_role("button", name="Changes", exact=True).click()
    changes = page.get_by_role("table", name="Changes")
    days = changes.locator("tbody").get_by_role("row")
    expect(days).to_have_count(DAYS)
    asked = {
        "tags": [DOOR], "figures": [{"stat": "NumberOfTransitions"}],
        "windows": [{"start_us": start_us, "split": {"unit": "day"}}],
        "configuration": {"treat_uncertain_as_bad": False},
    }  # fmt: skip
    (found,) = shared.send("POST", "/api/figures", asked)["results"]
    counts = [value["value"] for value in found["figures"][0]["values"]]
    shown = [int(row.get_by_role("cell").last.inner_text()) for row in days.all()]
    assert shown == counts[::-1] and sum(shown) >= count - 1
    assert serious_violations(page) == []

    # The file holds what the API says.
    page.get_by_role("button", name="Files", exact=True).click()
    files = page.get_by_role("form", name="Files")
    with page.expect_download() as download:
        files.get_by_role("button", name="Download").click()
    assert download.value.suggested_filename.startswith("samples_")
    lines = list(csv.reader(io.StringIO(download.value.path().read_text("utf-8-sig"))))[1:]
    raw = api(shared, "series/raw", tag=DOOR, start=start_us, end=time.time_ns() // 1000, limit=100_000)
    newest = raw["t_us"].index(str(us_of(lines[0][0])))
    assert [us_of(line[0]) for line in lines] == [int(t) for t in raw["t_us"][newest::-1]]
    assert [line[2] for line in lines] == [str(v) for v in raw["v"][newest::-1]]


def test_a_wrong_sample_of_a_contact_is_corrected_and_kept_as_modified_history(
    page: Page, shared: Application, opened: tuple[int, int]
) -> None:
    start_us, _ = opened
    table = table_of_door(page, shared)
    value = page.get_by_label("Value", exact=True)
    value.fill("true")
    expect(table.get_by_role("row").filter(has_text="off")).to_have_count(0)
    row = table.locator("tbody").get_by_role("row").filter(has_text="door").last
    row.get_by_role("button").click()
    panel = page.get_by_role("form", name=re.compile("door", re.IGNORECASE))
    panel.get_by_role("button", name="Correct", exact=True).click()
    expect(panel).to_contain_text("Say why: it is kept with the correction.")
    panel.get_by_label("New value").select_option("off")
    panel.get_by_label("Reason").fill("The switch was tested")
    panel.get_by_role("button", name="Correct", exact=True).click()
    expect(panel).to_contain_text("Modified history")
    expect(panel).to_contain_text("corrected by Lucia Greco")
    expect(panel).to_contain_text("The switch was tested")
    modified = api(shared, "history/modified", tag=DOOR, start=start_us, end=time.time_ns() // 1000)
    assert [(one["v"], one["reason"]) for one in modified] == [([True], "The switch was tested")]


@pytest.fixture
def lots(shared: Application) -> str:
    """A tag with two texts in its history of the last minutes; its name."""
    now_us = time.time_ns() // 1000
    with shared.store.transaction() as tx:
        source_id = find_tags(tx, [AIR])[AIR].source_id
        new = a_tag("Press lot in hand", ValueType.TEXT, unit="", source_id=source_id)
        insert_tag(tx, new)
        tag = find_tags(tx, [new.uid])[new.uid]
        history = open_history(tx, get_archive_id(tx, ""), tag, now_us)
        codes = codes_of(tx, ["LOT-7", "LOT-8"])
    times = [now_us - 5 * MINUTE, now_us - 4 * MINUTE]
    window = Window(times[0], now_us)
    backfill(shared.store, {history.key: Series.of(ValueType.TEXT, times, codes)}, window)
    return new.name


def test_a_wrong_text_is_corrected(page: Page, shared: Application, lots: str) -> None:
    go(page, shared, "Samples")
    page.get_by_role("button", name=re.compile("^Tags and rows")).click()
    panel = page.get_by_role("form", name="Tags and rows")
    panel.get_by_label("Add a tag").fill(lots)
    page.get_by_role("option", name=re.compile(f"^{lots}")).first.click()
    panel.get_by_label("A row is").select_option("one sample")
    page.get_by_label("Value", exact=True).fill("LOT")
    table = page.get_by_role("table", name="Samples")
    table.locator("tbody").get_by_role("row").filter(has_text="LOT-8").get_by_role("button").click()
    panel = page.get_by_role("form", name=lots)
    expect(panel.get_by_label("New value")).to_have_value("")
    panel.get_by_label("Reason").fill("Read wrongly")
    panel.get_by_role("button", name="Correct", exact=True).click()
    expect(panel).to_contain_text("Give the right value.")
    panel.get_by_label("New value").fill("LOT-9 b")
    panel.get_by_role("button", name="Correct", exact=True).click()
    expect(panel).to_contain_text("corrected by Lucia Greco")
    expect(panel).to_contain_text("LOT-8")
    expect(table.locator("tbody").get_by_role("row").filter(has_text="LOT-9 b")).to_have_count(1)


MANY = 100_001
"""More samples than a file holds that is made while one waits."""


@pytest.fixture(scope="module")
def many(module_application: Application) -> str:
    """A tag with many samples on a day of last month, at ten a second; the typed window that holds them."""
    day = first_day() - timedelta(days=30)
    start_us = int(day.replace(hour=6).timestamp()) * SECOND
    times = start_us + np.arange(MANY) * (SECOND // 10)
    with module_application.store.snapshot() as tx:
        tag = find_tags(tx, [AIR])[AIR]
        history = find_history(tx, tag.tag_id, None)
    assert history is not None
    values = np.random.default_rng(3).integers(200, 900, MANY) / 10
    window = Window(start_us, int(times[-1]) + 1)
    backfill(module_application.store, {history.key: Series.of(ValueType.FLOAT, times, values)}, window)
    return f"{day:%Y-%m-%d} 06:00 to {day:%Y-%m-%d} 09:00"


def choose_many(page: Page, application: Application, window: str) -> Locator:
    """A table of these samples, one in a row."""
    go(page, application, "Samples")
    page.get_by_role("button", name=re.compile("^Tags and rows")).click()
    panel = page.get_by_role("form", name="Tags and rows")
    chosen = panel.get_by_role("list", name="Chosen tags")
    expect(chosen.get_by_role("listitem")).not_to_have_count(0)
    panel.get_by_label("Add a tag").fill("line 1 zone 1 air temperature")
    page.get_by_role("option", name=re.compile("^Line 1 Zone 1 air temperature")).first.click()
    expect(chosen).to_contain_text("Line 1 Zone 1 air temperature")
    remove_others(chosen, "Line 1 Zone 1 air temperature")
    panel.get_by_label("A row is").select_option("one sample")
    type_window(page, window, "06:00")
    return panel


def test_more_than_fits_at_once_is_a_file_of_the_worker(page: Page, shared: Application, many: str) -> None:
    panel = choose_many(page, shared, many)
    panel.get_by_label("Order").select_option("Largest value first")
    table = page.get_by_role("table", name="Samples")
    expect(table.locator("tbody").get_by_role("row").first).to_contain_text("89.9")
    page.get_by_role("button", name="Files", exact=True).click()
    files = page.get_by_role("form", name="Files")
    files.get_by_role("button", name="Download").click()
    expect(files).to_contain_text("there are more than 100,000 rows")
    files.get_by_role("button", name="Prepare in the background").click()
    expect(files).to_contain_text("The file is being made.")
    assert serious_violations(page) == []

    files.get_by_role("link", name="Files made in the background").click()
    file = page.get_by_role("listitem", name=re.compile("^Table of 1 tag, .*CSV"))
    expect(file).to_contain_text("Ready", timeout=120_000)
    with page.expect_download() as download:
        file.get_by_role("link", name="Download").click()
    lines = list(csv.reader(io.StringIO(download.value.path().read_text("utf-8-sig"))))[1:]
    values = [float(line[2]) for line in lines]
    assert len(values) == MANY and values == sorted(values, reverse=True)


def test_all_rows_go_on_paper_not_those_that_are_drawn(page: Page, shared: Application, many: str) -> None:
    page.add_init_script("window.print = () => { window.printed = true; };")
    choose_many(page, shared, many)
    page.get_by_label("Value", exact=True).fill("> 89")
    table = page.get_by_role("table", name="Samples")
    expect(table.locator("tbody").get_by_role("row").first).to_contain_text("89.")
    page.get_by_role("button", name="Print", exact=True).click()
    sheet = page.locator("#printed-sheet")
    expect(sheet).to_have_count(1)
    assert page.evaluate("window.printed")
    printed = sheet.locator("tbody").first.locator("tr")
    assert printed.count() > 500 > table.locator("tbody").get_by_role("row").count()
    heading = sheet.text_content() or ""
    assert "Samples of Line 1 Zone 1 air temperature" in heading and "value > 89" in heading
    page.emulate_media(media="print")
    expect(sheet).to_be_visible()
    expect(table).to_be_hidden()
    page.emulate_media(media="screen")
    page.evaluate("window.dispatchEvent(new Event('afterprint'))")
    expect(sheet).to_have_count(0)
    expect(table).to_be_visible()

    # Of more than goes on paper the first rows, and that is said.
    page.get_by_label("Value", exact=True).fill("")
    expect(table.locator("tbody").get_by_role("row").first).not_to_contain_text("89.")
    page.get_by_role("button", name="Print", exact=True).click()
    expect(sheet.locator("p", has_text="The first 5,000 rows; there are more.")).to_have_count(
        1, timeout=60_000
    )


def test_rows_by_value_follow_live(page: Page, shared: Application) -> None:
    go(page, shared, "Samples")
    page.get_by_role("button", name=re.compile("^Tags and rows")).click()
    panel = page.get_by_role("form", name="Tags and rows")
    panel.get_by_label("A row is").select_option("one sample")
    panel.get_by_label("Order").select_option("Largest value first")
    expect(panel).to_contain_text("the table follows live until you scroll past its first 200 rows")
    type_window(page, "last 20 s", "20 s")
    rows = page.get_by_role("table", name="Samples").locator("tbody").get_by_role("row")
    first = rows.first
    expect(first).to_contain_text(re.compile(r"\d\d:\d\d:\d\d"))
    seen = first.inner_text()
    # After 20 s what was the largest lies before the window.
    expect(rows.filter(has_text=seen.split("\t")[0])).to_have_count(0, timeout=60_000)
    expect(first).to_contain_text(re.compile(r"\d\d:\d\d:\d\d"))


def us_of(text: str) -> int:
    return round(datetime.fromisoformat(text).timestamp() * SECOND)


def test_a_table_follows_live_and_comes_back_from_a_sheet(page: Page, shared: Application) -> None:
    go(page, shared, "Samples")
    table = page.get_by_role("table", name="Samples")
    first = table.locator("tbody").get_by_role("row").first
    expect(first).to_contain_text(re.compile(r"\d\d:\d\d:\d\d"))
    before = first.inner_text()
    expect(first).not_to_have_text(before)
    expect(table.locator("tfoot")).to_contain_text("Mean")

    page.get_by_label("Value", exact=True).fill("> warm")
    expect(page.get_by_text("does not compare with a number")).to_be_visible()
    page.get_by_label("Value", exact=True).fill("> 1e9")
    expect(page.get_by_text("No sample in this window matches.")).to_be_visible()
    page.get_by_label("Value", exact=True).fill("")
    expect(first).to_contain_text(re.compile(r"\d\d:\d\d:\d\d"))

    page.get_by_role("button", name=re.compile("^Tags and rows")).click()
    page.get_by_label("A row is").select_option("a time every …")
    page.get_by_label("Every", exact=True).fill("5 s")
    page.get_by_label("Every", exact=True).press("Tab")
    expect(first.get_by_role("rowheader")).to_have_text(re.compile(r":\d[05]$"))
    page.get_by_role("button", name="Sheets", exact=True).click()
    panel = page.get_by_role("form", name="Sheets")
    panel.get_by_label("Save as").fill("Every five seconds")
    panel.get_by_role("button", name="Save", exact=True).click()
    expect(panel.get_by_role("list", name="Saved sheets")).to_contain_text("Every five seconds")

    go(page, shared, "Trends")
    page.get_by_role("button", name=re.compile("^Find")).first.click()
    page.get_by_role("combobox", name=re.compile("^Find a tag")).fill("Every five")
    page.get_by_role("option", name=re.compile("Every five seconds")).click()
    expect(page).to_have_url(re.compile("/samples.*rows=grid"))
    expect(page.get_by_role("heading", level=1)).to_have_text("Samples")
    expect(first.get_by_role("rowheader")).to_have_text(re.compile(r":\d[05]$"))


def test_no_part_has_a_barrier(page: Page, shared: Application) -> None:
    go(page, shared, "Samples")
    row = page.get_by_role("table", name="Samples").locator("tbody").get_by_role("row").nth(2)
    expect(row).to_contain_text(re.compile(r"\d\d:\d\d:\d\d"))
    for other in ("night", "day"):
        for name in ("Tags and rows", "Changes", "Files", "Sheets"):
            page.get_by_role("button", name=re.compile(f"^{name}")).first.click()
            expect(page.get_by_role("form", name=re.compile(f"^{name}"))).to_be_visible()
            assert serious_violations(page) == [], (name, other)
        row.get_by_role("button").click()
        expect(page.get_by_text("Correct it")).to_be_visible()
        assert serious_violations(page) == [], ("a sample", other)
        page.get_by_role("button", name="Close", exact=True).click()
        page.get_by_role("button", name=f"Change to {other}").click()
