"""The set-up shows what each tag is now, and what is found and open there has an address."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.axe import serious_violations
from tests.browser.ways import open_setup
from tests.support.application import Application, wait_for

pytestmark = pytest.mark.browser

PRESSURE = "Line 1 Press head pressure"


@pytest.fixture
def application(shared: Application) -> Application:
    """The one of the module."""
    return shared


def test_the_list_shows_what_each_tag_is_now(page: Page, application: Application) -> None:
    application.wait_for_readings(3, value=98.0)
    open_setup(page, application, "Tags")
    page.get_by_label("Find", exact=True).fill("pressure line head")
    row = page.get_by_role("row", name=re.compile(PRESSURE))
    expect(row).to_contain_text("98.0")
    expect(row).to_contain_text("good")
    course = row.get_by_role("img", name=f"{PRESSURE} over the last 10 minutes").locator("path")
    expect(course).to_have_attribute("d", re.compile("^M.*H"))
    application.device.set({"head_pressure": 65.0})
    expect(row).to_contain_text("65.0")
    expect(course).to_have_attribute("d", re.compile("^M.*L"))
    assert serious_violations(page) == []


def test_a_value_that_cannot_be_read_is_said_to_be_bad(page: Page, application: Application) -> None:
    open_setup(page, application, "Tags")
    page.get_by_label("Find", exact=True).fill(PRESSURE)
    row = page.get_by_role("row", name=re.compile(PRESSURE))
    expect(row).to_contain_text("good")
    application.device.off()
    expect(row).to_contain_text("bad")
    expect(row).to_contain_text("–")
    application.device.on()
    expect(row).to_contain_text("good")


def test_what_is_found_and_open_has_an_address(page: Page, application: Application) -> None:
    open_setup(page, application, "Tags")
    page.get_by_label("Find", exact=True).fill("press")
    page.get_by_label("Recorded", exact=True).select_option("recorded")
    page.get_by_role("button", name=PRESSURE, exact=True).click()
    panel = page.get_by_role("form", name=PRESSURE)
    expect(panel).to_be_visible()
    page.goto(page.url)  # as it was sent to somebody
    expect(page.get_by_label("Find", exact=True)).to_have_value("press")
    expect(page.get_by_label("Recorded", exact=True)).to_have_value("yes")
    expect(panel).to_be_visible()
    # A tag that the filter does not show is shown nevertheless: the link is to it.
    page.get_by_label("Find", exact=True).fill("damper")
    expect(page.get_by_role("row", name=re.compile(PRESSURE))).to_have_count(0)
    expect(panel).to_be_visible()
    panel.get_by_role("button", name="Close").click()
    assert "open=" not in page.url


@pytest.mark.parametrize("part", ["Sources", "Loggers", "Archives"])
def test_a_link_leads_to_a_source_a_logger_and_an_archive(
    page: Page, application: Application, part: str
) -> None:
    open_setup(page, application, part)
    first = page.get_by_role("table").get_by_role("row").nth(1).get_by_role("button").first
    name = first.inner_text()
    first.click()
    panel = page.get_by_role("form", name=name)
    expect(panel).to_be_visible()
    page.goto(page.url)
    expect(panel).to_be_visible()


def test_a_tag_that_is_gone_is_said(page: Page, application: Application) -> None:
    page.goto(f"{application.url}/setup/tags?open=11111111-1111-1111-1111-111111111111")
    expect(page.get_by_role("alert")).to_contain_text("There is no tag")


def test_a_change_of_many_tags_is_one_entry_and_is_undone_at_once(
    page: Page, application: Application
) -> None:
    found = application.get("/api/setup/tags?search=Press&limit=3")["tags"]
    uids, before = [one["uid"] for one in found], {one["uid"]: one["unit"] for one in found}
    application.send("PATCH", "/api/setup/tags", {"uids": uids, "attributes": {"unit": "trial"}})
    open_setup(page, application, "Changes")
    page.get_by_label("Find", exact=True).fill("press")
    row = page.get_by_role("row", name=re.compile("3 tags changed"))
    expect(row).to_contain_text("→ trial")
    row.get_by_role("button").click()
    panel = page.get_by_role("form", name="One step")
    expect(panel.get_by_text(": changed")).to_have_count(3)
    page.goto(page.url)  # as it was sent to somebody
    panel.get_by_role("button", name="Undo the whole step").click()
    expect(panel.get_by_text("Done. It takes effect within 2 s.")).to_be_visible()
    now = application.get("/api/setup/tags?search=Press&limit=3")["tags"]
    assert {one["uid"]: one["unit"] for one in now} == before
    expect(page.get_by_role("row", name=re.compile("3 tags changed"))).to_have_count(2)
    assert serious_violations(page) == []
    page.get_by_label("Find", exact=True).fill("nobody did this")
    expect(page.get_by_text("No such change is found.")).to_be_visible()


@pytest.mark.parametrize("part,what", [
    ("sources", "source"), ("loggers", "logger"), ("archives", "archive"), ("runs", "rule"),
])  # fmt: skip
def test_a_link_to_what_was_removed_says_so(
    page: Page, application: Application, part: str, what: str
) -> None:
    gone = "00000000-0000-0000-0000-000000000000"
    page.goto(f"{application.url}/setup/{part}?open={gone}")  # as somebody has kept it
    expect(page.get_by_role("alert")).to_contain_text(f"There is no such {what} any more.")
    expect(page.get_by_role("table").first).to_be_visible()
    expect(page.get_by_role("form")).to_have_count(0)


def test_the_plant_stands_beside_the_list(page: Page, application: Application) -> None:
    """What is chosen in the tree is what the list shows, by click and by keys; on a phone it is a choice."""
    open_setup(page, application, "Tags")
    tree = page.get_by_role("tree", name="Equipment")
    line = tree.get_by_role("treeitem", name=re.compile("^Line 1"))
    line.click()
    expect(page).to_have_url(re.compile("equipment=Line"))
    whole = int(re.findall(r"(\d+) found", page.get_by_text(re.compile("found$")).inner_text())[0])
    assert re.search(rf"\b{whole}$", line.locator(".MuiTreeItem-label").first.inner_text().strip())
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("equipment=Line\\+1%2F"))
    expect(page.get_by_text(f"{whole} found")).to_have_count(0)
    assert serious_violations(page) == []
    page.reload()
    expect(tree.get_by_role("treeitem", checked=True)).to_be_visible()
    tree.get_by_role("treeitem", name="All tags").click()
    expect(page.get_by_text(re.compile("in all$"))).to_be_visible()
    page.set_viewport_size({"width": 390, "height": 800})
    expect(tree).to_be_hidden()
    expect(page.get_by_role("combobox", name="Equipment", exact=True)).to_be_visible()


def test_names_and_colours_are_typed_as_what_they_are(page: Page, application: Application) -> None:
    open_setup(page, application, "Tags")
    page.get_by_label("Find", exact=True).fill("Line 1 Lot number")
    page.get_by_role("button", name="Line 1 Lot number", exact=True).click()
    panel = page.get_by_role("form", name="Line 1 Lot number")
    panel.get_by_label("Value", exact=True).select_option("State list")
    for number, name in (("3", "Penne"), ("7", "Fusilli")):
        panel.get_by_role("button", name="Name a value").click()
        place = 1 if number == "3" else 2
        panel.get_by_label(f"Value {place}", exact=True).fill(number)
        panel.get_by_label(f"Name {place}", exact=True).fill(name)
    panel.get_by_label("Value 2", exact=True).fill("3")
    expect(panel).to_contain_text("This value is in the list already.")
    panel.get_by_role("button", name="Save").click()
    expect(panel.get_by_label("Value 2", exact=True)).to_be_focused()
    panel.get_by_label("Value 2", exact=True).fill("7")
    panel.get_by_label("Another colour").fill("#ffee88")
    expect(panel).to_contain_text("#FFEE88 is hard to see by day")
    panel.get_by_role("button", name="Colour 3").click()
    panel.get_by_role("button", name="Save").click()
    expect(panel.get_by_role("status")).to_contain_text("Saved")
    found = application.get("/api/setup/tags?search=Line%201%20Lot%20number")["tags"]
    tag = next(one for one in found if one["name"] == "Line 1 Lot number")
    assert (tag["states"], tag["colour"]) == ('{"3": "Penne", "7": "Fusilli"}', "#007A5A")
    panel.get_by_role("button", name="Remove Penne").click()
    panel.get_by_role("button", name="By the pen").click()
    panel.get_by_role("button", name="Save").click()
    wait_for(
        lambda: application.get(f"/api/setup/tags/{tag['uid']}")["states"] == '{"7": "Fusilli"}',
        20,
        "one name",
    )
    assert application.get(f"/api/setup/tags/{tag['uid']}")["colour"] == ""
    assert serious_violations(page) == []
