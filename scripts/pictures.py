"""Takes the pictures of docs/screenshots from a demo of its own: `make pictures`.

Each is taken the same way each time, so that none shows what a page once was. Times are of the day before: at
whatever hour it runs there is a whole day of history."""

from __future__ import annotations

import json
import os
import re
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Literal
from urllib.parse import urlencode
from zoneinfo import ZoneInfo

from playwright.sync_api import Browser, Page, ViewportSize, expect, sync_playwright

from cronaca.demo.names import tag_uid

ROOT = Path(__file__).parents[1]
FOLDER = ROOT / "docs" / "screenshots"
YESTERDAY = (datetime.now(ZoneInfo("Europe/Rome")) - timedelta(days=1)).replace(
    hour=0, minute=0, second=0, microsecond=0
)
PENS = ("temperature_2", "temperature_3", "humidity_3", "head_pressure", "product_moisture", "door")
Steps = Callable[[Page], None]
ADMINISTRATOR = "administrator"


@contextmanager
def demo() -> Iterator[tuple[str, str]]:
    """A demo in a folder of its own: its address, and the administrator's password."""
    with tempfile.TemporaryDirectory(prefix="cronaca-pictures-") as folder:
        env = {**os.environ, "CRONACA_DATA_DIR": folder, "CRONACA_PORT": "8230"}
        process = subprocess.Popen(
            [str(ROOT / "cronaca"), "demo"], env=env, cwd=ROOT, stdout=subprocess.PIPE, text=True
        )
        try:
            assert process.stdout is not None
            printed = ""
            while "Ctrl-C" not in printed:
                line = process.stdout.readline()
                if not line:
                    sys.exit("The demo ended before it printed its address.")
                printed += line
            found = re.search(r"(http://\S+)/", printed)
            password = re.search(rf"{ADMINISTRATOR} +(\S+)", printed)
            assert found is not None and password is not None
            yield found[1], password[1]
        finally:
            process.send_signal(signal.SIGINT)
            process.wait(60)


def at(hours: float) -> str:
    """A moment of yesterday, by the plant's clock."""
    return (YESTERDAY + timedelta(hours=hours)).astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def trend(pens: tuple[str, ...] = PENS, **more: str) -> str:
    """The address of a trend of line 1 over two hours of yesterday."""
    window = {} if "last" in more else {"from": at(13.5), "to": at(15.5)}
    return f"/trends?{urlencode({'tags': ','.join(map(tag_uid, pens)), **window, **more})}"


def samples(tags: tuple[str, ...]) -> str:
    """The address of a table of samples over two hours of yesterday."""
    ends = {"from": at(13.5), "to": at(15.5)}
    return f"/samples?{urlencode({'tags': ','.join(map(tag_uid, tags)), **ends})}"


def statistics(days: int = 0, **more: str) -> str:
    """The address of a sheet of the drying lines over yesterday's eight hours from six on, or over days."""
    lines = ("Zone 3 exhaust damper~Travel", "Press head pressure~TimeAverage2",
             "Cooler product moisture~TimeAverage2", "Zone 3 air temperature~StandardDeviationPopulation",
             "Cutter jam~Starts", "Dryer door open~DurationInStateNonZero")  # fmt: skip
    ends = [int((YESTERDAY + timedelta(hours=hour)).timestamp() * 1e6) for hour in (6 - 24 * days, 14)]
    pairs = [("held", f"{ends[0]}/{ends[1]}"), *more.items()]
    return f"/statistics?{urlencode(pairs + [('of', line) for line in lines if 'form' not in more])}"


STRIPS = json.dumps([
    {"title": "Drying air", "pens": [tag_uid("temperature_1"), tag_uid("temperature_2")], "share": 1},
    {"title": "The same, a quarter of an hour", "pens": [tag_uid("temperature_1"), tag_uid("temperature_2")],
     "share": 1, "beside": True, "last": "PT15M", "to": at(14)},
    {"title": "Humidity and the dryer's door", "pens": None, "share": 1},
])  # fmt: skip


def cursors_and_figures(page: Page) -> None:
    """The figures between both cursors."""
    page.keyboard.press("g")
    expect(page.get_by_role("region", name="Figures")).to_contain_text("between A and B")
    expect(page.get_by_role("region", name="Figures").get_by_role("row").nth(5)).to_contain_text("%")


def changes_by_hour(page: Page) -> None:
    """How often a contact changed, beside its samples."""
    page.get_by_role("button", name="Changes", exact=True).click()
    page.get_by_label("in each", exact=True).select_option("hour")
    expect(page.get_by_role("table", name="Changes").get_by_role("row").nth(3)).to_be_visible()


def closer(page: Page) -> None:
    """A figure over time, by piece."""
    page.get_by_role("button", name="Look closer at Zone 3 exhaust damper, Travel").click()
    region = page.get_by_role("region", name="Closer look")
    expect(region.get_by_role("list", name="Over time, by equipment")).to_be_visible()


def rehearsal(page: Page) -> None:
    """What two rules keep of the same readings."""
    page.get_by_role("button", name="Line 1 every second", exact=True).click()
    form = page.get_by_role("form", name="Line 1 every second")
    form.get_by_label("When", exact=True).select_option("on change")
    page.get_by_role("button", name="Rehearse this rule").click()
    page.get_by_role("button", name="Rehearse", exact=True).click()
    rows = page.get_by_role("table", name="Both rules").get_by_role("row")
    expect(rows).to_have_count(3, timeout=60_000)


