"""What the accessibility checker of the front end's packages finds on a page."""

from __future__ import annotations

from typing import Final

from playwright.sync_api import Page

from tests.browser.rest import wait_for_rest
from tests.support.application import ROOT

_AXE: Final = ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js"
# What is found is picked out in the page: the whole report names each element that is right, too, and to hand
# that over takes five times as long as the checks.
_FIND: Final = """async () => {
    const { violations } = await axe.run();
    const serious = violations.filter((one) => ['serious', 'critical'].includes(one.impact));
    return serious.map((one) => `${one.id}: ${one.nodes.map((node) => node.html.slice(0, 200)).join(' | ')}`);
}"""


def serious_violations(page: Page) -> list[str]:
    """The serious and critical ones, each with the places it was found at."""
    wait_for_rest(page)
    if page.evaluate("typeof axe === 'undefined'"):
        page.evaluate(_AXE.read_text())
    return list(page.evaluate(_FIND))


def serious_in_both_themes(page: Page) -> list[str]:
    """The same by day and by night; the page stays as it was."""
    by_day = serious_violations(page)
    page.get_by_role("button", name="Change to night").click()
    by_night = serious_violations(page)
    page.get_by_role("button", name="Change to day").click()
    return by_day + by_night
