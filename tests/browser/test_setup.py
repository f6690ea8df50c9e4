"""An engineer's way through the set-up: a source, tags, loggers, and that it is really being recorded."""

from __future__ import annotations

import csv
import json
import re
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from openpyxl import load_workbook
from playwright.sync_api import Locator, Page, expect

from cronaca.core.model import SECOND, Window
from cronaca.core.setup import SourceSpec, TagSpec
from cronaca.db.transaction import Transaction
from cronaca.plant import sources, tag_changes, tags
from cronaca.plant.changes import By
from tests.browser.rest import wait_for_rest
from tests.browser.ways import deafen, open_setup
from tests.support.application import ROOT, Application, wait_for

pytestmark = pytest.mark.browser


@pytest.fixture
def application(shared: Application) -> Application:
    """The one of the module: what a test adds has names of its own."""
    return shared


def choose(page: Page | Locator, label: str, option: str, form: str = "") -> None:
    place = page.get_by_role("form", name=form) if form else page
    field = place.get_by_label(label, exact=True)
    found = field.locator("option").filter(has_text=option).first
    expect(found).to_be_attached()
    field.select_option(value=found.get_attribute("value"))


def add_line_5(page: Page, application: Application) -> None:
    """Adds the device as a source, once with a wrong port to see what a test says."""
    open_setup(page, application, "Sources")
    page.get_by_role("button", name="Add a source").click()
    page.get_by_label("Name", exact=True).fill("Line 5 controller")
    page.get_by_label("Port").fill("1")
    page.get_by_role("button", name="Test", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("no connection to 127.0.0.1:1")
    page.get_by_label("Port").fill(str(application.device.port))
    page.get_by_label("Read a value too").click()
    page.get_by_label("Address, counted from 0").fill("2")
    page.get_by_role("button", name="Test", exact=True).click()
    expect(page.get_by_role("status")).to_contain_text("Input register 2, float32 is 98")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_role("row", name="Line 5 controller")).to_contain_text("connected")


def add_logger(page: Page, application: Application, name: str, *, every_second: bool) -> None:
    open_setup(page, application, "Loggers")
    page.get_by_role("button", name="Add a logger").click()
    page.get_by_label("Name", exact=True).fill(name)
    if every_second:
        choose(page, "When", "periodic")
    else:
        page.get_by_label("Deadband").fill("0.2")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_role("row", name=name)).to_be_visible()


def add_tags(page: Page, count: int, first: int, name: str, logger: str) -> None:
    page.get_by_role("button", name="Add tags").click()
    form = page.get_by_role("form", name="New tags")
    choose(page, "Source", "Line 5 controller", "New tags")
    form.get_by_label("How many").fill(str(count))
    form.get_by_label("Name", exact=True).fill(name)
    form.get_by_label("Address, counted from 0").fill(str(first))
    form.get_by_label("Equipment", exact=True).fill("Line 5")
    choose(page, "Recorded by", logger, "New tags")
    expect(page.get_by_role("list", name="The new tags")).to_contain_text(f"Input register {first + 2}")
    page.get_by_role("button", name=f"Add {count} tags").click()
    expect(page.get_by_role("status")).to_contain_text("Added")
    page.get_by_role("button", name="Close").click()


def test_a_source_20_tags_and_two_loggers_and_all_is_recorded(page: Page, application: Application) -> None:
    add_line_5(page, application)
    add_logger(page, application, "Line 5 changes", every_second=False)
    add_logger(page, application, "Line 5 every second", every_second=True)
    open_setup(page, application, "Tags")
    add_tags(page, 18, 100, "Line 5 value {n:2}", "Line 5 changes")
    add_tags(page, 2, 0, "Line 5 press {n}", "Line 5 every second")
    page.get_by_role("tree", name="Equipment").get_by_role("treeitem", name="Line 5").click()
    expect(page.get_by_text("20 found")).to_be_visible()

    open_setup(page, application, "Recorder")
    row = page.get_by_role("table", name="Active loggers").get_by_role("row", name="Line 5 every second")
    expect(row).to_contain_text("recording")
    # Two tags each second; a machine that is held up makes it a little less.
    expect(row).to_contain_text(re.compile(r"[12]\.\d"))
    expect(page.get_by_role("row", name="Line 5 changes")).to_contain_text("18")
    hour = page.get_by_role("region", name="The last hour")
    for course in ("Samples a second", "Commits behind the clock", "Late scans", "Minutes with gaps"):
        expect(hour.get_by_role("img", name=f"{course} over the last hour")).to_be_visible()

    open_setup(page, application, "Tags")
    page.get_by_label("Find", exact=True).fill("Line 5 press 2")
    page.get_by_role("button", name="Line 5 press 2").click()
    page.get_by_role("link", name="Trend", exact=True).click()
    expect(page.get_by_test_id("pen-value").first).to_have_text("98.0")
    application.device.set({"head_pressure": 71.0})
    expect(page.get_by_test_id("pen-value").first).to_have_text("71.0")