def calculated_tag(page: Page) -> None:
    """The form of a statistic as a tag."""
    page.get_by_role("button", name="Add tags").click()
    form = page.get_by_role("form", name="New tags")
    for label, option in (
        ("Source", "Calculated values"),
        ("Calculated as", "Statistic over a window that moves on"),
    ):
        form.get_by_label(label, exact=True).select_option(option)
    form.get_by_label("Name", exact=True).fill("Line 3 Zone 3 damper travel, 8 h")
    form.get_by_label("Statistic of").fill("Line 3 Zone 3 exhaust")
    page.get_by_role("option", name="Line 3 Zone 3 exhaust damper", exact=True).click()
    form.get_by_label("Which one", exact=True).select_option("Travel")
    form.get_by_label("Length", exact=True).fill("8 h")
    page.keyboard.press("Tab")


def open_first_tag(page: Page) -> None:
    """A tag beside the list."""
    page.get_by_label("Find", exact=True).fill("Zone 2 air")
    page.get_by_role("button", name="Line 1 Zone 2 air temperature").click()
    expect(page.get_by_role("form", name="Line 1 Zone 2 air temperature")).to_be_visible()


def open_class(page: Page) -> None:
    """The class of the drying lines."""
    page.get_by_role("button", name="Drying line").click()
    expect(page.get_by_role("heading", name="Drying line")).to_be_visible()


def open_logger(page: Page) -> None:
    """A logger beside the list."""
    page.get_by_role("button", name="Line 2 contacts", exact=True).click()
    expect(page.get_by_role("form", name="Line 2 contacts")).to_be_visible()


def people(page: Page) -> None:
    """Some people and their roles; one of them beside the list."""
    for name, full_name, role in (("jonas", "Jonas Reuter", "engineer"), ("shift a", "Shift A", "operator")):
        page.get_by_role("button", name="Add a person").click()
        panel = page.get_by_role("form", name="A new person")
        panel.get_by_label("Name", exact=True).fill(name)
        panel.get_by_label("Full name").fill(full_name)
        panel.get_by_label("Role").select_option(role)
        panel.get_by_label("First password").fill("violet anchor staple ribbon")
        panel.get_by_role("button", name="Add", exact=True).click()
        expect(page.get_by_role("row", name=re.compile(full_name))).to_be_visible()


def nothing(page: Page) -> None:
    """The page as it opens."""
    expect(page.get_by_role("heading", level=1)).to_be_visible()


VIEWS: dict[str, tuple[str, Steps]] = {
    "trend-day": (trend(("temperature_1", *PENS, "jam")), nothing),
    "trend-night": (trend(ghost="P1D"), nothing),
    "trend-phone": (trend(("temperature_2", "humidity_3", "head_pressure")), nothing),
    "trend-figures": (trend(a=at(13.9), b=at(14.75)), cursors_and_figures),
    "trend-strips": (trend(("temperature_1", "temperature_2", "humidity_1", "humidity_2", "door"),
                           strips=STRIPS), nothing),
    "statistics": (statistics(), nothing),
    "statistics-closer": (statistics(), closer),
    "statistics-table": (statistics(8, form="stretches", per="shift", shift="Early"), nothing),
    "samples": (samples(("temperature_2", "humidity_3", "door")), changes_by_hour),
    "records-night": ("/records", nothing),
    "runs": ("/runs", nothing),
    "setup-recorder": ("/setup/recorder", nothing),
    "setup-sources": ("/setup/sources", nothing),
    "setup-tags": ("/setup/tags", open_first_tag),
    "setup-calculated": ("/setup/tags", calculated_tag),
    "setup-loggers": ("/setup/loggers", open_logger),
    "setup-rehearse": ("/setup/loggers", rehearsal),
    "setup-equipment": ("/setup/equipment", open_class),
    "setup-people": ("/setup/people", people),
}  # fmt: skip


def take(browser: Browser, url: str, password: str, name: str) -> None:
    """One picture, at 1280 x 800, or 390 x 844 on a phone."""
    path, steps = VIEWS[name]
    size: ViewportSize = {"width": 390, "height": 844} if "phone" in name else {"width": 1280, "height": 800}
    scheme: Literal["light", "dark"] = "dark" if "night" in name else "light"
    page = browser.new_page(viewport=size, color_scheme=scheme, reduced_motion="reduce")
    said = {"name": ADMINISTRATOR, "password": password}
    assert page.request.post(f"{url}/api/session", data=said).ok
    page.goto(f"{url}{path}")
    nothing(page)
    if path.startswith("/trends"):
        expect(page.get_by_test_id("pen-value").first).not_to_have_text("–")
    steps(page)
    time.sleep(2.5)  # what is read after it was opened
    page.screenshot(path=FOLDER / f"{name}.png")
    page.close()
    print(f"  {name}", flush=True)


def main() -> None:
    """Takes those that are named, or all."""
    wanted = sys.argv[1:] or list(VIEWS)
    with demo() as (url, password), sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium-headless-shell", args=["--no-sandbox"]
        )
        for name in wanted:
            take(browser, url, password, name)
        browser.close()


if __name__ == "__main__":
    main()
