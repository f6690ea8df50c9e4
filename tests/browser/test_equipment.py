"""Equipment classes in the browser: lines become a class, a limit is followed by all, line 5 is added."""

from __future__ import annotations

import re
import time
from collections.abc import Iterator

import pytest
from playwright.sync_api import Page, expect

from cronaca.core.model import SECOND, Window
from cronaca.db import Store
from tests.browser.axe import serious_in_both_themes
from tests.browser.ways import Actions, open_setup
from tests.support.application import Application, Device, wait_for

pytestmark = pytest.mark.browser


@pytest.fixture(scope="module")
def application(module_store: Store, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Application]:
    """Four lines that are in no class yet."""
    found = Application(module_store.address, tmp_path_factory.mktemp("lines"), lines=4)
    with found.running():
        yield found


@pytest.fixture(scope="module")
def line_5() -> Iterator[Device]:
    """The controller of a line that runs and is not set up."""
    device = Device()
    device.on()
    device.set({"product_moisture": 12.6, "head_pressure": 97.0})
    yield device
    device.close()


def make_class(page: Page, application: Application) -> None:
    """The page of the class of the lines, which is made if it is not there."""
    open_setup(page, application, "Equipment")
    if not application.get("/api/setup/classes"):
        page.get_by_role("button", name="New class").click()
        panel = page.get_by_role("form", name="New class")
        expect(panel).to_contain_text("Line 1, Line 2, Line 3, Line 4")
        panel.get_by_label("Name of the class").fill("Drying line")
        panel.get_by_role("button", name="Create class").click()
    else:
        page.get_by_role("button", name="Drying line").click()
    expect(page.get_by_role("heading", name="Drying line")).to_be_visible()
    expect(page.get_by_role("table", name="Equipment of the class").get_by_role("row")).not_to_have_count(1)


def test_a_limit_of_the_class_is_followed_by_all_its_lines(page: Page, application: Application) -> None:
    make_class(page, application)
    equipment = page.get_by_role("table", name="Equipment of the class")
    expect(equipment.get_by_role("button", name="Line 4")).to_be_visible()
    page.get_by_role("button", name="Cooler product moisture").click()
    page.get_by_label("Low limit").fill("14")
    page.get_by_label("High limit").fill("13")
    page.get_by_role("button", name="Preview the change").click()
    plan = page.get_by_role("form", name="Preview of the change")
    expect(plan.get_by_role("alert")).to_contain_text("14 is not below 13")
    page.get_by_role("button", name="Cooler product moisture").click()
    page.get_by_label("Low limit").fill("12")
    # What cannot be used stays in its field, and the panel stays open.
    first = page.get_by_label("Range from")
    first.fill("9x")
    page.get_by_role("button", name="Preview the change").click()
    expect(first).to_be_focused()
    expect(first).to_have_value("9x")
    first.fill("9")
    page.get_by_role("button", name="Preview the change").click()
    expect(plan).to_contain_text("4 objects added or changed in 4 equipment items.")
    expect(plan).to_contain_text("Limits of Cooler product moisture: none → 12 to 13, in all equipment.")
    expect(plan.get_by_role("list", name="Changes by equipment")).to_contain_text("range low: 10 → 9")
    plan.get_by_role("button", name="Change all of it").click()
    expect(page.get_by_text("nothing is written yet")).to_have_count(0)
    row = page.get_by_role("row", name=re.compile("Cooler product moisture"))
    expect(row).to_contain_text("9 to 16")
    expect(row).to_contain_text("12 to 13")
    tags = application.get("/api/tags?search=Cooler%20product%20moisture&limit=10")["tags"]
    assert {one["range_low"] for one in tags} == {9.0}

    page.get_by_role("link", name="Trend of Line 2").click()
    expect(page.get_by_test_id("pen-card")).to_have_count(8)
    assert '"lines":[12,13]' in page.evaluate("decodeURIComponent(location.search)").replace(".0", "")


def test_line_5_is_set_up_in_one_step_recorded_and_displayed(
    page: Page, application: Application, line_5: Device
) -> None:
    """From the first page, where its source is not there yet, to its curves: at most 18 actions."""
    make_class(page, application)
    page.goto(application.url)
    does = Actions(page)
    does.click("link", "Set-up")
    does.click("link", "Sources")
    does.click("button", "Add a source")
    does.fill("Name", "Line 5 controller")
    does.fill("Port", str(line_5.port))
    does.click("button", "Add")
    expect(page.get_by_role("row", name="Line 5 controller")).to_be_visible()
    does.click("link", "Equipment")
    does.click("button", "Drying line")
    does.click("button", "Add equipment")
    does.fill("Name", "Line 5")
    does.choose("Source", "Line 5 controller")
    panel = page.get_by_role("form", name="A new drying line")
    does.click("button", "Add", within=panel)
    does.click("link", "Trend of Line 5")
    assert does.count <= 18, does.count
    expect(page.get_by_test_id("pen-card").first).to_contain_text("12.60", timeout=30_000)
    tags = application.get("/api/tags?search=Line%205%20Cooler%20product%20moisture")["tags"]

    def recorded() -> bool:
        now_us = time.time_ns() // 1000
        (answer,) = application.read_uids([tags[0]["uid"]], Window(now_us - 60 * SECOND, now_us))
        return 12.6 in answer.series.values.round(2)

    wait_for(recorded, 30, "a recorded sample of line 5")


