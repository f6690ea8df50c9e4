"""What operators and engineers do with trends, from end to end, on two lines with two days of history."""

from __future__ import annotations

import csv
import io
import re
import time
from collections.abc import Iterator

import numpy as np
import pytest
from playwright.sync_api import Locator, Page, expect

from cronaca.core.model import DAY, HOUR, MINUTE, SECOND, Window
from cronaca.db import Store
from cronaca.demo.history import LINES, write_history
from cronaca.demo.names import tag_uid
from tests.browser.rest import address
from tests.browser.test_trend import LEFT, RIGHT
from tests.browser.ways import open_sheet, tab_to, type_window
from tests.support.application import Application, lasts, wait_for

pytestmark = pytest.mark.browser
KEYS = ("temperature_3", "humidity_3", "head_pressure", "door")


@pytest.fixture(scope="module")
def application(module_store: Store, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Application]:
    """Two lines; line 1 with two days before the start, line 2 without a device."""
    found = Application(module_store.address, tmp_path_factory.mktemp("lines"), lines=2)
    now_us = time.time_ns() // 1000
    write_history(found.store, lambda: now_us, lambda _: None, lines=LINES[:1], length_us=2 * DAY + HOUR)
    with found.running():
        yield found


def open_pens(page: Page, application: Application, query: str, keys: tuple[str, ...] = KEYS) -> None:
    uids = ",".join(tag_uid(key) for key in keys)
    open_sheet(page, application, f"tags={uids}&{query}")
    expect(page.get_by_test_id("pen-card")).to_have_count(len(keys))


def door_opening(application: Application, window: Window) -> int:
    """When the door was opened first in a window, by the store."""
    door = application.read("door", window).recorded
    opened = door.ts_us[(door.values != 0) & (door.ts_us > window.start_us)]
    assert len(opened), "the door opens a few times an hour"
    return int(opened[0])


def iso(us: int) -> str:
    return f"{np.datetime64(us, 'us')}Z"


def place_of(us: int, start_us: int, end_us: int) -> float:
    """Where a moment lies on the screen."""
    return LEFT + (us - start_us) / (end_us - start_us) * (RIGHT - LEFT)


def figure(row: Locator, name: str) -> float:
    text = row.get_by_role("button", name=re.compile(f"explain {name}")).inner_text()
    return float(re.findall(r"-?[\d.]+", text)[0])


def wait_for_figure(row: Locator, name: str, value: float) -> None:
    """Until it is so, to a digit shown."""
    wait_for(lambda: abs(figure(row, name) - value) < 0.06, 10, f"{name} of {value}")


def test_the_door_is_found_and_the_figures_before_and_after_agree_with_the_export(
    page: Page, application: Application
) -> None:
    """Three pens and a contact over the last hours; mean and standard deviation on both sides."""
    end_us = time.time_ns() // 1000 // MINUTE * MINUTE - 30 * MINUTE
    opened = door_opening(application, Window(end_us - 6 * HOUR, end_us))
    start_us, end_us = opened - 20 * MINUTE, opened + 20 * MINUTE
    open_pens(page, application, f"from={iso(start_us)}&to={iso(end_us)}")
    page.keyboard.press("g")
    figures = page.get_by_role("region", name="Figures")
    found = {}
    for name, (a_us, b_us) in {
        "before": (start_us + 2 * MINUTE, opened - MINUTE),
        "after": (opened, opened + 8 * MINUTE),
    }.items():
        for key, at_us in (("a", a_us), ("b", b_us)):
            page.mouse.move(place_of(at_us, start_us, end_us), 300)
            page.keyboard.press(key)
            expect(page.get_by_test_id(f"mark-{key.upper()}")).to_be_visible()
        row = figures.get_by_role("row", name=re.compile("Zone 3 air temperature"))
        expect(row).to_contain_text("°C")
        page.get_by_role("button", name="Export").click()
        with page.expect_download() as download:
            page.get_by_role("menuitem", name="Every recorded sample between A and B, CSV").click()
        page.keyboard.press("Escape")
        rows = csv.DictReader(io.StringIO(download.value.path().read_text(encoding="utf-8-sig")))
        values = [
            float(r["value"]) for r in rows if r["tag"].endswith("Zone 3 air temperature") and r["value"]
        ]
        # A sample a second: by time and by samples the mean is the same to a digit shown.
        mean = float(np.mean(values))
        wait_for_figure(row, "Time-weighted mean", mean)
        spread = figure(row, "Std dev of samples")
        assert spread == pytest.approx(np.std(values), abs=0.06)
        found[name] = mean
    assert found["before"] != found["after"]


