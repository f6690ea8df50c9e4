"""How a sheet is shown: its axes, background, cards and names, both axes zoomed at once, the plot alone."""

from __future__ import annotations

import json
import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.axe import serious_violations
from tests.browser.test_trend import JAM, PRESSURE, open_trend
from tests.browser.test_trend_strips import middle, strips, view
from tests.support.application import Application, wait_for

pytestmark = pytest.mark.browser


@pytest.fixture
def application(shared: Application) -> Application:
    """The one of the module."""
    return shared


def open_layout(page: Page) -> None:
    page.get_by_role("button", name="Layout").click()
    page.get_by_text("Whole sheet").click()


def display(page: Page) -> dict[str, object]:
    return dict(json.loads(view(page, "display") or "{}"))


INK = """([left, top, right, bottom]) => {
    const canvas = document.querySelector('[data-testid=plot] canvas');
    const r = window.devicePixelRatio;
    const area = [left * r, top * r, (right - left) * r, (bottom - top) * r];
    const { data } = canvas.getContext('2d').getImageData(...area);
    const seen = new Set();
    for (let i = 0; i < data.length; i += 4) {
        if (data[i + 3] > 200) seen.add(`${data[i]},${data[i + 1]},${data[i + 2]}`);
    }
    return [...seen];
}"""
"""The colours in a part of the first chart, CSS pixels."""


def colours(page: Page, area: tuple[int, int, int, int]) -> set[str]:
    return set(page.evaluate(INK, list(area)))


AXIS = (20, 0, 108, 400)
CORNER = (116, 14, 124, 20)
"""In the plot, where no curve goes."""


def test_grid_axes_background_and_their_colour_are_chosen(page: Page, application: Application) -> None:
    open_trend(page, application)
    open_layout(page)
    assert colours(page, CORNER) == set(), "the page's own background is not painted"
    page.get_by_label("Background of the plot").select_option("Bluish")
    wait_for(lambda: "239,245,247" in colours(page, CORNER), 5, "the background")
    page.get_by_label("Colour of the axes").select_option("Black (by night white)")
    wait_for(lambda: "35,40,43" in colours(page, AXIS), 5, "the ink in the axis")
    page.get_by_label("Texts of the axes").uncheck()
    wait_for(lambda: colours(page, AXIS) == set(), 5, "an axis without texts")
    page.get_by_label("Grid", exact=True).uncheck()
    page.get_by_label("Ticks of the time axis").select_option("Many")
    page.get_by_label("The time axis shows").select_option("Time since the start of the window")
    wanted = {"ground": "cool", "axisColour": "ink", "axes": False, "grid": False, "ticks": "many"}
    assert display(page) == {**wanted, "times": "elapsed"}
    assert serious_violations(page) == []
    page.reload()
    expect(page.get_by_test_id("pen-value").first).not_to_have_text("–")
    wait_for(lambda: "239,245,247" in colours(page, CORNER), 15, "the background of the link")
    expect(page.get_by_test_id("notice")).to_have_count(0)


def test_a_card_shows_what_is_chosen_in_its_order_and_a_pen_is_called_as_chosen(
    page: Page, application: Application
) -> None:
    open_trend(page, application)
    (tag,) = application.get(f"/api/tags?uid={PRESSURE}")["tags"]
    card = page.get_by_test_id("pen-card").first
    expect(card).to_contain_text("every 1 s")
    open_layout(page)
    parts = page.get_by_role("group", name="Below the name on a card")
    parts.get_by_label("Equipment", exact=True).check()
    parts.get_by_role("button", name="Equipment: further up").click()
    parts.get_by_role("button", name="Equipment: further up").click()
    parts.get_by_label("How it is recorded", exact=True).uncheck()
    page.get_by_label("Pens are called by").select_option("Description")
    page.get_by_role("button", name="Close", exact=True).click()
    expect(card).to_contain_text(tag["description"])
    expect(card).to_contain_text(re.compile(re.escape(tag["equipment"]) + " · .* to "))
    expect(card).not_to_contain_text("every 1 s")
    open_layout(page)
    page.get_by_label("Pens are called by").select_option("Whole name")
    page.get_by_label("Pens beside the plot").uncheck()
    page.get_by_role("button", name="Close", exact=True).click()
    expect(page.get_by_test_id("pen-card")).to_have_count(0)
    page.get_by_role("button", name="Layout").click()
    expect(page.get_by_role("form", name="Layout")).to_be_visible()


def test_a_drag_over_an_area_zooms_both_axes_and_one_undo_takes_it_back(
    page: Page, application: Application
) -> None:
    open_trend(page, application, "last=PT5M")
    open_layout(page)
    page.get_by_label("Dragging zooms the scales too").check()
    page.get_by_role("button", name="Close", exact=True).click()
    (tag,) = application.get(f"/api/tags?uid={PRESSURE}")["tags"]
    length = tag["range_high"] - tag["range_low"]
    x, y = middle(page.get_by_test_id("plot").first)
    page.mouse.move(x - 100, y - 60)
    page.mouse.down()
    page.mouse.move(x + 100, y + 60, steps=5)
    page.mouse.up()
    expect(page).to_have_url(re.compile("from=.*look="))
    look = json.loads(view(page, "look"))[PRESSURE]
    assert tag["range_low"] < look["low"] < look["high"] < tag["range_high"]
    assert 0.1 * length < look["high"] - look["low"] < 0.6 * length
    page.get_by_role("button", name="Undo zoom").click()
    expect(page).to_have_url(re.compile("last=PT5M"))
    assert view(page, "look") == ""
    page.mouse.move(x - 100, y)
    page.mouse.down()
    page.mouse.move(x + 100, y + 5, steps=5)
    page.mouse.up()
    expect(page).to_have_url(re.compile("from="))
    assert view(page, "look") == "", "a flat drag is one of time alone"


