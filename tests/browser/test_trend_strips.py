"""A sheet's strips, pens that are no tags, scales by hand, windows with a trigger, views only looked at."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from urllib.parse import parse_qs, urlparse

import pytest
from playwright.sync_api import Locator, Page, expect

from cronaca.db import Store
from cronaca.demo.names import tag_uid
from tests.browser.axe import serious_violations
from tests.browser.rest import address
from tests.browser.test_trend import JAM, LEFT, PRESSURE, open_trend
from tests.browser.ways import open_sheet
from tests.support.application import Application

pytestmark = pytest.mark.browser


@pytest.fixture(scope="module")
def application(module_store: Store, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Application]:
    """One for all: no test here needs another's silence."""
    found = Application(module_store.address, tmp_path_factory.mktemp("strips"))
    with found.running():
        yield found


def view(page: Page, name: str) -> str:
    """A part of the address."""
    return parse_qs(urlparse(address(page)).query).get(name, [""])[0]


def strips(page: Page) -> list[dict[str, object]]:
    return list(json.loads(view(page, "strips") or "[]"))


def pick_tag(page: Page, label: str, text: str, name: str) -> None:
    page.get_by_label(label).fill(text)
    page.get_by_role("option", name=name, exact=True).click()


def middle(found: Locator) -> tuple[float, float]:
    box = found.bounding_box()
    assert box is not None
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def test_strips_lie_beside_and_under_each_other_with_windows_of_their_own(
    page: Page, application: Application
) -> None:
    open_trend(page, application, "last=PT5M")
    page.get_by_role("button", name="Layout").click()
    page.get_by_label("Title of strip 1").fill("Press")
    page.get_by_role("button", name="Strip beside").click()
    second = page.get_by_role("region", name="Strip 2")
    second.get_by_label("Its window follows").select_option("a length until now")
    second.get_by_label("Length").fill("30 s")
    expect(page.get_by_test_id("own-window")).to_contain_text("30 s until now")
    page.get_by_role("button", name="Strip below").click()
    third = page.get_by_role("region", name="Strip 3")
    third.get_by_label("Cutter jam").click()
    expect(third.get_by_label("Cutter jam")).to_be_checked()
    expect(page.get_by_test_id("strip")).to_have_count(3)
    places = [page.get_by_test_id("strip").nth(i).bounding_box() for i in range(3)]
    assert places[0] and places[1] and places[2]
    assert places[0]["y"] == places[1]["y"]
    assert places[1]["x"] > places[0]["x"]
    assert places[2]["y"] > places[0]["y"]
    assert places[2]["width"] > 1.9 * places[0]["width"]

    x, y = middle(page.get_by_test_id("strip").nth(1))
    page.mouse.move(x, y)
    page.mouse.wheel(0, -100)
    expect(page.get_by_test_id("own-window")).not_to_contain_text("until now")
    assert view(page, "last") == "PT5M", "the other strips follow the rail as before"

    page.get_by_role("separator", name="Height of the strip above").focus()
    page.keyboard.press("ArrowUp")
    page.keyboard.press("ArrowUp")
    assert strips(page)[0]["share"] == 0.8
    page.reload()
    expect(page.get_by_test_id("strip")).to_have_count(3)
    expect(page.get_by_role("heading", name="Press")).to_be_visible()


AXIS_INK = """() => {
    const canvas = document.querySelector('[data-testid=plot] canvas');
    const ratio = window.devicePixelRatio;
    const { data } = canvas.getContext('2d').getImageData(0, 0, 108 * ratio, canvas.height - 50 * ratio);
    let ink = '';
    for (let i = 3; i < data.length; i += 4) if (data[i] > 0) ink += `${i}:${data[i - 1]} `;
    return ink;
}"""
"""What is written at the left of the plot."""


def test_the_axis_is_that_of_the_pen_brought_forward_also_while_the_window_is_held(
    page: Page, application: Application
) -> None:
    window = "from=2026-11-20T10:00:00Z&to=2026-11-20T11:00:00Z"
    open_sheet(page, application, f"tags={PRESSURE},{tag_uid('product_moisture')}&{window}")
    expect(page.get_by_test_id("pen-card")).to_have_count(2)
    page.wait_for_function(f"({AXIS_INK})() !== ''")
    first = page.evaluate(AXIS_INK)
    page.keyboard.press("2")
    page.wait_for_function(f"(before) => ({AXIS_INK})() !== before", arg=first)
    assert page.evaluate(AXIS_INK) != ""


