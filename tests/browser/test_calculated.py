"""Calculated tags, meters and runs, by an engineer's way through the browser."""

from __future__ import annotations

import re
import time

import pytest
from playwright.sync_api import Locator, Page, expect

from cronaca.core.model import SECOND, Window
from tests.browser.axe import serious_violations
from tests.browser.test_setup import choose
from tests.browser.ways import go, open_setup
from tests.support.application import Application, wait_for

pytestmark = pytest.mark.browser


@pytest.fixture
def application(shared: Application) -> Application:
    """The one of the module."""
    return shared


def add_source(page: Page, application: Application, name: str, protocol: str) -> None:
    """Adds it where no test before has."""
    open_setup(page, application, "Sources")
    if name in [one["name"] for one in application.get("/api/setup/sources")]:
        return
    page.get_by_role("button", name="Add a source").click()
    page.get_by_label("Name", exact=True).fill(name)
    choose(page, "Protocol", protocol)
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_role("row", name=name)).to_contain_text("connected")


def pick_tag(page: Page, label: str, text: str, name: str) -> None:
    field = page.get_by_role("form", name="New tags").get_by_label(label)
    field.fill(text)
    option = page.get_by_role("option", name=name, exact=True)
    # What is offered while one types may move away under the pointer: then one clicks again.
    for _ in range(5):
        option.click()
        if field.input_value() == name:
            return
    expect(field).to_have_value(name)


def begin_tag(page: Page, application: Application, name: str) -> Locator:
    """The form of a calculated tag with its name."""
    add_source(page, application, "Calculated values", "Calculated values")
    open_setup(page, application, "Tags")
    page.get_by_role("button", name="Add tags").click()
    form = page.get_by_role("form", name="New tags")
    choose(page, "Source", "Calculated values", "New tags")
    form.get_by_label("Name", exact=True).fill(name)
    return form


def add_tag(page: Page) -> None:
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_text("Added. The recorder")).to_be_visible()
    page.get_by_role("button", name="Close").click()


def test_a_formula_is_written_checked_recorded_and_drawn(page: Page, application: Application) -> None:
    """71.5 °C and 79 % have a dew point of 66.09 °C (psychrolib 2.5)."""
    form = begin_tag(page, application, "Line 1 Zone 1 dew point")
    form.get_by_label("Formula", exact=True).fill("dew_point(t, rh")
    expect(form.get_by_role("alert")).to_contain_text("ends too early")
    form.get_by_label("Formula", exact=True).fill("dew_point(t, rh)")
    pick_tag(page, "t is", "Zone 1 air", "Line 1 Zone 1 air temperature")
    pick_tag(page, "rh is", "Zone 1 relative", "Line 1 Zone 1 relative humidity")
    expect(form.get_by_text(re.compile(r"Now: 66\.09"))).to_be_visible()
    choose(page, "Recorded by", "Line 1 contacts", "New tags")
    add_tag(page)

    page.get_by_label("Find", exact=True).fill("dew point")
    page.get_by_role("button", name="Line 1 Zone 1 dew point").click()
    page.get_by_role("link", name="Trend", exact=True).click()
    expect(page.get_by_test_id("pen-value").first).to_have_text("66.1")
    application.device.set({"temperature_1": 60.0, "humidity_1": 90.0})
    # 60 °C, 90 %: 57.74 °C (psychrolib 2.5).
    expect(page.get_by_test_id("pen-value").first).to_have_text("57.7")


def test_a_statistic_over_a_window_that_moves_on_is_a_tag(page: Page, application: Application) -> None:
    form = begin_tag(page, application, "Line 1 Zone 1 peak")
    choose(page, "Calculated as", "Statistic over a window that moves on", "New tags")
    pick_tag(page, "Statistic of", "Zone 1 air", "Line 1 Zone 1 air temperature")
    choose(page, "Which one", "Max", "New tags")
    form.get_by_label("Length", exact=True).fill("10 s")
    choose(page, "Recorded by", "Line 1 contacts", "New tags")
    assert serious_violations(page) == []
    add_tag(page)
    page.get_by_label("Find", exact=True).fill("Zone 1 peak")
    page.get_by_role("button", name="Line 1 Zone 1 peak").click()
    page.get_by_role("link", name="Trend", exact=True).click()
    value = page.get_by_test_id("pen-value").first
    expect(value).to_have_text("71.5")
    application.device.set({"temperature_1": 60.0})
    application.wait_for_readings(3, "temperature_1", 60.0)
    expect(value).to_have_text("71.5")
    expect(value).to_have_text("60.0")