def test_chosen_tags_are_dragged_to_a_logger(page: Page, application: Application) -> None:
    setup_api = f"{application.url}/api/setup"
    sources_there = page.request.get(f"{setup_api}/sources").json()
    source = next(one for one in sources_there if one["protocol"] == "modbus_tcp")
    address = {"table": "input_register", "address": 400, "data_type": "float32"}
    tag = {"name": "Spare {n}", "source": source["uid"], "address": address}
    assert page.request.post(f"{setup_api}/tags", data={"tags": [tag], "count": 3}).ok
    open_setup(page, application, "Tags")
    page.get_by_label("Find", exact=True).fill("Spare")
    for name in ("Spare 1", "Spare 3"):
        page.get_by_label(f"Choose {name}").click()
    drag(page, "Spare 3", "Line 1 contacts")
    expect(page.get_by_role("status")).to_contain_text("Line 1 contacts records the 2 tags within 2 s")
    expect(page.get_by_role("row", name="Spare 1")).to_contain_text("Line 1 contacts")
    expect(page.get_by_role("row", name="Spare 2")).to_contain_text("not recorded")
    page.get_by_role("button", name="Close").click()
    drag(page, "Spare 2", None)
    expect(page.get_by_role("form", name="Drop them on a logger")).to_have_count(0)
    expect(page.get_by_role("row", name="Spare 2")).to_contain_text("not recorded")


def drag(page: Page, tag: str, logger: str | None) -> None:
    """With the pointer; None: lets go where nothing takes it."""
    page.get_by_role("row", name=tag).hover()
    page.mouse.down()
    page.mouse.move(500, 500, steps=4)
    panel = page.get_by_role("form", name="Drop them on a logger")
    expect(panel).to_be_visible()
    if logger is None:
        page.mouse.move(500, 700, steps=4)
    else:
        panel.get_by_role("listitem").filter(has_text=logger).hover()
    page.mouse.up()


def test_a_mistake_is_said_at_its_field_and_the_later_of_two_is_told(
    page: Page, application: Application
) -> None:
    deafen(page)
    open_setup(page, application, "Loggers")
    page.get_by_role("button", name="Line 1 contacts").click()
    page.get_by_label("Deadband").fill("-1")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_text("-1.0 is not a width. Give 0 or more.")).to_be_visible()
    page.get_by_label("Deadband").fill("0")
    other = page.context.new_page()
    open_setup(other, application, "Loggers")
    other.get_by_role("button", name="Line 1 contacts").click()
    other.get_by_label("Name", exact=True).fill("Line 1 doors and jams")
    other.get_by_role("button", name="Save").click()
    expect(other.get_by_role("status")).to_contain_text("Saved")
    page.get_by_label("Name", exact=True).fill("Line 1 anything")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("alert")).to_contain_text("changed by Lucia Greco since you opened it")


def test_a_rule_is_rehearsed_and_taken_over(page: Page, application: Application) -> None:
    open_setup(page, application, "Loggers")
    page.get_by_role("button", name="Add a logger").click()
    page.get_by_role("button", name="Rehearse this rule").click()
    page.get_by_role("button", name="Rehearse", exact=True).click()
    rows = page.get_by_role("table", name="Both rules").get_by_role("row")
    expect(rows).to_have_count(3)
    expect(rows.nth(1)).to_contain_text("100.0 %")
    page.get_by_role("button", name="Use this advice").click()
    expect(page.get_by_role("form", name="A new logger")).to_contain_text("by linear compression")


