"""A file that is made in the background: requested on a trend, its progress, fetched, removed."""

from __future__ import annotations

import csv

import pytest
from playwright.sync_api import Page, expect

from tests.browser.axe import serious_in_both_themes
from tests.support.application import Application

pytestmark = pytest.mark.browser


@pytest.fixture
def application(shared: Application) -> Application:
    """The one of the module: each test removes or names its own file."""
    return shared


def request_file(page: Page, form: str) -> None:
    """On the first page, which shows what is recorded."""
    page.get_by_role("button", name="Export").click()
    page.get_by_role("menuitem", name=f"Prepare in the background: recorded samples, {form}").click()
    expect(page.get_by_text("The file is being made")).to_be_visible()


def test_a_file_of_recorded_samples_is_prepared_in_the_background(
    page: Page, application: Application
) -> None:
    application.wait_for_history("head_pressure", 6, 98.0)
    page.goto(application.url)
    expect(page.get_by_test_id("pen-value").first).to_be_visible()
    request_file(page, "CSV")
    page.get_by_role("menuitem", name="Files made in the background").click()
    expect(page.get_by_role("heading", name="Files", exact=True)).to_be_visible()
    ready = page.get_by_role("list", name="Files").get_by_role("listitem").filter(has_text="Ready")
    expect(ready).to_have_count(1)
    expect(ready).to_contain_text("Lucia Greco")
    with page.expect_download() as download:
        ready.get_by_role("link", name="Download").click()
    name = download.value.suggested_filename
    assert name.startswith("samples_")
    assert name.endswith(".csv")
    rows = list(csv.DictReader(download.value.path().open(encoding="utf-8")))
    assert len(rows) >= 6
    assert {row["tag"].split()[0] for row in rows} == {"Line"}
    assert "Good" in {row["quality"] for row in rows}
    assert serious_in_both_themes(page) == []
    ready.get_by_role("button", name="Remove …").click()
    ready.get_by_role("button", name="Cancel").click()  # not removed yet
    ready.get_by_role("button", name="Remove …").click()
    ready.get_by_role("button", name="Remove file").click()
    expect(page.get_by_text("There are no files.")).to_be_visible()


def test_by_keys_alone_and_on_a_phone(page: Page, application: Application) -> None:
    page.set_viewport_size({"width": 390, "height": 800})
    application.wait_for_history("head_pressure", 3, 98.0)
    page.goto(application.url)
    expect(page.get_by_test_id("pen-value").first).to_be_visible()
    export = page.get_by_role("button", name="Export")
    export.focus()
    page.keyboard.press("Enter")
    prepare = page.get_by_role("menuitem", name="Prepare in the background: recorded samples, PARQUET")
    for _ in range(20):
        if prepare.evaluate("item => item === document.activeElement"):
            break
        page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(page.get_by_text("The file is being made")).to_be_visible()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    ready = page.get_by_role("listitem").filter(has_text="PARQUET").filter(has_text="Ready")
    expect(ready).to_have_count(1)
    assert page.evaluate("document.documentElement.scrollWidth <= window.innerWidth")
