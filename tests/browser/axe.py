"""What the accessibility checker of the front end's packages finds on a page."""

from __future__ import annotations

from typing import Final

from playwright.sync_api import Page

from tests.browser.rest import wait_for_rest
from tests.support.application import ROOT

_AXE: Final = ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js"


def serious_violations(page: Page) -> list[str]:
    """The serious and critical ones, each with the places it was found at."""
    wait_for_rest(page)
    page.evaluate(_AXE.read_text())
    return [
        f"{one['id']}: {[node['html'][:200] for node in one['nodes']]}"
        for one in page.evaluate("axe.run()")["violations"]
        if one["impact"] in ("serious", "critical")
    ]


def serious_in_both_themes(page: Page) -> list[str]:
    """The same by day and by night; the page stays as it was."""
    by_day = serious_violations(page)
    page.get_by_role("button", name="Change to night").click()
    by_night = serious_violations(page)
    page.get_by_role("button", name="Change to day").click()
    return by_day + by_night