def test_the_plot_alone_has_the_whole_screen_and_escape_brings_the_rest_back(
    page: Page, application: Application
) -> None:
    open_trend(page, application)
    page.get_by_role("button", name="Full screen").click()
    plot = page.get_by_test_id("plot").first
    expect(page.get_by_role("button", name="Leave full screen")).to_be_visible()
    expect(page.get_by_role("button", name="Layout")).to_have_count(0)
    expect(page.get_by_test_id("pen-card")).to_have_count(0)
    wait_for(lambda: (plot.bounding_box() or {"width": 0})["width"] == 1280, 5, "a plot as wide as the page")
    assert serious_violations(page) == []
    page.get_by_role("button", name="Leave full screen").click()
    expect(page.get_by_test_id("pen-card").first).to_be_visible()
    page.keyboard.press("w")
    expect(page.get_by_test_id("pen-card")).to_have_count(0)
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("pen-card").first).to_be_visible()


def test_the_axis_keeps_its_font_when_numbers_were_painted(page: Page, application: Application) -> None:
    """What is painted on the curves leaves nothing behind: the next texts of the axis were bold."""
    open_trend(page, application)
    application.wait_for_readings(3)
    font = "document.querySelector('[data-testid=plot] canvas').getContext('2d').font"
    assert not str(page.evaluate(font)).startswith(("bold", "700"))


def test_a_strip_has_markers_and_a_grid_of_its_own_and_is_copied_with_them(
    page: Page, application: Application
) -> None:
    open_trend(page, application)
    page.get_by_role("button", name="Layout").click()
    page.get_by_label("Title of strip 1").fill("Press")
    page.get_by_label("Markers on its curves").check()
    page.get_by_label("Grid of this strip").uncheck()
    page.get_by_role("button", name="Copy strip 1").click()
    expect(page.get_by_test_id("strip")).to_have_count(2)
    assert strips(page) == [{"title": "Press", "markers": True, "grid": False}] * 2


def test_a_contact_lies_over_the_curves_of_its_strip(page: Page, application: Application) -> None:
    application.device.set({"jam": 0})
    open_trend(page, application)
    rows = page.get_by_test_id("strip").locator("canvas")
    expect(rows).to_have_count(2)
    page.get_by_test_id("pen-card").last.hover()
    page.get_by_role("button", name=re.compile("^Change .*jam")).click()
    page.get_by_label("Over the curves of its strip").check()
    expect(rows).to_have_count(1)
    assert json.loads(view(page, "look"))[JAM] == {"over": True}
    clean = colours(page, (800, 14, 955, 20))
    application.device.set({"jam": 1})
    wait_for(lambda: colours(page, (800, 14, 955, 20)) != clean, 10, "the tint of a contact that is on")
    application.device.set({"jam": 0})


def test_a_window_moves_while_its_tag_is_true(page: Page, application: Application) -> None:
    application.device.set({"jam": 0})
    open_trend(page, application, "last=PT1M")
    page.get_by_role("button", name="Compare", exact=True).click()
    page.get_by_label("A live window moves").select_option("by a tag")
    page.get_by_label("Trigger tag").fill("cutter jam")
    page.get_by_role("option", name=re.compile("Cutter jam")).first.click()
    page.get_by_label("Moves at").select_option("While it is true")
    page.keyboard.press("Escape")
    assert view(page, "refresh") == f"{JAM}:level"
    expect(page.get_by_role("heading", level=1)).to_contain_text("moves while")
    rail = page.get_by_test_id("window-text")
    application.wait_for_readings(2)
    before = rail.inner_text()
    application.wait_for_readings(3)
    assert rail.inner_text() == before, "it stands while the tag is false"
    application.device.set({"jam": 1})
    for _ in range(2):
        before = rail.inner_text()
        expect(rail).not_to_have_text(before)
    application.device.set({"jam": 0})


def test_a_card_says_that_its_logger_does_not_record(page: Page, application: Application) -> None:
    open_trend(page, application)
    card = page.get_by_test_id("pen-card").first
    expect(card).not_to_contain_text("Not recording")
    mine = [one["uid"] for one in application.get("/api/setup/loggers") if PRESSURE in one["tags"]]
    assert mine
    want(application, mine, wanted=False)
    expect(card).to_contain_text(re.compile("Not recording: logger .* is stopped"))
    want(application, mine, wanted=True)
    expect(card).not_to_contain_text("Not recording")


def want(application: Application, uids: list[str], *, wanted: bool) -> None:
    """Starts or stops loggers, as somebody else in the set-up would."""
    for one in application.get("/api/setup/loggers"):
        if one["uid"] in uids:
            body = {key: value for key, value in one.items() if key not in ("uid", "text")}
            application.send("PUT", f"/api/setup/loggers/{one['uid']}", {**body, "wanted": wanted})
