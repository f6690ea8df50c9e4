"""An engineer adds a guarded OPC UA server: its certificate, a password, tags from its tree, recorded."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from cronaca.db.ports import find_free_port
from cronaca.demo.opcua_stand_in import SERVER_URI, Guard, OpcUaStandIn
from cronaca.recorder.drivers.opcua import Identity
from tests.browser.axe import serious_violations
from tests.browser.test_setup import choose
from tests.browser.ways import open_setup, open_sheet
from tests.support.application import Application, Device

pytestmark = pytest.mark.browser


@pytest.fixture
def server(tmp_path: Path) -> Iterator[OpcUaStandIn]:
    own = Identity(tmp_path / "server", SERVER_URI)
    own.ensure()
    guard = Guard(own.key_file, own.certificate_file, {"recorder": "durum"})
    found = OpcUaStandIn(find_free_port(), guard=guard)
    device = Device(found)
    device.on()
    device.set({"head_pressure": 98.5, "vacuum": 77.0, "lot": 51_740})
    yield found
    device.close()


def test_a_guarded_server_is_trusted_signed_in_to_browsed_and_recorded(
    page: Page, application: Application, server: OpcUaStandIn
) -> None:
    open_setup(page, application, "Sources")
    page.get_by_role("button", name="Add a source").click()
    page.get_by_label("Name", exact=True).fill("Line 1 press")
    choose(page, "Protocol", "OPC UA")
    page.get_by_label("Server", exact=True).fill(server.endpoint)
    page.get_by_role("button", name="Ask what the server offers").click()
    encrypted = page.get_by_role("button", name="Trust and use").first
    expect(encrypted).to_be_visible()
    encrypted.click()
    page.get_by_label("User", exact=True).fill("recorder")
    page.get_by_label("Password", exact=True).fill("semolina")
    page.get_by_role("button", name="Test", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("password is wrong")
    page.get_by_label("Password", exact=True).fill("durum")
    page.get_by_role("button", name="Test", exact=True).click()
    expect(page.get_by_role("status")).to_contain_text("It answers")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_role("row", name="Line 1 press")).to_contain_text("connected")
    _add_tags(page, application)
    _draws_at_once(page, application)
    _shows_no_password(page, application)


def _add_tags(page: Page, application: Application) -> None:
    open_setup(page, application, "Tags")
    page.get_by_role("button", name="Add tags").click()
    choose(page, "Source", "Line 1 press", "New tags")
    choose(page, "Recorded by", "Line 1 contacts: on every change", "New tags")
    tree = page.get_by_role("tree", name="What Line 1 press has")
    # By keys: open the folder, go down to the one and the other, tick them.
    tree.get_by_role("treeitem", name="Line 1").focus()
    page.keyboard.press("ArrowRight")
    for name in ("Press head pressure", "Press vacuum"):
        item = tree.get_by_role("treeitem", name=re.compile(f"^{name}"))
        expect(item).to_be_visible()
        while page.evaluate("document.activeElement.textContent").find(name) != 0:
            page.keyboard.press("ArrowDown")
        page.keyboard.press("Space")
        expect(item).to_be_checked()
    assert serious_violations(page) == []
    page.get_by_label("Names").fill("UA {name}")
    page.get_by_role("button", name="Add 2 tags").click()
    expect(page.get_by_role("status")).to_contain_text("Added")
    uid = application.get("/api/tags?search=UA+Press+vacuum")["tags"][0]["uid"]
    open_sheet(page, application, f"tags={uid}&last=PT1M")
    expect(page.get_by_text("77.0").first).to_be_visible()


def _draws_at_once(page: Page, application: Application) -> None:
    """An item of the server is a pen of a trend by one click, and a tag like others by another one."""
    open_setup(page, application, "Tags")
    page.get_by_role("button", name="Add tags").click()
    choose(page, "Source", "Line 1 press", "New tags")
    tree = page.get_by_role("tree", name="What Line 1 press has")
    tree.get_by_role("treeitem", name="Line 1").focus()
    page.keyboard.press("ArrowRight")
    item = tree.get_by_role("treeitem", name=re.compile("^Line lot number"))
    expect(item).to_be_visible()
    item.focus()
    page.keyboard.press("Space")
    expect(item).to_be_checked()
    page.get_by_label("Names").fill("Trial {name}")
    page.get_by_role("button", name="Draw now").click()
    card = page.get_by_test_id("pen-card")
    expect(card).to_contain_text("Trial Line lot number")
    expect(card.get_by_test_id("pen-value")).to_have_text(re.compile("51.?740"))
    expect(card).to_contain_text("Temporary: removed on")
    (tag,) = application.get("/api/tags?search=Trial")["tags"]
    listed = [one["name"] for one in application.get("/api/setup/document")["tags"]]
    assert "Trial Line lot number" not in listed, "a temporary tag is in no file"
    page.get_by_role("button", name="Keep Trial Line lot number").click()
    expect(card).not_to_contain_text("Temporary")
    assert application.get(f"/api/tags?uid={tag['uid']}")["tags"][0]["temporary_until_us"] is None


def _shows_no_password(page: Page, application: Application) -> None:
    """What is kept is not shown, and a test takes it from where it is kept."""
    open_setup(page, application, "Sources")
    page.get_by_text("Line 1 press").click()
    expect(page.get_by_label("Password", exact=True)).to_have_value("")
    page.get_by_role("button", name="Test", exact=True).click()
    expect(page.get_by_role("status").filter(has_text="It answers")).to_be_visible()
    for path in ("/api/setup/sources", "/api/setup/changes", "/api/setup/document", "/api/recorder"):
        assert "durum" not in str(application.get(path))
    with application.store.snapshot() as tx:
        assert "durum" not in str(tx.fetch("SELECT * FROM recorder_request"))
