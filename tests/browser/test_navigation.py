"""Every link of every page's navigation leads to its page, for somebody who only clicks."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from tests.browser.ways import follow
from tests.support.application import Application

pytestmark = pytest.mark.browser


def test_every_link_of_every_navigation_leads_to_a_page(page: Page, application: Application) -> None:
    """Each link is clicked from the page that the one before it led to: that is how people go."""
    page.goto(application.url)
    sections = _links(page, "Sections")
    assert len(sections) >= 5
    for section in sections:
        follow(page, "Sections", section)
        for name in _other_navigations(page):
            links = _links(page, name)
            assert links
            for link in [*links, links[0]]:
                follow(page, name, link)


def _links(page: Page, navigation: str) -> list[str]:
    found = page.get_by_role("navigation", name=navigation, exact=True).get_by_role("link")
    expect(found.first).to_be_visible()
    return found.all_inner_texts()


def _other_navigations(page: Page) -> list[str]:
    found = page.get_by_role("navigation").evaluate_all("all => all.map(one => one.ariaLabel)")
    return [name for name in found if name != "Sections"]