def test_a_tag_is_dragged_onto_a_strip(page: Page, application: Application) -> None:
    named = json.dumps([{"title": "All"}, {"title": "Moisture", "pens": []}])
    open_trend(page, application, f"last=PT1M&strips={named}")
    page.get_by_role("button", name="Add pen").click()
    page.get_by_label("Find a tag").fill("product moisture")
    rows = page.get_by_test_id("tag-list").get_by_role("button")
    expect(rows).to_have_count(1)
    expect(rows).to_contain_text("Cooler product moisture")
    # A row that the search still moves could not be held.
    rows.element_handle().wait_for_element_state("stable")
    rows.drag_to(page.get_by_test_id("strip").nth(1))
    moisture = tag_uid("product_moisture")
    expect(page).to_have_url(re.compile(moisture))
    assert strips(page)[1]["pens"] == [moisture]
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("pen-card")).to_have_count(3)


def test_a_formula_is_drawn_over_history_without_a_tag(page: Page, application: Application) -> None:
    application.device.set({"head_pressure": 90.0})
    open_trend(page, application, "last=PT30S")
    page.get_by_role("button", name="Add pen").click()
    page.get_by_role("button", name="From a formula or records").click()
    page.get_by_label("Formula").fill("p *")
    expect(page.get_by_role("alert")).to_contain_text("ends too early")
    page.get_by_label("Formula").fill("p / 2")
    pick_tag(page, "p is", "head pressure", "Line 1 Press head pressure")
    page.get_by_label("Name of the pen").fill("Half of it")
    page.get_by_label("Unit").fill("bar")
    page.get_by_role("button", name="Add", exact=True).click()
    card = page.get_by_test_id("pen-card").filter(has_text="Half of it")
    expect(card).to_contain_text("calculated")
    expect(card.get_by_test_id("pen-value")).to_have_text("45")
    page.keyboard.press("g")
    expect(page.get_by_role("region", name="Figures")).not_to_contain_text("Half of it")
    expect(page).to_have_url(re.compile("made="))
    page.reload()
    expect(card).to_contain_text("calculated")
    card.hover()
    page.get_by_role("button", name="Change Half of it").click()
    page.get_by_role("button", name="What it is made from").click()
    page.get_by_label("Formula").fill("p / 3")
    page.get_by_role("button", name="Save", exact=True).click()
    expect(card.get_by_test_id("pen-value")).to_have_text("30")


def test_a_running_mean_says_that_it_is_one(page: Page, application: Application) -> None:
    open_trend(page, application)
    page.get_by_test_id("pen-card").first.hover()
    page.get_by_role("button", name="Change Press head pressure").click()
    page.get_by_role("button", name="Running mean beside it").click()
    page.get_by_label("Name in the list").fill("Pressure")
    page.get_by_label("Axis", exact=True).select_option("right")
    page.get_by_role("button", name="Close", exact=True).click()
    expect(page.get_by_test_id("pen-card").first).to_contain_text("Pressure")
    mean = page.get_by_test_id("pen-card").filter(has_text="mean of 60 s")
    expect(mean.get_by_test_id("pen-value")).not_to_have_text("–")


def test_the_wheel_and_a_drag_on_the_axis_set_the_scale(page: Page, application: Application) -> None:
    open_trend(page, application)
    grip = page.get_by_test_id("scale-grip")
    x, y = middle(grip)

    def ends() -> tuple[float, float]:
        look = json.loads(view(page, "look"))[PRESSURE]
        return float(look["low"]), float(look["high"])

    page.mouse.move(x, y)
    page.mouse.wheel(0, -100)
    expect(page).to_have_url(re.compile("look="))
    low, high = ends()
    (own,) = application.get(f"/api/tags?uid={PRESSURE}")["tags"]
    assert high - low == pytest.approx(0.8 * (own["range_high"] - own["range_low"]), rel=0.01)
    page.mouse.down()
    page.mouse.move(x, y + 50, steps=4)
    page.mouse.up()
    shifted = ends()
    assert shifted[0] > low and shifted[1] - shifted[0] == pytest.approx(high - low, rel=0.01)
    assert x < LEFT


