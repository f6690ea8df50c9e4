"""At each change of the lot number a record of eight tags: set up by hand, taken by itself, told back."""

from __future__ import annotations

import csv
import io
import re
import time

import pytest
from openpyxl import load_workbook
from playwright.sync_api import Page, expect

from cronaca.core.model import SECOND, Window
from cronaca.demo.names import tag_uid
from cronaca.history.read.series import SeriesReader
from cronaca.plant.archives import find_archive
from cronaca.plant.tags import find_tags
from tests.browser.axe import serious_violations
from tests.browser.test_setup import choose
from tests.browser.ways import go, open_setup
from tests.support.application import Application, wait_for

pytestmark = pytest.mark.browser
MEMBERS = (
    "temperature_1", "humidity_1", "temperature_2", "humidity_2", "product_moisture", "head_pressure",
    "throughput", "lot",
)  # fmt: skip


def find(page: Page, label: str, text: str) -> None:
    """Chooses a tag in a field that finds as one types."""
    page.get_by_label(label).fill(text)
    page.get_by_role("option", name=text).click()


def add_number_tag(application: Application) -> None:
    """A holding register that the record's number goes to."""
    source = application.get("/api/setup/sources")[0]["uid"]
    place = {"table": "holding_register", "address": 20, "data_type": "uint32"}
    tag = {"name": "Line 1 last record", "source": source, "address": place, "value_type": "integer"}
    application.send("POST", "/api/setup/tags", {"tags": [tag]})


def set_up(page: Page, application: Application) -> str:
    """An archive, a triggered logger and its eight tags, one column renamed; the logger's uid."""
    add_number_tag(application)
    open_setup(page, application, "Archives")
    page.get_by_role("button", name="Add an archive").click()
    page.get_by_label("Name", exact=True).fill("Lot records")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_role("row", name="Lot records")).to_be_visible()

    open_setup(page, application, "Loggers")
    page.get_by_role("button", name="Add a logger").click()
    page.get_by_label("Name", exact=True).fill("Line 1 lots")
    choose(page, "Archive", "Lot records")
    choose(page, "When", "records at a trigger")
    find(page, "Records when", "Line 1 Lot number")
    chosen = page.get_by_label("this tag", exact=True).locator("option:checked")
    expect(chosen).to_have_text("has another value")
    find(page, "When the record is stored, write its number to", "Line 1 last record")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_role("row", name="Line 1 lots")).to_contain_text("recording")
    page.get_by_role("button", name="Line 1 lots").click()
    expect(page.get_by_role("button", name="Record now")).to_be_disabled()  # of no tags
    page.get_by_role("button", name="Close", exact=True).click()

    logger = next(one for one in application.get("/api/setup/loggers") if one["name"] == "Line 1 lots")
    uids = [tag_uid(key) for key in MEMBERS]
    application.send("POST", f"/api/setup/loggers/{logger['uid']}/members", {"add": uids, "remove": []})
    open_setup(page, application, "Loggers")
    page.get_by_role("button", name="Line 1 lots").click()
    expect(page.get_by_text("8 tags", exact=True)).to_be_visible()
    field = page.get_by_label(re.compile("Column for Line 1 Cooler product moisture"))
    field.fill("Final moisture")
    field.blur()
    wait_for(lambda: "Final moisture" in str(application.get("/api/setup/loggers")), 20, "the column's name")
    application.wait_for_setup()
    application.wait_for_readings(2)  # a change counts from the first reading by this set-up

    return str(logger["uid"])


def number_told(application: Application) -> object:
    """What the device holds where the number goes to."""
    place = {"table": "holding_register", "address": 20, "data_type": "uint32"}
    config = application.get("/api/setup/sources")[0]["config"]
    body = {
        "protocol": "modbus_tcp", "config": config,
        "places": [{"address": place, "value_type": "integer"}],
    }  # fmt: skip
    return application.send("POST", "/api/setup/sources/test", body)["values"][0]["value"]