def test_a_contact_by_the_clock_is_rehearsed_beside_on_change(page: Page, application: Application) -> None:
    """By the clock it misses edges, which are told and marked; the rule on change is taken over."""
    open_setup(page, application, "Loggers")
    page.get_by_role("button", name="Add a logger").click()
    form = page.get_by_role("form", name="A new logger")
    choose(form, "When", "periodic")
    form.get_by_label("Every", exact=True).fill("1 min")
    page.get_by_role("button", name="Rehearse these settings").click()
    rehearsal = page.get_by_role("region", name="Rehearse")
    choose(rehearsal, "Rehearse on", "a CSV file")
    lines = [f"2026-11-20T06:{i // 60:02d}:{i % 60:02d}Z,{'true' if i in (103, 300) else 'false'}"
             for i in range(600)]  # fmt: skip
    content = ("time,value\n" + "\n".join(lines)).encode()
    with page.expect_file_chooser() as chosen:
        page.get_by_text("Choose a file").click()
    chosen.value.set_files({"name": "jams.csv", "mimeType": "text/csv", "buffer": content})
    page.get_by_role("button", name="Rehearse", exact=True).click()
    rows = page.get_by_role("table", name="Both rules").get_by_role("row")
    expect(rows).to_have_count(3)
    missed = rehearsal.get_by_test_id("missed-1")
    expect(missed).to_contain_text("Rule 1 misses 2 edges")
    expect(rehearsal.get_by_test_id("missed-2")).to_have_count(0)
    rows.nth(2).get_by_role("button", name="Use rule 2").click()
    expect(form.get_by_label("When", exact=True)).to_have_value("on_change")


