"""What is set up once begins the next one: copies of what there is, and the newest source for new tags."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.test_setup import choose
from tests.browser.ways import open_setup
from tests.support.application import Application

pytestmark = pytest.mark.browser
#: What a copy does not share with what it began as.
OWN = {
    "sources": {"number", "tags"},
    "archives": {
        "loggers",
        "samples",
        "bytes",
        "first_us",
        "last_us",
        "samples_per_day",
        "megabytes_per_year",
    },
    "loggers": {"tags", "inhibits", "overrides", "columns"},
}


def duplicate(page: Page, name: str) -> None:
    """Opens one of a list and begins a copy of it."""
    page.get_by_role("button", name=name, exact=True).first.click()
    form = page.get_by_role("form", name=name)
    form.get_by_role("button", name="Duplicate").click()
    expect(page.get_by_label(re.compile("^Name")).first).to_have_value(f"{name} copy")


def test_a_source_a_logger_an_archive_and_a_tag_are_duplicated(page: Page, shared: Application) -> None:
    for part, kind in (("Sources", "sources"), ("Archives", "archives"), ("Loggers", "loggers")):
        open_setup(page, shared, part)
        first = shared.get(f"/api/setup/{kind}")[0]
        duplicate(page, first["name"])
        page.get_by_role("button", name="Add", exact=True).click()
        expect(page.get_by_role("row", name=re.compile(f"^{first['name']} copy"))).to_be_visible()
        copy = next(o for o in shared.get(f"/api/setup/{kind}") if o["name"] == f"{first['name']} copy")
        own = {
            "uid",
            "name",
            "revision",
            "tags",
            "number",
            "loggers",
            "samples",
            "bytes",
            "first_us",
            "last_us",
        }
        # What is measured anew at each asking: how much room the disk has, how quickly it grows.
        own |= {"disk", "samples_per_day", "megabytes_per_year"}
        assert {k: v for k, v in copy.items() if k not in own} == {
            k: v for k, v in first.items() if k not in own
        }

    open_setup(page, shared, "Tags")
    page.get_by_label("Find", exact=True).fill("head pressure")
    duplicate(page, "Line 1 Press head pressure")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_text("Added. The recorder reads them")).to_be_visible()
    found = shared.get("/api/setup/tags?search=head+pressure")["tags"]
    first, copy = sorted(found, key=lambda tag: len(tag["name"]))[:2]
    assert copy["name"] == "Line 1 Press head pressure copy"
    same = ("address", "unit", "range_low", "range_high", "decimals", "equipment", "source", "value_type")
    assert [copy[field] for field in same] == [first[field] for field in same]


def test_new_tags_begin_with_the_newest_source(page: Page, shared: Application) -> None:
    open_setup(page, shared, "Sources")
    page.get_by_role("button", name="Add a source").click()
    page.get_by_label("Name", exact=True).fill("A device that was added last")
    choose(page, "Protocol", "Signal generator")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_role("row", name=re.compile("^A device that was added last"))).to_be_visible()
    open_setup(page, shared, "Tags")
    page.get_by_role("button", name="Add tags").click()
    chosen = page.get_by_label("Source", exact=True).last.locator("option:checked")
    expect(chosen).to_have_text("A device that was added last")


def test_new_tags_are_read_as_the_last_one_of_their_source_is(page: Page, shared: Application) -> None:
    open_setup(page, shared, "Tags")
    page.get_by_role("button", name="Add tags").click()
    panel = page.get_by_role("form", name="New tags")
    choose(panel, "Source", "Line 1 controller")
    panel.get_by_label("Name", exact=True).fill("Trial speed")
    choose(panel, "Table", "Holding register")
    choose(panel, "Data type", "int16")
    choose(panel, "Value", "Float")
    panel.get_by_label("Address, counted from 0", exact=True).fill("900")
    panel.get_by_label("Scale", exact=True).fill("0.1")
    panel.get_by_label("Read every", exact=True).fill("5 s")
    panel.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_text("Added. The recorder reads them")).to_be_visible()
    panel.get_by_role("button", name="Close", exact=True).first.click()
    expect(panel).to_have_count(0)
    page.get_by_role("button", name="Add tags").click()
    choose(panel, "Source", "Line 1 controller")
    expect(panel.get_by_label("Table", exact=True)).to_have_value("holding_register")
    expect(panel.get_by_label("Data type", exact=True)).to_have_value("int16")
    expect(panel.get_by_label("Scale", exact=True)).to_have_value("0.1")
    expect(panel.get_by_label("Read every", exact=True)).to_have_value("5 s")
    expect(panel.get_by_label("Address, counted from 0", exact=True)).to_have_value("0")
    expect(panel.get_by_label("Name", exact=True)).to_have_value("")
