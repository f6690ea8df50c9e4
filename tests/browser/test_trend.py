"""A person's way through the trend: live, hold, the past, the cursor, live again; faults as what they are."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Literal

import pytest
from playwright.sync_api import Locator, Page, expect

from cronaca.demo.names import tag_uid
from tests.browser.axe import serious_violations
from tests.browser.rest import address
from tests.browser.ways import open_sheet
from tests.support.application import Application, lasts, wait_for

pytestmark = pytest.mark.browser

PRESSURE, JAM = tag_uid("head_pressure"), tag_uid("jam")
LEFT, RIGHT = 112, 960
"""Where the plot begins and ends at 1280 px, CSS pixels."""
HATCH = 535
"""From here on down a stretch without samples is hatched, in the pen's colour."""


@pytest.fixture
def application(shared: Application) -> Application:
    """The one of the module."""
    return shared


def open_trend(page: Page, application: Application, query: str = "last=PT1M") -> None:
    open_sheet(page, application, f"tags={PRESSURE},{JAM}&{query}")
    expect(page.get_by_test_id("pen-value").first).not_to_have_text("–")


def lowest_ink(page: Page, above: int = 10_000) -> int:
    """The lowest row, CSS pixels, with the pen's colour near the plot's right end; only rows above a row."""
    return int(
        page.evaluate(
            """(above) => {
            const canvas = document.querySelector('[data-testid=plot] canvas');
            const ratio = window.devicePixelRatio;
            const context = canvas.getContext('2d');
            const [left, width] = [canvas.width - 140 * ratio, 140 * ratio];
            const { data } = context.getImageData(left, 0, width, Math.min(canvas.height, above * ratio));
            let lowest = 0;
            for (let i = 0; i < data.length; i += 4) {
                if (data[i] < 40 && data[i + 1] > 80 && data[i + 1] < 130 && data[i + 2] > 140) {
                    lowest = Math.max(lowest, Math.floor(i / 4 / width));
                }
            }
            return lowest / ratio;
        }""",
            above,
        )
    )


def settled_ink(page: Page) -> int:
    """The lowest row once ten looks in a row say the same: until the contact's row is there, the plot is
    higher, and all of its rows lie elsewhere. Only what is above the hatch, which is inked too."""
    looks: list[int] = []

    def settled() -> int:
        looks.append(lowest_ink(page, HATCH))
        return looks[-1] if len(looks) >= 10 and len(set(looks[-10:])) == 1 else 0

    return int(wait_for(settled, 15, "a plot that stands still"))


def test_a_spike_between_the_reading_of_the_curve_and_the_live_link_is_drawn(
    page: Page, application: Application
) -> None:
    page.add_init_script(
        """const Opened = window.WebSocket;
        window.WebSocket = function (url) {
            const late = {
                get readyState() { return late.link?.readyState ?? Opened.CONNECTING; },
                send: (text) => late.link.send(text),
                close: () => late.link?.close(),
            };
            setTimeout(() => {
                late.link = new Opened(url);
                for (const name of ['onopen', 'onmessage', 'onclose']) late.link[name] = late[name];
            }, 6000);
            return late;
        };
        window.WebSocket.OPEN = Opened.OPEN;"""
    )
    application.wait_for_history("head_pressure", 11)
    open_sheet(page, application, f"tags={PRESSURE},{JAM}&last=PT1M")
    page.get_by_test_id("plot").locator("canvas").first.wait_for()
    before = wait_for(lambda: lowest_ink(page, HATCH), 15, "the pen's curve")
    for pressure in (65.0, 98.0):
        application.device.set({"head_pressure": pressure})
        application.wait_for_readings(2, value=pressure)
    expect(page.get_by_test_id("pen-value").first).to_have_text("98.0")
    wait_for(lambda: lowest_ink(page, HATCH) > before + 40, 3, "the spike, before the window is read anew")


def test_a_change_at_the_device_is_on_the_curve_by_itself(page: Page, application: Application) -> None:
    """How soon is measured by the benchmarks; a shared machine may stall here."""
    application.wait_for_history("head_pressure", 3, 98.0)
    open_trend(page, application, "last=PT10S")
    expect(page.get_by_test_id("pen-value").nth(1)).to_have_text("off")
    before = settled_ink(page)
    application.device.set({"head_pressure": 75.0, "jam": 1})
    expect(page.get_by_test_id("pen-value").first).to_have_text("75.0")
    expect(page.get_by_test_id("pen-value").nth(1)).to_have_text("on")
    # 75 of 60 to 150 bar lies below 98: the pen's ink turns up there.
    # The pressure stays there, and so does the ink.
    wait_for(lambda: lowest_ink(page, HATCH) > before + 80, 30, "the curve")