def test_the_same_sheet_is_shown_for_line_2(page: Page, application: Application) -> None:
    open_pens(page, application, "last=PT1H")
    page.get_by_role("button", name="Change Zone 3 air temperature").click()
    page.get_by_label("Guide lines at, °C").fill("82")
    page.get_by_role("button", name="Close").click()
    page.get_by_role("button", name="Same trend for other equipment than Line 1").click()
    page.get_by_role("menuitem", name="Line 2").click()
    expect(page.get_by_role("heading", name="Line 2 trend")).to_be_visible()
    for key in KEYS:
        assert tag_uid(key, 2) in address(page)
        assert tag_uid(key, 1) not in address(page)
    page.get_by_role("button", name="Change Zone 3 air temperature").click()
    expect(page.get_by_label("Guide lines at, °C")).to_have_value("82")


def zoom_in(page: Page) -> None:
    """Until the window is another one."""
    shown = address(page)
    page.keyboard.press("+")
    wait_for(lambda: address(page) != shown, 20, "another window")


def test_back_two_days_to_the_second_and_live_again(page: Page, application: Application) -> None:
    open_pens(page, application, "last=PT1H", ("head_pressure", "temperature_3"))
    began_us = time.time_ns() // 1000 - 2 * DAY
    type_window(page, f"{iso(began_us)[:19]}Z/PT10M", " to ")
    expect(page.get_by_role("button", name="Hold")).to_have_attribute("aria-pressed", "true")
    for _ in range(12):  # each halves the window
        zoom_in(page)
    match = re.search(r"from=([^&]+)&to=([^&]+)", address(page))
    assert match is not None
    start, end = (np.datetime64(t.replace("%3A", ":").rstrip("Z"), "us").astype(int) for t in match.groups())
    assert end - start <= 10 * SECOND
    assert abs(int(start) - began_us) < 20 * MINUTE
    page.mouse.move((LEFT + RIGHT) / 2, 300)
    expect(page.get_by_test_id("cursor-note")).to_contain_text(re.compile(r"\d\d:\d\d:\d\d\.\d"))
    page.keyboard.press("l")
    expect(page.get_by_role("button", name="Live")).to_have_attribute("aria-pressed", "true")
    page.mouse.move(640, 20)  # off the plot: the cards tell what is now
    application.device.set({"head_pressure": 77.0})
    expect(page.get_by_test_id("pen-value").first).to_have_text("77.0")


def test_limits_moved_by_an_operator_move_the_scale_and_the_guide_lines(
    page: Page, application: Application
) -> None:
    source = application.send("POST", "/api/setup/sources", {"name": "Limits", "protocol": "internal"})
    limits = [
        {"name": f"Line 1 {name}", "source": source["uid"], "address": {"initial": value, "keep": True},
         "unit": "bar", "range_low": 0, "range_high": 200}
        for name, value in (("pressure low", 60.0), ("pressure high", 120.0), ("pressure set point", 95.0))
    ]  # fmt: skip
    low, high, wanted = application.send("POST", "/api/setup/tags", {"tags": limits})["uids"]
    archive = application.get("/api/setup/archives")[0]["uid"]
    logger = {"name": "Limits", "archive": archive, "mode": "on_change", "tags": [low, high, wanted]}
    application.send("POST", "/api/setup/loggers", logger)
    wait_for(lambda: application.read_uids([high], ever())[0].samples, 30, "the limits' first samples")

    def write(uid: str, value: float) -> None:
        application.send("PUT", f"/api/setup/tags/{uid}/value", {"value": value})

    application.device.set({"head_pressure": 98.0})
    open_pens(page, application, "last=PT10S", ("head_pressure",))
    card = page.get_by_test_id("pen-card").first
    page.get_by_role("button", name="Change Press head pressure").click()
    page.get_by_label("Scale", exact=True).select_option("with limits from tags")
    for label, name in (("Lower end from", "pressure low"), ("Upper end from", "pressure high"),
                        ("Guide line from a tag", "pressure set point")):  # fmt: skip
        page.get_by_label(label).fill(name)
        page.get_by_role("option", name=f"Line 1 {name}").click()
    page.get_by_role("button", name="Close").click()
    expect(card).to_contain_text("60 to 120")
    write(high, 110.0)
    expect(card).to_contain_text("60 to 110")
    write(high, 90.0)
    expect(card).to_contain_text("60 to 90")
    expect(page.get_by_test_id("unseen")).to_contain_text("1 pen lies outside the scale")
    write(high, 50.0)
    told = page.get_by_test_id("unseen")
    expect(told).to_contain_text("the limits of its scale are bad or upside down")
    expect(card).to_contain_text("60 to 90 (limits not valid)")
    write(high, 130.0)
    expect(card).to_contain_text("60 to 130")
    expect(told).to_have_count(0)


