"""The ways of people through the application: from its first page by the links of its navigations."""

from __future__ import annotations

import itertools
import re
from typing import Final

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.support.application import Application

_MOST_TABS: Final = 120
_sheets = itertools.count(1)
#: Section, part of it, and what is pressed there in turn: each leads to another panel.
PLACES: Final = (
    ("Trends", "", ("Layout", "Sheets", "Notes", "Compare", "Export", "Figures")),
    ("Statistics", "", ("Figures", "Sheets", "Reports")),
    ("Samples", "", ()),
    ("Records", "", ()),
    ("Runs", "", ()),
    ("Set-up", "Recorder", ()),
    ("Set-up", "Sources", ("Add a source", "Line 1 controller")),
    ("Set-up", "Tags", ("Add tags", "Line 1 Cutter jam", "Import")),
    ("Set-up", "Loggers", ("Add a logger", "Line 1 contacts", "Rehearse this rule …")),
    ("Set-up", "Equipment", ("New class",)),
    ("Set-up", "Archives", ("Add an archive", "Process values")),
    ("Set-up", "Runs", ("Add a rule",)),
    ("Set-up", "Plant", ()),
    ("Set-up", "People", ()),
    ("Set-up", "Changes", ("The set-up as a file",)),
)


def go(page: Page, application: Application, section: str, part: str = "") -> None:
    """To a section, and to a part of it; from where the page is, or from the address that was printed."""
    if not page.url.startswith(application.url):
        page.goto(application.url)
    follow(page, "Sections", section)
    if part:
        follow(page, section, part)


def follow(page: Page, navigation: str, link: str) -> None:
    """Clicks a link of a navigation; it is the present one then, and the page has something to say."""
    links = page.get_by_role("navigation", name=navigation, exact=True)
    place = links.get_by_role("link", name=link, exact=True)
    place.click()
    expect(place).to_have_attribute("aria-current", "page")
    expect(page.locator("main").get_by_role("heading", level=1)).to_be_visible()


def open_sheet(page: Page, application: Application, view: str, section: str = "trends") -> None:
    """Opens a view that somebody has saved: it is looked for by its name."""
    name = f"Prepared view {next(_sheets):03}"
    application.send("POST", "/api/sheets", {"page": section, "name": name, "view": view})
    if not page.url.startswith(application.url):
        page.goto(application.url)
    page.get_by_role("button", name=re.compile("^Find")).first.click()
    page.get_by_role("combobox", name=re.compile("^Find a tag")).fill(name)
    page.get_by_role("option", name=re.compile(name)).click()
    expect(page).to_have_url(re.compile(f"/{section}[?]"))


def open_setup(page: Page, application: Application, part: str) -> None:
    """To a page of the set-up, by its heading."""
    go(page, application, "Set-up", part)
    expect(page.get_by_role("heading", name=part, exact=True)).to_be_visible()


def tab_to(page: Page, role: str, name: str) -> Locator:
    """Presses Tab until what has this role and this name (a pattern) has the focus."""
    wanted = page.get_by_role(role, name=re.compile(name)).first  # type: ignore[arg-type]
    for _ in range(_MOST_TABS):
        page.keyboard.press("Tab")
        if wanted.count() and wanted.evaluate("element => element === document.activeElement"):
            return wanted
    pytest.fail(f"{role} {name!r} is not reached by Tab")


def open_windows(page: Page) -> Locator:
    """The choice of windows at the time rail."""
    page.get_by_role("region", name="Time rail").get_by_role("button").first.click()
    panel = page.get_by_role("dialog", name="Window")
    expect(panel.get_by_label("Type a window")).to_be_focused()
    return panel


def choose_window(page: Page, name: str) -> None:
    """A window by its name, such as *Last shift* or *10 min*."""
    panel = open_windows(page)
    panel.get_by_role("button", name=name, exact=True).click()
    expect(panel).to_have_count(0)


def type_window(page: Page, text: str, understood: str) -> None:
    """A window as it is typed, once the page says that it is understood."""
    panel = open_windows(page)
    panel.get_by_label("Type a window").fill(text)
    expect(panel).to_contain_text(understood)
    page.keyboard.press("Enter")
    expect(panel).to_have_count(0)


def deafen(page: Page) -> None:
    """The page's live connection stands, and nothing comes over it: the page hears of no change."""
    page.route_web_socket("**/api/live", lambda _: None)


class Actions:
    """What a person does on the way to something, counted: each click, each field that is filled or chosen
    from, each key."""

    def __init__(self, page: Page) -> None:
        self._page = page
        self.count = 0

    def click(self, role: str, name: str | re.Pattern[str], *, within: Locator | None = None) -> None:
        """The first one of this role and name; a text is the whole name."""
        self.count += 1
        place = self._page if within is None else within
        place.get_by_role(role, name=name, exact=isinstance(name, str)).first.click()  # type: ignore[arg-type]

    def fill(self, label: str, text: str) -> None:
        """A field by its label."""
        self.count += 1
        self._page.get_by_label(label, exact=True).fill(text)

    def choose(self, label: str, option: str) -> None:
        """An option of a field."""
        self.count += 1
        self._page.get_by_label(label, exact=True).select_option(option)