def test_a_piece_without_a_source_is_refused_at_its_field(page: Page, application: Application) -> None:
    make_class(page, application)
    page.get_by_role("button", name="Add equipment").click()
    panel = page.get_by_role("form", name="A new drying line")
    panel.get_by_role("button", name="Add").click()
    expect(panel.get_by_text("has none. Name a source.")).to_be_visible()


def test_equipment_and_a_class_are_duplicated(page: Page, application: Application) -> None:
    make_class(page, application)
    page.get_by_role("table", name="Equipment of the class").get_by_role("button", name="Line 4").click()
    page.get_by_role("button", name="Duplicate").click()
    panel = page.get_by_role("form", name="A new drying line")
    expect(panel.get_by_label("Name", exact=True)).to_have_value("Line 4 copy")
    expect(panel.get_by_label("Source", exact=True)).not_to_have_value("")
    panel.get_by_label("Name", exact=True).fill("Line 9")
    panel.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_role("table", name="Equipment of the class")).to_contain_text("Line 9")
    (drying,) = application.get("/api/setup/classes")
    rows = {one["name"]: one for one in application.get(f"/api/setup/classes/{drying['uid']}/equipment")}
    same = ("sources", "parameters", "overrides", "without")
    assert [rows["Line 9"][name] for name in same] == [rows["Line 4"][name] for name in same]
    application.send("DELETE", f"/api/setup/equipment/{rows['Line 9']['uid']}?with_tags=true", None)

    page.get_by_role("button", name="The class …", exact=True).click()
    page.get_by_role("button", name="Duplicate").click()
    expect(page.get_by_role("heading", name="Drying line copy", level=1)).to_be_visible()
    copy = next(one for one in application.get("/api/setup/classes") if one["name"] == "Drying line copy")
    assert copy["members"] == drying["members"] and copy["equipment"] == 0
    application.send("DELETE", f"/api/setup/classes/{copy['uid']}", None)


def test_a_limit_is_changed_for_all_lines_in_seven_actions(page: Page, application: Application) -> None:
    make_class(page, application)
    page.goto(application.url)
    does = Actions(page)
    does.click("link", "Set-up")
    does.click("link", "Equipment")
    does.click("button", "Drying line")
    does.click("button", "Press head pressure")
    does.fill("High limit", "111")
    does.click("button", "Preview the change")
    does.click("button", "Change all of it")
    assert does.count <= 7
    expect(page.get_by_role("row", name=re.compile("^Press head pressure"))).to_contain_text("111")


def test_what_is_a_lines_own_is_seen_and_given_up_again(page: Page, application: Application) -> None:
    make_class(page, application)
    equipment = page.get_by_role("table", name="Equipment of the class")
    equipment.get_by_role("button", name="Line 2", exact=True).click()
    panel = page.get_by_role("form", name="Line 2")
    expect(panel).to_contain_text("None: all settings are those of the class.")
    panel.get_by_label("Tag").select_option("Press head pressure")
    panel.get_by_label("Value").fill("180")
    panel.get_by_role("button", name="Add override").click()
    panel.get_by_role("button", name="Save").click()
    expect(equipment.get_by_role("row", name=re.compile("^Line 2"))).to_contain_text(
        "Press head pressure: range high 180"
    )
    expect(page.get_by_role("row", name=re.compile("^Press head pressure"))).to_contain_text("1")
    panel.get_by_role("button", name="Remove overrides").click()
    panel.get_by_role("button", name="Save").click()
    expect(equipment.get_by_role("row", name=re.compile("^Line 2"))).not_to_contain_text("180")
    found = application.get("/api/tags?search=Line%202%20Press%20head%20pressure")["tags"]
    assert found[0]["range_high"] == 150.0


def test_no_serious_violation_on_the_page_of_a_class(page: Page, application: Application) -> None:
    make_class(page, application)
    page.get_by_role("button", name="Cooler product moisture").click()
    assert serious_in_both_themes(page) == []
    page.get_by_role("table", name="Equipment of the class").get_by_role("button", name="Line 1").click()
    assert serious_in_both_themes(page) == []
