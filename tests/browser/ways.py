"""The ways of people through the application: from its first page by the links of its navigations."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from tests.support.application import Application


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


def open_setup(page: Page, application: Application, part: str) -> None:
    """To a page of the set-up, by its heading."""
    go(page, application, "Set-up", part)
    expect(page.get_by_role("heading", name=part, exact=True)).to_be_visible()


def deafen(page: Page) -> None:
    """The page's live connection stands, and nothing comes over it: the page hears of no change."""
    page.route_web_socket("**/api/live", lambda _: None)