def test_a_dropped_link_and_a_failed_probe_are_told_apart(page: Page, application: Application) -> None:
    open_pens(page, application, "last=PT1M", ("head_pressure", "temperature_1"))
    application.device.set({"head_pressure": 98.0, "temperature_1": 71.5})
    pressure, temperature = page.get_by_test_id("pen-card").nth(0), page.get_by_test_id("pen-card").nth(1)
    expect(pressure).to_contain_text("98.0")
    application.device.set({"temperature_1": float("nan")})
    expect(temperature).to_contain_text("bad since")
    expect(pressure).to_contain_text("98.0")
    application.wait_for_readings(3)
    application.device.set({"temperature_1": 71.5})
    expect(temperature).to_contain_text("71.5")
    application.device.off()
    for card in (pressure, temperature):
        expect(card).to_contain_text("bad since")
    lasts(3)
    application.device.on()
    expect(pressure).to_contain_text("now")
    page.reload()
    expect(pressure).to_contain_text("now")
    page.keyboard.press("l")
    notes = set()
    for x in range(RIGHT - 10, LEFT, -8):
        page.mouse.move(x, 300)
        note = page.get_by_test_id("cursor-note").inner_text()
        notes |= set(note.splitlines()[1:])
    assert any(
        "The source was down" in one and "Press head pressure, Zone 1 air temperature" in one for one in notes
    )
    failed = [one for one in notes if "Values were bad" in one and "no data" in one]
    assert failed, notes
    assert all(one.endswith("(Zone 1 air temperature)") for one in failed), notes


def ever() -> Window:
    return Window(0, time.time_ns() // 1000 + SECOND)


def test_all_of_it_by_keys_alone(page: Page, application: Application) -> None:
    """Hold, zoom, cursors, figures, how one was made, a saved sheet, the rail: no pointer at all."""
    open_pens(page, application, "last=PT10M", ("head_pressure", "temperature_3"))
    expect(page.get_by_test_id("pen-value").first).not_to_have_text("–")
    page.keyboard.press("l")
    expect(page.get_by_role("button", name="Hold")).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("[")
    page.keyboard.press("+")
    page.keyboard.press("-")
    page.keyboard.press("0")
    for _ in range(20):
        page.keyboard.press("ArrowLeft")
    expect(page.get_by_test_id("cursor-note")).to_be_visible()
    page.keyboard.press("a")
    for _ in range(40):
        page.keyboard.press("ArrowRight")
    page.keyboard.press("b")
    expect(page.get_by_test_id("mark-A")).to_be_visible()
    expect(page.get_by_test_id("mark-B")).to_be_visible()
    page.keyboard.press("g")
    expect(page.get_by_test_id("figures-range")).to_contain_text("between A and B")
    expect(page.get_by_role("row", name=re.compile("Press head pressure"))).to_contain_text("bar")
    tab_to(page, "button", "explain Time-weighted mean of Press head pressure")
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog", name="How it was made")).to_contain_text("good")
    page.keyboard.press("Escape")
    tab_to(page, "button", "Values in time")
    page.keyboard.press("Enter")
    table = page.get_by_role("table", name="Values in time")
    expect(table.get_by_role("row")).to_have_count(13)
    expect(table.get_by_role("row").nth(1)).to_contain_text(re.compile(r"\d+\.\d .\d+\.\d to \d+\.\d"))

    tab_to(page, "slider", "Start of the window")
    before = address(page)
    page.keyboard.press("ArrowLeft")
    expect(page).not_to_have_url(before)
    tab_to(page, "button", "^Sheets$")
    page.keyboard.press("Enter")
    tab_to(page, "textbox", "Save as")
    page.keyboard.type("By keys")
    page.keyboard.press("Enter")
    expect(page.get_by_role("form", name="Sheets")).to_contain_text("By keys has no changes.")
