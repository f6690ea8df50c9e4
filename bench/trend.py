"""The trend in a browser, beside a server with a year of history: `python -m bench.trend [minutes live]`.

Opens a saved sheet, zooms from a year to a minute and back, pans and moves the cursor, and stays live while
its memory is looked at. Headless Chromium draws without a graphics card: frames are slower than on a desk.
"""

from __future__ import annotations

import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final

import numpy as np
from playwright.sync_api import Browser, Page, sync_playwright
from tests.browser.conftest import FLAGS
from tests.support.application import Application
from tests.support.builders import FixedClock
from tests.support.signed_in import has_signed_in

from bench.data import wave
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import DAY, SECOND, Series, Window
from cronaca.db.private_server import PrivateServer
from cronaca.demo.names import tag_uid
from cronaca.history.jobs.pyramid import PyramidBuilder
from cronaca.history.write.bulk import backfill
from cronaca.plant import histories
from cronaca.plant.tags import find_tags

TITLE: Final = "## Trend in the browser"
YEAR: Final = 365 * DAY
_PIECE: Final = 4_000_000
PENS: Final = (
    "temperature_1", "temperature_2", "temperature_3", "humidity_1", "humidity_2", "humidity_3",
    "head_pressure", "product_moisture",
)  # fmt: skip
_ZOOMS: Final = 19
"""Each halves the window: a year becomes a minute."""
_PATIENCE: Final = 300
"""Tenths of a second that curves may take before it is given up."""

# What the page tells of itself: when the first coloured pixel was on the plot, which curves are under way,
# when each frame began.
_WATCH: Final = """
(() => {
  const watch = { first: 0, pending: 0, done: 0, frames: [] };
  window.watch = watch;
  const plain = window.fetch;
  window.fetch = async (...call) => {
    const url = String(call[0]?.url ?? call[0]);
    // The picture is the plot; the coverage on the rail, 200 columns wide, comes after it.
    if (!url.includes('/api/series/curves') || url.includes('width=200')) return plain(...call);
    watch.pending += 1;
    try {
      const answer = await plain(...call);
      await answer.clone().arrayBuffer();
      return answer;
    } finally {
      watch.pending -= 1;
      requestAnimationFrame(() => requestAnimationFrame(() => { watch.done = performance.now(); }));
    }
  };
  const coloured = () => {
    const canvas = document.querySelector('[data-testid=plot] canvas');
    if (canvas === null || canvas.width < 300) return false;
    // A curve crosses every column: reading a few of them takes little of the time that is measured.
    const { data } = canvas.getContext('2d').getImageData(canvas.width >> 1, 0, 8, canvas.height);
    for (let i = 0; i < data.length; i += 4) {
      const most = Math.max(data[i], data[i + 1], data[i + 2]);
      const least = Math.min(data[i], data[i + 1], data[i + 2]);
      if (data[i + 3] > 200 && most - least > 80) return true;
    }
    return false;
  };
  const frame = (now) => {
    watch.frames.push(now);
    // What watches must not be what grows.
    if (watch.frames.length > 5000) watch.frames.splice(0, 2500);
    if (watch.first === 0 && coloured()) watch.first = performance.now();
    requestAnimationFrame(frame);
  };
  requestAnimationFrame(frame);
})();
"""


