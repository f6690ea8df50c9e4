"""From the set-up by a trend to its statistics without a pointer; and no page or panel with a barrier."""

from __future__ import annotations

import re
import time
from collections.abc import Iterator
from typing import Literal

import pytest
from playwright.sync_api import Page, expect

from cronaca.core.model import HOUR
from cronaca.db import Store
from cronaca.demo.history import LINES, write_history
from tests.browser.axe import serious_violations
from tests.browser.ways import PLACES, go, tab_to
from tests.support.application import Application

pytestmark = pytest.mark.browser


@pytest.fixture(scope="module")
def application(module_store: Store, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Application]:
    """Four lines with two hours of history."""
    found = Application(module_store.address, tmp_path_factory.mktemp("keys"), lines=4)
    end_us = time.time_ns() // 1000
    write_history(found.store, lambda: end_us, lambda _: None, lines=LINES, length_us=2 * HOUR)
    with found.running():
        yield found


def press(page: Page, role: str, name: str) -> None:
    tab_to(page, role, name)
    page.keyboard.press("Enter")


def test_from_the_set_up_to_a_trend_and_its_statistics(page: Page, application: Application) -> None:
    page.goto(application.url)
    expect(page.get_by_test_id("pen-value").first).not_to_have_text("–")

    press(page, "link", "^Set-up$")
    press(page, "link", "^Archives$")
    press(page, "button", "^Add an archive$")
    tab_to(page, "textbox", "^Name$")
    page.keyboard.type("Trial values")
    page.keyboard.press("Enter")
    expect(page.get_by_role("row", name=re.compile("^Trial values"))).to_be_visible()

    press(page, "link", "^Loggers$")
    press(page, "button", "^Add a logger$")
    tab_to(page, "textbox", "^Name$")
    page.keyboard.type("Trial of line 3")
    tab_to(page, "combobox", "^Archive$")
    page.keyboard.type("Trial")
    press(page, "button", "^Add$")
    expect(page.get_by_role("row", name=re.compile("^Trial of line 3.*Trial values"))).to_be_visible()

    page.keyboard.press("Control+k")
    expect(page.get_by_role("combobox", name=re.compile("^Find a tag"))).to_be_focused()
    page.keyboard.type("line 3 zone 3 exhaust damper")
    expect(page.get_by_role("option", name=re.compile("Line 3 Zone 3 exhaust damper")).first).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("pen-card")).to_contain_text("Zone 3 exhaust damper")
    page.keyboard.press("l")
    expect(page.get_by_role("button", name="Hold")).to_have_attribute("aria-pressed", "true")
    window = page.get_by_test_id("window-text").inner_text()
    page.keyboard.press("[")
    expect(page.get_by_test_id("window-text")).not_to_have_text(window)
    page.keyboard.press("g")
    expect(page.get_by_role("row", name=re.compile("Zone 3 exhaust damper"))).to_contain_text("%")

    press(page, "link", "^Statistics$")
    expect(page.get_by_test_id("lane").first).to_be_visible()
    press(page, "button", r"^Line 1, .*: ")
    expect(page.get_by_role("dialog", name="How it was made")).to_contain_text("Formula")
    press(page, "link", "^Trend of all$")
    expect(page.get_by_test_id("pen-card")).to_have_count(4)


@pytest.mark.parametrize("theme", ["light", "dark"])
@pytest.mark.parametrize("place", PLACES, ids=lambda place: " ".join(place[:2]).strip())
def test_no_page_and_no_panel_has_a_barrier(
    page: Page,
    application: Application,
    place: tuple[str, str, tuple[str, ...]],
    theme: Literal["light", "dark"],
) -> None:
    page.emulate_media(color_scheme=theme, reduced_motion="reduce")
    section, part, buttons = place
    go(page, application, section, part)
    assert serious_violations(page) == []
    for button in buttons:
        pressed = page.get_by_role("button", name=button, exact=True)
        (pressed if pressed.count() else page.get_by_role("link", name=button, exact=True)).first.click()
        assert serious_violations(page) == [], button
        page.keyboard.press("Escape")