def test_hold_zoom_into_the_past_read_the_cursor_and_go_live_again(
    page: Page, application: Application
) -> None:
    open_trend(page, application)
    application.wait_for_history("head_pressure", 8, 98.0)
    page.keyboard.press("l")
    expect(page.get_by_role("button", name="Hold")).to_have_attribute("aria-pressed", "true")
    held = page.get_by_test_id("window-text").inner_text()
    application.wait_for_readings(2)
    assert page.get_by_test_id("window-text").inner_text() == held, "a held window stands still"

    page.mouse.move(RIGHT - 120, 300)
    page.mouse.down()
    page.mouse.move(RIGHT - 20, 320, steps=5)
    page.mouse.up()
    expect(page.get_by_test_id("window-text")).not_to_have_text(held)
    match = re.search(r"from=([^&]+)&to=([^&]+)", address(page))
    assert match is not None, "the link holds the window"

    page.mouse.move(RIGHT - 60, 300)
    note = page.get_by_test_id("cursor-note")
    expect(note).to_be_visible()
    card = page.get_by_test_id("pen-card").first
    expect(card).to_contain_text("98.0")
    expect(card).to_contain_text(re.compile("interpolated|recorded|held"))

    page.mouse.move(600, 30)
    page.keyboard.press("0")
    expect(page.get_by_test_id("window-text")).to_have_text(held)
    page.get_by_role("button", name="Live").click()
    expect(page.get_by_role("button", name="Live")).to_have_attribute("aria-pressed", "true")
    expect(card).to_contain_text("now")


def test_a_link_restores_the_view(page: Page, application: Application) -> None:
    open_trend(page, application)
    page.keyboard.press("l")
    page.get_by_test_id("pen-card").first.get_by_role("button", name="Head pressure").first.click()
    page.keyboard.press("f")
    expect(page.get_by_role("button", name="Scales: fitted")).to_be_visible()
    shown = page.get_by_test_id("window-text").inner_text()
    page.goto(address(page))
    expect(page.get_by_test_id("window-text")).to_have_text(shown)
    expect(page.get_by_role("button", name="Scales: fitted")).to_be_visible()
    expect(page.get_by_test_id("pen-card")).to_have_count(2)


def test_tags_are_chosen_from_a_list_with_the_keyboard_alone(page: Page, application: Application) -> None:
    open_trend(page, application)
    page.keyboard.press("p")
    search = page.get_by_label("Find a tag")
    expect(search).to_be_focused()
    search.fill("zone 2 air temp")
    expect(page.get_by_test_id("tag-list").get_by_role("button")).to_have_count(1)
    page.keyboard.press("Tab")
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    page.keyboard.press("Escape")
    expect(search).to_have_count(0)
    expect(page.get_by_test_id("pen-card")).to_have_count(3)
    expect(page.get_by_test_id("pen-card").nth(2)).to_contain_text("Zone 2 air temperature")
    page.keyboard.press("?")
    expect(page.get_by_role("heading", name="Keys")).to_be_visible()


def test_keys_do_not_act_while_typing(page: Page, application: Application) -> None:
    open_trend(page, application)
    page.keyboard.press("p")
    page.get_by_label("Find a tag").fill("")
    page.keyboard.type("l0f[")
    expect(page.get_by_role("button", name="Live")).to_have_attribute("aria-pressed", "true")


def test_a_source_that_is_down_is_a_gap_with_its_reason_and_recovers(
    page: Page, application: Application
) -> None:
    open_trend(page, application)
    application.wait_for_history("head_pressure", 3, 98.0)
    application.device.off()
    card = page.get_by_test_id("pen-card").first
    expect(card).to_contain_text("bad since")
    expect(page.get_by_test_id("health")).to_contain_text("0 of 1 sources")
    lasts(3)
    application.device.on()
    expect(card).to_contain_text("now")
    expect(card).to_contain_text("98.0")
    page.reload()
    expect(card).to_contain_text("now")
    page.keyboard.press("l")
    found = ""
    for x in range(RIGHT - 10, LEFT, -12):
        page.mouse.move(x, 300)
        found = page.get_by_test_id("cursor-note").inner_text()
        if "The source was down" in found:
            break
    assert "The source was down" in found
    assert "no communication" in found


def test_a_server_that_goes_away_is_said_and_the_hole_is_filled(page: Page, application: Application) -> None:
    open_trend(page, application)
    application.kill("server")
    expect(page.get_by_test_id("notice")).to_contain_text("connection to the server is lost")
    expect(page.get_by_test_id("pen-card").first).to_contain_text("no connection")
    application.device.set({"head_pressure": 44.0})
    application.wait_for_readings(2, value=44.0)
    application.device.set({"head_pressure": 99.0})
    application.start_part("server")
    application.wait_until_well()
    expect(page.get_by_test_id("notice")).to_have_count(0)
    expect(page.get_by_test_id("pen-card").first).to_contain_text("99.0")
    page.keyboard.press("l")

    def values_under_the_cursor() -> set[str]:
        found = set()
        for x in range(RIGHT - 10, LEFT, -10):
            page.mouse.move(x, 300)
            found.add(page.get_by_test_id("pen-value").first.inner_text())
        return found

    wait_for(lambda: "44.0" in values_under_the_cursor(), what="what was recorded meanwhile on the curve")


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_axe_finds_no_serious_violation(
    page: Page, application: Application, scheme: Literal["light", "dark"]
) -> None:
    page.emulate_media(color_scheme=scheme)
    open_trend(page, application)
    for key in ("", "p", "Escape", "?"):
        if key:
            page.keyboard.press(key)
        assert serious_violations(page) == [], key