def fill(application: Application, end_us: int) -> None:
    """A year at 1 Hz for each pen, and its pyramid."""
    store = application.store
    with store.snapshot() as tx:
        found = find_tags(tx, [tag_uid(key) for key in PENS])
        keys = {one.key.tag_id: one.key for one in histories.list_histories(tx)}
    span = Window(end_us - YEAR, end_us)
    for i, key in enumerate(PENS):
        tag = found[tag_uid(key)]
        series = _between(wave(YEAR // SECOND, i), span, tag.range_low, tag.range_high)
        history: HistoryKey = keys[tag.tag_id]
        for first in range(0, len(series), _PIECE):
            backfill(store, {history: series.take(slice(first, first + _PIECE))}, span)
        print(f"{key}: {len(series):,} samples", flush=True)
    PyramidBuilder(store, FixedClock(end_us)).build_some(3600)


def _between(series: Series, span: Window, low: float, high: float) -> Series:
    """The same signal in a tag's range and in another window."""
    least, most = float(series.values.min()), float(series.values.max())
    share = (series.values - least) / (most - least)
    times = span.start_us + np.arange(len(series), dtype=np.int64) * SECOND
    return Series(series.value_type, times, np.round(low + share * (high - low), 1), series.quality)


@contextmanager
def opened(browser: Browser) -> Iterator[Page]:
    # What the page is asked would else be refused by its policy, as it should be.
    context = browser.new_context(
        viewport={"width": 1280, "height": 800}, color_scheme="light", bypass_csp=True
    )
    has_signed_in(context)
    page = context.new_page()
    page.add_init_script(_WATCH)
    yield page
    context.close()


def first_curves(browser: Browser, url: str, runs: int = 10) -> list[float]:
    """ms from navigation to the first curve, each time with an empty browser cache."""
    found = []
    for _ in range(runs):
        with opened(browser) as page:
            page.goto(url)
            page.wait_for_function("window.watch.first > 0", timeout=30_000)
            found.append(float(page.evaluate("window.watch.first")))
    return found


def opened_again(browser: Browser, url: str, runs: int = 10) -> list[float]:
    """The same where the browser was there before: it has the program and its compiled code."""
    found = []
    with opened(browser) as page:
        for _ in range(runs + 2):
            page.goto(url)
            page.wait_for_function("window.watch.first > 0", timeout=30_000)
            found.append(float(page.evaluate("window.watch.first")))
            page.wait_for_timeout(1000)
            page.goto("about:blank")
    return found[2:]


def _wait_for_curves(page: Page) -> None:
    for _ in range(_PATIENCE):
        if page.evaluate("window.watch.pending") == 0:
            return
        page.wait_for_timeout(100)
    raise RuntimeError(f"no curves for {page.url}")


def zooms(page: Page) -> list[float]:
    """ms from a key to the complete new picture: from a year to a minute, and back another way round, so that
    no window comes twice."""
    found = []
    for place, key in ((500, "+"), (800, "-")):
        page.mouse.move(place, 300)
        for _ in range(_ZOOMS):
            started = float(page.evaluate("performance.now()"))
            page.keyboard.press(key)
            page.wait_for_timeout(250)  # the curves are asked for a moment after the last key
            _wait_for_curves(page)
            page.wait_for_timeout(100)
            done = float(page.evaluate("window.watch.done"))
            if done > started:
                found.append(done - started)
    if len(found) < _ZOOMS:
        raise RuntimeError(f"only {len(found)} of {2 * _ZOOMS} zooms asked for curves")
    return found


def frames(page: Page, *, pan: bool, seconds: float = 4.0) -> float:
    """Frames a second while the pointer moves over the plot."""
    if pan:
        page.keyboard.down("Shift")
        page.mouse.move(400, 300)
        page.mouse.down()
    page.evaluate("window.watch.frames.length = 0")
    started, step = time.monotonic(), 0
    while time.monotonic() - started < seconds:
        step += 1
        page.mouse.move(400 + 300 * abs(np.sin(step / 40)), 300)
    drawn = page.evaluate("window.watch.frames")
    if pan:
        page.mouse.up()
        page.keyboard.up("Shift")
    return float((len(drawn) - 1) / (drawn[-1] - drawn[0]) * 1e3)


def memory(page: Page, minutes: float) -> list[float]:
    """MB of the page's heap after a collection, each minute of live drawing."""
    session = page.context.new_cdp_session(page)
    session.send("Performance.enable")
    found = []
    for _ in range(max(round(minutes), 1)):
        page.wait_for_timeout(60_000)
        session.send("HeapProfiler.collectGarbage")
        metrics: dict[str, Any] = session.send("Performance.getMetrics")
        used = next(one["value"] for one in metrics["metrics"] if one["name"] == "JSHeapUsedSize")
        found.append(used / 1e6)
        print(f"{found[-1]:.1f} MB", flush=True)
    return found


def save_sheet(application: Application) -> str:
    """A saved sheet of the eight pens over 24 h; its address."""
    view = f"tags={','.join(tag_uid(key) for key in PENS)}&last=P1D"
    made = application.send("POST", "/api/sheets", {"name": "Eight pens", "view": view})
    return f"{application.url}/trends?sheet={made['uid']}"


@dataclass(frozen=True)
class Measured:
    """Times in ms, frames a second, memory in MB."""

    first: list[float]
    again: list[float]
    zoomed: list[float]
    resting: float
    cursor: float
    panning: float
    heap: list[float]


@contextmanager
def at_work(browser: Browser, url: str) -> Iterator[Page]:
    """A page with its first curve drawn."""
    with opened(browser) as page:
        page.goto(url)
        page.wait_for_function("window.watch.first > 0", timeout=30_000)
        page.wait_for_timeout(1500)
        yield page


def measure(application: Application, minutes: float) -> Measured:
    """All of it in one browser."""
    sheet = save_sheet(application)
    plain = f"{application.url}/trends?tags={','.join(tag_uid(key) for key in PENS)}"
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=FLAGS)
        first, again = first_curves(browser, sheet), opened_again(browser, sheet)
        with at_work(browser, f"{plain}&last=P365D") as page:
            page.keyboard.press("l")
            page.wait_for_timeout(500)
            zoomed = zooms(page)
        with at_work(browser, f"{plain}&last=P1D") as page:
            page.keyboard.press("l")
            resting = frames(page, pan=False, seconds=0.5)
            cursor, panning = frames(page, pan=False), frames(page, pan=True)
        with at_work(browser, f"{plain}&last=PT10M") as page:
            page.wait_for_timeout(60_000)
            heap = memory(page, minutes)
        browser.close()
    return Measured(first, again, zoomed, resting, cursor, panning, heap)


def lines(found: Measured) -> list[str]:
    """The table for docs/benchmarks.md."""
    third = max(len(found.heap) // 3, 1)
    early, late = float(np.mean(found.heap[:third])), float(np.mean(found.heap[-third:]))
    rows = [
        ("a saved sheet with 8 pens over 24 h: first curve after navigation, median of 10 (slowest)", "1 s",
         f"{np.median(found.again):.0f} ms ({max(found.again):.0f})"),
        ("the same in a browser that was never there, its cache empty", "1 s",
         f"{np.median(found.first):.0f} ms ({max(found.first):.0f})"),
        (f"zoom from a year to a minute and back, {len(found.zoomed)} steps: picture complete, p95 (median)",
         "300 ms",
         f"{np.percentile(found.zoomed, 95):.0f} ms ({np.median(found.zoomed):.0f})"),
        ("frames a second while the cursor moves over 8 pens", "50", f"{found.cursor:.0f}"),
        ("frames a second while panning 8 pens over 24 h", "50", f"{found.panning:.0f}"),
        (f"memory of the page, live for {len(found.heap)} min: last third beside the first", "± 10 %",
         f"{late / early - 1:+.1%} ({early:.1f} to {late:.1f} MB)"),
    ]  # fmt: skip
    return [
        TITLE, "",
        "A year of 8 pens at 1 Hz; server and headless Chromium (no graphics card) on the same two cores; a",
        f"page at rest draws {found.resting:.0f} frames a second.", "",
        "| what | bar | measured |", "| --- | --- | --- |",
        *("| " + " | ".join(row) + " |" for row in rows), "",
    ]  # fmt: skip


def write_section(minutes: float) -> None:
    """Puts the measured section into docs/benchmarks.md, in place of an older one."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        server = PrivateServer(folder / "db")
        application = Application(server.start(), folder)
        end_us = time.time_ns() // 1000 // SECOND * SECOND
        fill(application, end_us)
        application.start()
        try:
            section = lines(measure(application, minutes))
        finally:
            application.stop()
            server.stop()
    print("\n".join(section), flush=True)
    page = Path("docs/benchmarks.md")
    before, _, after = page.read_text().partition(TITLE)
    rest = after[after.index("\n## ") :] if "\n## " in after else ""
    page.write_text(f"{before.rstrip()}\n\n" + "\n".join(section) + rest)


if __name__ == "__main__":
    write_section(float(sys.argv[1]) if len(sys.argv) > 1 else 60.0)