def test_the_new_tags_have_their_samples(application: Application) -> None:
    """What the browser's journey set up by hand, through the API: a change is at work within 2 s."""
    by = By("test", time.time_ns() // 1000)
    with application.store.snapshot() as tx:
        line = sources.list_rows(tx)[0]
        before = tags.list_rows(tx)[0].spec
    made = application.get("/api/setup/loggers")[0]
    spec = TagSpec("Another door", line.uid, before.address, value_type=before.value_type)
    (uid,) = application.store.run(lambda tx: tag_changes.add_tags(tx, [spec], by))
    started = time.time_ns() // 1000
    application.send("POST", f"/api/setup/loggers/{made['uid']}/members", {"add": [uid], "remove": []})

    def first() -> int | None:
        (answer,) = application.read_uids([uid], Window(started - SECOND, time.time_ns() // 1000 + SECOND))
        good = answer.recorded.ts_us[answer.recorded.quality == 0]
        return int(good[0]) if len(good) else None

    at_us = wait_for(first, 10, "the first sample")
    assert at_us - started < 2.5 * SECOND


def test_pages_have_no_barrier(page: Page, application: Application) -> None:
    axe = (ROOT / "web/node_modules/axe-core/axe.min.js").read_text()
    for part in ("Recorder", "Sources", "Tags", "Import", "Loggers", "Archives", "Plant", "Changes"):
        if part == "Import":
            page.get_by_role("link", name=part, exact=True).click()
            expect(page.get_by_role("heading", name="Import tags")).to_be_visible()
        else:
            open_setup(page, application, part)
        wait_for_rest(page)
        page.evaluate(axe)
        found = page.evaluate("axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']})")
        assert [(v["id"], v["nodes"][0]["html"][:200]) for v in found["violations"]] == [], part


def test_an_internal_tag_takes_a_value_and_keeps_it_over_a_restart(
    page: Page, application: Application
) -> None:
    source = application.send("POST", "/api/setup/sources", {"name": "Set points", "protocol": "internal"})
    place = {"initial": 78.0, "keep": True}
    limit = {"name": "Line 1 humidity limit", "source": source["uid"], "address": place, "unit": "%"}
    (uid,) = application.send("POST", "/api/setup/tags", {"tags": [limit]})["uids"]
    archive = application.get("/api/setup/archives")[0]["uid"]
    logger = {"name": "Set points", "archive": archive, "mode": "on_change", "tags": [uid]}
    application.send("POST", "/api/setup/loggers", logger)
    open_setup(page, application, "Tags")
    page.get_by_label("Find", exact=True).fill("humidity limit")
    page.get_by_role("button", name="Line 1 humidity limit").click()
    page.get_by_label("Write a value").fill("82,5")
    expect(page.get_by_role("button", name="Write", exact=True)).to_be_enabled()
    application.wait_for_setup()
    page.get_by_role("button", name="Write", exact=True).click()
    expect(page.get_by_role("status").filter(has_text="Written")).to_be_visible()

    def recorded() -> list[float]:
        (answer,) = application.read_uids([uid], Window(0, time.time_ns() // 1000 + SECOND))
        return [float(v) for v in answer.recorded.values[answer.recorded.quality == 0]]

    wait_for(lambda: recorded()[-1:] == [82.5], 30, "the written value in the history")
    before = application.epoch()
    application.end("recorder")
    application.start_part("recorder")
    wait_for(
        lambda: application.epoch() == before + 1 and application.health().get("status") == "ok",
        20,
        "the restart",
    )
    wait_for(lambda: len(recorded()) >= 3, 30, "its first value after the restart")
    assert recorded()[-1] == 82.5


@pytest.fixture
def many_tags(application: Application) -> Iterator[int]:
    """10,000 tags of a generator."""
    by = By("test", time.time_ns() // 1000)

    def write(tx: Transaction) -> None:
        uid = sources.add_source(tx, SourceSpec("Generator", "generator"), by)
        place = json.dumps({"shape": "sine"})
        wanted = [TagSpec(f"Signal {i:05d}", uid, place, unit="bar") for i in range(10_000)]
        tag_changes.add_tags(tx, wanted, by)

    application.store.run(write)
    yield 10_000


def write_rows(file: Path, rows: list[dict[str, str]]) -> None:
    with file.open("w", encoding="utf-8", newline="") as text:
        writer = csv.DictWriter(text, list(rows[0]))
        writer.writeheader()
        writer.writerows(rows)


def test_10_000_tags_go_out_300_are_changed_and_come_in(
    page: Page, application: Application, many_tags: int, tmp_path: Path
) -> None:
    others = application.get("/api/setup/tags?limit=1")["total"] - many_tags
    open_setup(page, application, "Tags")
    expect(page.get_by_text(f"{many_tags + others} in all")).to_be_visible(timeout=30_000)
    page.get_by_label("Find", exact=True).fill("Signal 0999")
    # Signal 09990 to 09999, and Signal 00999.
    expect(page.get_by_text("11 found")).to_be_visible(timeout=30_000)
    with page.expect_download() as download:
        page.get_by_role("link", name="CSV").click()
    download.value.save_as(tmp_path / "tags.csv")
    rows = list(csv.DictReader((tmp_path / "tags.csv").open(encoding="utf-8-sig")))
    assert len(rows) == many_tags + others
    chosen_names = {f"Signal {i:05d}" for i in range(100, 400)}
    changed = [row | {"unit": "hPa"} if row["name"] in chosen_names else row for row in rows]
    file = tmp_path / "changed.csv"
    write_rows(file, [*changed[:-1], changed[-1] | {"decimals": "many"}])

    page.get_by_role("link", name="Import", exact=True).click()
    expect(page.get_by_role("heading", name="Import tags")).to_be_visible()
    chosen = page.get_by_label("File with tags")
    chosen.set_input_files(file)
    expect(page.get_by_text("1 line cannot be used")).to_be_visible(timeout=30_000)
    expect(chosen).to_have_value("")  # a browser tells of no choice of the file that is chosen already
    write_rows(file, changed)
    chosen.set_input_files(file)
    expect(page.get_by_text("Nothing is written yet")).to_be_visible(timeout=30_000)
    expect(page.get_by_role("table", name="Changes").get_by_role("row")).to_have_count(301)
    page.get_by_role("button", name="Import", exact=True).click()
    expect(page.get_by_text("0 tags added, 300 changed")).to_be_visible(timeout=30_000)

    page.get_by_role("link", name="Back to the tags").click()
    with page.expect_download(timeout=90_000) as download:
        page.get_by_role("link", name="XLSX").click(timeout=90_000)
    download.value.save_as(tmp_path / "tags.xlsx")
    sheet = load_workbook(tmp_path / "tags.xlsx", read_only=True).worksheets[0]
    units = [row[4] for row in sheet.iter_rows(min_row=2, values_only=True)]
    assert units.count("hPa") == 300