def test_a_phone_shows_plot_and_cards_without_sideways_scrolling(
    page: Page, application: Application
) -> None:
    page.set_viewport_size({"width": 390, "height": 844})
    open_trend(page, application)
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    expect(page.get_by_test_id("pen-card").first).to_be_visible()


def test_cursors_are_placed_by_clicks_moved_by_their_flags_and_removed(
    page: Page, application: Application
) -> None:
    open_trend(page, application)
    page.keyboard.press("l")
    page.get_by_role("button", name="Place cursor A").click()
    expect(page.get_by_role("status").filter(has_text="Click or tap to place cursor A.")).to_be_visible()
    page.mouse.click(400, 300)
    a = page.get_by_test_id("mark-A")
    expect(a).to_be_visible()
    # The other one is next; both are asked of together.
    expect(page.get_by_role("button", name="Cursor B: click in the plot")).to_be_visible()
    page.mouse.click(700, 300)
    expect(page.get_by_test_id("mark-B")).to_be_visible()
    expect(page.get_by_role("region", name="Figures")).to_be_visible()
    before = _left(a)
    assert before == pytest.approx(400, abs=2)
    page.mouse.move(before + 6, _top(a) + 8)
    page.mouse.down()
    page.mouse.move(550, 200, steps=4)
    page.mouse.up()
    wait_for(lambda: abs(_left(a) - 550) < 10, what="the cursor at its new place")
    expect(page.get_by_test_id("mark-B")).to_be_visible()
    window = page.get_by_test_id("window-text").inner_text()
    page.mouse.click(300, 250)
    assert page.get_by_test_id("window-text").inner_text() == window
    page.get_by_role("button", name="Remove cursor A").click()
    expect(a).to_have_count(0)
    expect(page.get_by_test_id("mark-B")).to_be_visible()


def _left(mark: Locator) -> float:
    box = mark.bounding_box()
    assert box is not None
    return box["x"]


def _top(mark: Locator) -> float:
    box = mark.bounding_box()
    assert box is not None
    return box["y"]


def test_with_shift_the_cursor_moves_in_larger_steps(page: Page, application: Application) -> None:
    open_trend(page, application)
    page.keyboard.press("l")
    line = page.get_by_test_id("cursor-line")
    page.keyboard.press("ArrowRight")
    expect(line).to_be_visible()
    first = _left(line)
    page.keyboard.press("ArrowRight")
    wait_for(lambda: _left(line) > first + 4, what="a step")
    step, second = _left(line) - first, _left(line)
    page.keyboard.press("Shift+ArrowRight")
    wait_for(lambda: _left(line) - second == pytest.approx(10 * step, rel=0.05), what="a large step")


def test_removed_pens_come_back_to_their_places(page: Page, application: Application) -> None:
    open_trend(page, application)
    cards = page.get_by_test_id("pen-card")
    names = cards.all_inner_texts()
    cards.first.hover()
    cards.first.get_by_role("button", name=re.compile("^Remove ")).click()
    expect(cards).to_have_count(1)
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(cards).to_have_count(2)
    assert [text.split("\n")[1] for text in cards.all_inner_texts()] == [t.split("\n")[1] for t in names]
    page.get_by_role("button", name="Remove all pens").click()
    expect(page.get_by_text("No pens yet.")).to_be_visible()
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(cards).to_have_count(2)


def test_the_live_value_stands_beside_that_at_the_cursor(page: Page, application: Application) -> None:
    open_trend(page, application)
    page.mouse.move(500, 300)
    card = page.get_by_test_id("pen-card").first
    expect(card).to_contain_text(re.compile(r"· now [\d.]+"))


def test_an_unusable_link_says_what_is_wrong(page: Page, application: Application) -> None:
    # A link that was sent, as the next two are.
    page.goto(f"{application.url}/trends?tags=00000000-0000-0000-0000-000000000000&last=PT1M")
    expect(page.get_by_test_id("gone")).to_contain_text("A tag of this view is not there any more.")
    expect(page.get_by_text("No pens yet.")).to_be_visible()


def test_without_pens_it_says_so_and_a_sheet_that_is_gone_leaves_the_first_tags(
    page: Page, application: Application
) -> None:
    page.goto(f"{application.url}/trends?tags=&last=PT1M")
    expect(page.get_by_text("No pens yet.")).to_be_visible()
    page.goto(f"{application.url}/trends?sheet=00000000-0000-0000-0000-000000000000")
    expect(page.get_by_test_id("pen-card").first).to_be_visible()


def test_nothing_is_loaded_from_elsewhere(page: Page, application: Application, tmp_path: Path) -> None:
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url))
    open_trend(page, application)
    assert [url for url in asked if not url.startswith((application.url, "data:", "blob:"))] == []