def newest(application: Application, key: str) -> float:
    """What was recorded last of a signal."""
    now_us = time.time_ns() // 1000
    return float(application.read(key, Window(now_us - 60 * SECOND, now_us)).recorded.values[-1])


def test_a_counter_counts_and_a_person_resets_it(page: Page, application: Application) -> None:
    begin_tag(page, application, "Line 1 jams")
    choose(page, "Calculated as", "Counter of edges", "New tags")
    pick_tag(page, "Counts", "jam", "Line 1 Cutter jam")
    choose(page, "Recorded by", "Line 1 contacts", "New tags")
    add_tag(page)
    page.get_by_label("Find", exact=True).fill("Line 1 jams")
    page.get_by_role("button", name="Line 1 jams").click()
    page.get_by_role("link", name="Trend", exact=True).click()
    value = page.get_by_test_id("pen-value").first
    expect(value).to_have_text("0")
    for count in (1, 2):
        application.device.set({"jam": 1})
        expect(value).to_have_text(str(count))
        application.device.set({"jam": 0})
        wait_for(lambda: newest(application, "jam") == 0, 15, "the end of the jam")

    open_setup(page, application, "Tags")
    page.get_by_label("Find", exact=True).fill("Line 1 jams")
    page.get_by_role("button", name="Line 1 jams").click()
    page.get_by_label("Write a value").fill("0")
    page.get_by_role("button", name="Write", exact=True).click()
    expect(page.get_by_text("Written.")).to_be_visible()
    page.get_by_role("link", name="Trend", exact=True).click()
    expect(page.get_by_test_id("pen-value").first).to_have_text("0")


def test_lots_are_runs_and_a_person_marks_one(page: Page, application: Application) -> None:
    application.device.set({"lot": 4711})
    open_setup(page, application, "Runs")
    page.get_by_role("button", name="Add a rule").click()
    form = page.get_by_role("form", name="A new rule")
    form.get_by_label("Name; the value is put behind it").fill("Line 1 lot")
    field = form.get_by_label("Tag", exact=True)
    field.fill("lot")
    page.get_by_role("option", name="Line 1 Lot number").click()
    form.get_by_label("Attributes kept at its start and end").fill("product moist")
    page.get_by_role("option", name="Line 1 Cooler product moisture").click()
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_role("row", name="Line 1 lot")).to_contain_text("watched")

    page.get_by_role("link", name="Runs", exact=True).first.click()
    expect(page.get_by_role("row", name="Line 1 lot 4711")).to_contain_text("running")
    application.device.set({"lot": 4712})
    row = page.get_by_role("row", name="Line 1 lot 4712")
    expect(row).to_contain_text("12.50 %")
    expect(page.get_by_role("row", name="Line 1 lot 4711")).not_to_contain_text("running")

    page.get_by_label("New run").fill("Trial 7")
    page.get_by_role("button", name="Start run").click()
    page.get_by_role("row", name="Trial 7").get_by_role("button").click()
    page.get_by_role("button", name="End run").click()
    expect(page.get_by_role("row", name="Trial 7")).not_to_contain_text("running")
    page.get_by_label("Find in names and attributes").fill("4711")
    expect(page.get_by_role("row", name="Trial 7")).to_have_count(0)
    page.get_by_role("row", name="Line 1 lot 4711").get_by_role("button").click()
    page.get_by_role("link", name="Trend", exact=True).click()
    expect(page.get_by_test_id("pen-card").first).to_contain_text("Cooler product moisture")
    expect(page.get_by_role("button", name="Hold")).to_have_attribute("aria-pressed", "true")


def test_new_pages_have_no_barrier(page: Page, application: Application) -> None:
    steps = (
        ("Runs", "", None), ("Set-up", "Runs", "Add a rule"), ("Set-up", "Archives", "Add an archive"),
        ("Set-up", "Loggers", "Add a logger"),
    )  # fmt: skip
    for section, part, button in steps:
        go(page, application, section, part)
        if button is not None:
            page.get_by_role("button", name=button).click()
        if part == "Loggers":
            page.get_by_role("button", name="Record by a schedule").click()
        assert serious_violations(page) == [], (section, part)