def find_order_and_save(page: Page, application: Application) -> None:
    """One record more, of another lot and wetter: found, ordered, saved as it is shown."""
    application.device.set({"lot": 48_199, "product_moisture": 13.4})
    table = page.get_by_role("table", name="Records")
    rows = table.locator("tbody tr")
    expect(rows).to_have_count(2)
    head = table.get_by_role("columnheader", name=re.compile("Lot number"))
    for sort, first in (("ascending", "48199"), ("descending", "48201")):
        head.get_by_role("button").click()
        expect(head).to_have_attribute("aria-sort", sort)
        expect(rows.first).to_contain_text(first)
    mean = table.get_by_role("row", name=re.compile("^Mean of"))
    expect(mean).to_contain_text("13.")
    expect(mean).not_to_contain_text("48200")
    page.get_by_role("button", name="Columns").click()
    page.get_by_role("checkbox", name=re.compile("Trigger")).click()
    page.keyboard.press("Escape")
    expect(table.get_by_role("columnheader", name="Trigger")).to_have_count(0)
    page.get_by_label("Find in number, trigger and values").fill("48199")
    expect(rows).to_have_count(1)
    with page.expect_download() as waiting:
        page.get_by_role("button", name="CSV").click()
    saved = list(csv.reader(waiting.value.path().read_text(encoding="utf-8-sig").splitlines()))
    assert [row[0] for row in saved] == ["Record", rows.first.locator("td, th").first.inner_text()]
    assert "Trigger" not in saved[0] and "48199" in saved[1]
    page.get_by_label("Find in number, trigger and values").fill("no such lot")
    expect(page.get_by_text("holds this text")).to_be_visible()
    page.get_by_label("Find in number, trigger and values").fill("")
    page.reload()
    expect(table.get_by_role("columnheader", name="Trigger")).to_have_count(0)
    expect(rows.first).to_be_visible()
    assert serious_violations(page) == []


def test_each_change_of_the_lot_makes_a_record(page: Page, application: Application) -> None:
    application.device.set({"lot": 48_200, "product_moisture": 12.5})
    logger = set_up(page, application)
    go(page, application, "Records")
    expect(page.get_by_text("it waits for its trigger")).to_be_visible()
    application.device.set({"lot": 48_201, "product_moisture": 12.9})
    row = page.get_by_role("row", name=re.compile("Lot number = 48201"))
    expect(row).to_be_visible()
    expect(row).to_contain_text("12.9")
    expect(page.get_by_role("columnheader", name=re.compile("Final moisture"))).to_be_visible()

    wait_for(lambda: number_told(application) == 1, 30, "the number at the device")
    file = application.download(f"/api/records/{logger}/export?form=xlsx")
    sheet = load_workbook(io.BytesIO(file)).active
    assert sheet is not None
    header, line = list(sheet.iter_rows(values_only=True))
    assert header[:3] == ("Record", "Time (UTC)", "Trigger") and "Final moisture (%)" in header
    assert dict(zip(header, line, strict=True))["Line 1 Lot number"] == 48_201
    find_order_and_save(page, application)


def test_a_logger_on_demand_takes_a_sample_at_an_edge_and_a_member_has_an_inhibit_tag_of_its_own(
    page: Page, application: Application
) -> None:
    application.device.set({"product_moisture": 12.5, "head_pressure": 95.0, "door": 0})
    application.send("POST", "/api/setup/archives", {"name": "Laboratory"})
    door = application.get("/api/tags?search=Dryer%20door%20open")["tags"][0]["name"]
    open_setup(page, application, "Loggers")
    page.get_by_role("button", name="Add a logger").click()
    page.get_by_label("Name", exact=True).fill("Line 1 laboratory")
    choose(page, "Archive", "Laboratory")
    choose(page, "When", "periodic")
    expect(page.get_by_label("Every")).to_have_value("1 s")
    page.get_by_label("Every").fill("")
    find(page, "Sample at an edge of", door)
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_role("row", name="Line 1 laboratory")).to_contain_text("on demand")

    made = next(one for one in application.get("/api/setup/loggers") if one["name"] == "Line 1 laboratory")
    uids = [tag_uid(key) for key in ("product_moisture", "head_pressure")]
    application.send("POST", f"/api/setup/loggers/{made['uid']}/members", {"add": uids, "remove": []})
    open_setup(page, application, "Loggers")
    page.get_by_role("button", name="Line 1 laboratory").click()
    page.get_by_role("listitem").filter(has_text="head pressure").get_by_role(
        "button", name="Inhibit tag"
    ).click()
    find(page, "Not recorded while", door)
    page.get_by_role("button", name="Save inhibit tag").click()
    expect(page.get_by_role("button", name="Inhibit tag set …")).to_have_count(1)
    assert serious_violations(page) == []

    def samples(key: str) -> list[float]:
        window = Window(0, time.time_ns() // 1000 + SECOND)
        with application.store.snapshot() as tx:
            number = find_tags(tx, [tag_uid(key)])[tag_uid(key)].tag_id
            archive = find_archive(tx, "Laboratory")
        (answer,) = SeriesReader(application.store).read_many([number], window, {number: archive or 0})
        return [float(v) for v in answer.recorded.values[answer.recorded.quality == 0]]

    application.wait_for_setup()
    application.wait_for_readings(2)  # an edge counts from the first reading by this set-up
    application.device.set({"door": 1})
    wait_for(lambda: samples("product_moisture") == [12.5], 15, "its sample at the edge")
    assert samples("head_pressure") == [], "the door that takes the sample holds this one off"
