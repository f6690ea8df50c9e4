"""Guide lines in the list of pens: their names and values, and a value written from there."""

from __future__ import annotations

import json

import pytest
from playwright.sync_api import Page, expect

from tests.browser.axe import serious_violations
from tests.browser.test_trend import JAM, PRESSURE
from tests.browser.ways import open_sheet
from tests.support.application import Application

pytestmark = pytest.mark.browser


@pytest.fixture
def application(shared: Application) -> Application:
    """The one of the module."""
    return shared


def test_a_guide_line_is_in_the_list_with_its_value_and_another_one_is_written_from_there(
    page: Page, application: Application
) -> None:
    source = application.send("POST", "/api/setup/sources", {"name": "Set points", "protocol": "internal"})
    limit = {
        "name": "Line 1 Press limit", "source": source["uid"], "address": {"initial": 110.0, "keep": True},
        "unit": "bar", "range_low": 60, "range_high": 150, "decimals": 1,
    }  # fmt: skip
    (uid,) = application.send("POST", "/api/setup/tags", {"tags": [limit]})["uids"]
    application.wait_for_setup()
    look = json.dumps({PRESSURE: {"guides": [uid]}})
    open_sheet(page, application, f"tags={PRESSURE},{JAM}&last=PT1M&look={look}")
    guides = page.get_by_role("list", name="Guide lines of Press head pressure")
    expect(guides).to_contain_text("Line 1 Press limit")
    expect(guides.get_by_test_id("guide-value")).to_have_text("110.0 bar")
    guides.get_by_role("button", name="Write a value to Line 1 Press limit").click()
    expect(page.get_by_role("form", name="Line 1 Press limit")).to_contain_text("110.0 bar")
    page.get_by_label("Write a value").fill("200")
    page.get_by_role("button", name="Write", exact=True).click()
    expect(page.get_by_text("200 is outside the range")).to_be_visible()
    page.get_by_role("button", name="Cancel").click()
    page.get_by_label("Write a value").fill("115")
    page.get_by_role("button", name="Write", exact=True).click()
    expect(page.get_by_role("status").filter(has_text="Written")).to_be_visible()
    expect(page.get_by_role("form", name="Line 1 Press limit")).to_contain_text("115.0 bar")
    assert serious_violations(page) == []
    page.get_by_role("button", name="Close", exact=True).click()
    expect(guides.get_by_test_id("guide-value")).to_have_text("115.0 bar")
    contact = page.get_by_test_id("pen-card").last
    contact.hover()
    expect(contact.get_by_role("button", name="Change Cutter jam")).to_be_visible()