def test_a_window_moves_when_its_trigger_fires(page: Page, application: Application) -> None:
    application.device.set({"jam": 0})
    open_trend(page, application, f"last=PT1M&refresh={JAM}")
    expect(page.get_by_role("heading", level=1)).to_contain_text("jam fires")
    application.wait_for_readings(2)
    rail = page.get_by_test_id("window-text")
    before = rail.inner_text()
    application.wait_for_readings(3)
    assert rail.inner_text() == before, "it stands while nothing fires"
    application.device.set({"jam": 1})
    expect(rail).not_to_have_text(before)
    page.get_by_role("button", name="Compare", exact=True).click()
    page.get_by_label("A live window moves").select_option("continuously")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog", name="Compare")).to_have_count(0)
    expect(page.get_by_role("heading", level=1)).not_to_contain_text("fires")


def test_cards_and_figures_are_larger_with_large_texts(page: Page, application: Application) -> None:
    open_trend(page, application)
    page.keyboard.press("g")
    shown = (page.get_by_test_id("pen-value").first, page.get_by_role("row", name=re.compile("Cutter jam")))
    expect(shown[1]).to_be_visible()

    def heights() -> list[float]:
        return [(one.bounding_box() or {"height": 0.0})["height"] for one in shown]

    before = heights()
    page.get_by_role("button", name="Layout").click()
    page.get_by_text("Whole sheet").click()
    page.get_by_label("Large texts, for reading at a distance").check()
    page.get_by_role("button", name="Close", exact=True).last.click()
    after = heights()
    assert [late / early for late, early in zip(after, before, strict=True)] == pytest.approx(
        [1.4, 1.4], rel=0.1
    )
    page.set_viewport_size({"width": 390, "height": 800})
    assert page.evaluate("document.documentElement.scrollWidth") <= 390, "nothing is cut at the side"


def test_a_link_to_look_at_only_lets_nothing_be_changed(page: Page, application: Application) -> None:
    open_trend(page, application)
    page.get_by_role("button", name="Sheets").click()
    link = page.get_by_label("Read-only link", exact=True).last.input_value()
    page.goto(link)
    expect(page.get_by_test_id("pen-value").first).not_to_have_text("–")
    expect(page.get_by_role("heading", level=1)).to_contain_text("read-only")
    for name in ("Add pen", "Sheets", "Layout", "Export"):
        expect(page.get_by_role("button", name=name)).to_have_count(0)
    page.keyboard.press("p")
    expect(page.get_by_label("Find a tag", exact=True)).to_have_count(0)
    page.get_by_test_id("pen-card").first.hover()
    pens = page.get_by_role("list", name="Pens")
    expect(pens.get_by_role("button", name=re.compile("^(Remove|Change|Hide) "))).to_have_count(0)
    page.keyboard.press("l")
    expect(page.get_by_role("button", name="Hold")).to_have_attribute("aria-pressed", "true")
    page.goto(link.replace("only=time", "only="))
    expect(page.get_by_test_id("pen-value").first).not_to_have_text("–")
    expect(page.get_by_role("heading", level=1)).to_contain_text("live, last 1 min")
    before = address(page)
    page.mouse.move(500, 300)
    page.mouse.wheel(0, -100)
    page.keyboard.press("+")
    assert address(page) == before


def test_no_new_panel_has_a_barrier(page: Page, application: Application) -> None:
    named = json.dumps([{"title": "All"}, {"beside": True, "last": "PT20S"}, {"title": "Other", "pens": []}])
    open_trend(page, application, f"last=PT1M&strips={named}")

    def opened(what: str) -> None:
        if what == "made":
            page.get_by_role("button", name="Add pen").click()
            page.get_by_role("button", name="From a formula or records").click()
        else:
            page.get_by_role("button", name=what, exact=True).click()
        expect(panels[what]).to_be_visible()

    panels = {
        "Layout": page.get_by_role("form", name="Layout"),
        "made": page.get_by_role("form", name="New pen"),
        "Compare": page.get_by_role("dialog", name="Compare"),
    }
    for other in ("night", "day"):
        for what in ("Layout", "made", "Compare"):
            opened(what)
            assert serious_violations(page) == [], (what, other)
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
        page.get_by_role("button", name=f"Change to {other}").click()
