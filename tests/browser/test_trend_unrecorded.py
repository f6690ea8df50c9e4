"""Tags that nobody records: their last minutes are drawn, also after a reload."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from tests.browser.ways import open_sheet
from tests.support.application import Application, wait_for

pytestmark = pytest.mark.browser


@pytest.fixture
def application(shared: Application) -> Application:
    """The one of the module."""
    return shared


def add_trial(application: Application) -> str:
    """A tag that reads the head pressure once more, and that no logger records; its uid."""
    (pressure,) = application.get("/api/setup/tags?search=Press%20head%20pressure")["tags"]
    kept = ("source", "address", "unit", "value_type", "range_low", "range_high", "decimals", "scan_us")
    tag = {"name": "Line 1 Trial pressure", **{name: pressure[name] for name in kept if name in pressure}}
    (uid,) = application.send("POST", "/api/setup/tags", {"tags": [tag]})["uids"]
    return str(uid)


INKED = """() => {
    const canvas = document.querySelector('[data-testid=plot] canvas');
    if (canvas === null) return 0;
    const r = window.devicePixelRatio;
    const { data, width } = canvas.getContext('2d').getImageData(112 * r, 10 * r, 848 * r, 450 * r);
    const columns = new Set();
    for (let i = 0; i < data.length; i += 4) {
        const [red, green, blue] = [data[i], data[i + 1], data[i + 2]];
        if (red < 40 && green > 80 && green < 130 && blue > 140) columns.add((i / 4) % width);
    }
    return columns.size / r;
}"""
"""In how many pixel columns of the plot the first pen has ink."""


def test_what_nobody_records_is_drawn_still_after_a_reload(page: Page, application: Application) -> None:
    uid = add_trial(application)
    open_sheet(page, application, f"tags={uid}&last=PT30S&scale=fit")
    card = page.get_by_test_id("pen-card").first
    expect(card).to_contain_text("not recorded: the last minutes")
    application.wait_for_readings(6)

    def inked() -> int:
        return int(page.evaluate(INKED))

    before = wait_for(lambda: inked() >= 100 and inked(), 30, "a curve of some seconds")
    page.reload()
    expect(card).to_contain_text("not recorded: the last minutes")
    assert wait_for(lambda: inked() >= before and inked(), 10, "the same curve, from what is remembered")
    at_us = int(application.get("/api/health")["recorder"]["known_until_us"])
    (reading,) = application.get(f"/api/series/at?tag={uid}&at={at_us}")
    assert reading["value"] is not None, "the cursor reads it, too"
