"""10,000 tags with live values in a browser, beside an empty page: `python -m bench.tag_table`."""

from __future__ import annotations

import json
import statistics
import tempfile
import time
from pathlib import Path
from typing import Final

from playwright.sync_api import Page, sync_playwright
from tests.browser.conftest import FLAGS
from tests.support.application import Application

from bench.load import write
from cronaca.core.setup import SourceSpec, TagSpec
from cronaca.db.private_server import PrivateServer
from cronaca.db.transaction import Transaction
from cronaca.plant import sources, tag_changes
from cronaca.plant.changes import By

TITLE: Final = "## The list of tags in the browser"
TAGS: Final = 10_000
RUNS: Final = 5
# A step of a wheel in every frame, down the list for four seconds; how many frames a second there were.
_SCROLL: Final = """
async () => {
  const table = document.querySelector('table[aria-label=Tags]');
  const place = table === null ? document.body : table.parentElement;
  const from = performance.now();
  let frames = 0;
  while (performance.now() - from < 4000) {
    await new Promise(requestAnimationFrame);
    place.scrollTop += 100;
    frames += 1;
  }
  return frames / ((performance.now() - from) / 1000);
}
"""


def fill(application: Application) -> None:
    """Generated signals that are read every second."""
    by = By("bench", time.time_ns() // 1000)

    def work(tx: Transaction) -> None:
        uid = sources.add_source(tx, SourceSpec("Generator", "generator"), by)
        place = json.dumps({"shape": "sine"})
        tags = [TagSpec(f"Signal {i:05d}", uid, place, unit="bar") for i in range(TAGS)]
        tag_changes.add_tags(tx, tags, by)

    application.store.run(work)


# When a picture with the rows begins, by the page's own clock: asking from outside takes its time too.
_WATCH: Final = """
const look = () => {
  if (document.querySelectorAll('table[aria-label=Tags] tbody tr').length > 10) {
    requestAnimationFrame(() => (window.firstRowsMs = performance.now()));
  } else requestAnimationFrame(look);
};
requestAnimationFrame(look);
"""


def first_rows(page: Page, url: str) -> float:
    """ms from the opening of the page, in a browser that knows its files, to the first rows."""
    page.goto(f"{url}/setup/tags")
    page.locator("table[aria-label=Tags] tbody tr").nth(10).wait_for()
    page.evaluate("new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done)))")
    return float(page.evaluate("window.firstRowsMs"))


def measure(application: Application) -> list[str]:
    """The section."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.add_init_script(_WATCH)
        first_rows(page, application.url)
        opened = [first_rows(page, application.url) for _ in range(RUNS)]
        page.get_by_role("cell", name="now").first.wait_for()
        empty = browser.new_page(viewport={"width": 1280, "height": 800})
        empty.set_content("<div style='height:400000px'></div>")
        scrolled, plain = [], []
        for _ in range(RUNS):
            empty.bring_to_front()
            plain.append(float(empty.evaluate(_SCROLL)))
            page.bring_to_front()
            scrolled.append(float(page.evaluate(_SCROLL)))
        browser.close()
    ours, rest = statistics.median(scrolled), statistics.median(plain)
    return [
        TITLE, "",
        f"{TAGS:,} tags of generated signals, read every second and followed live; recorder, server and",
        "headless Chromium (no graphics card) on the same two cores. Medians of five.", "",
        "| what | bar | measured | an empty page |", "| --- | --- | --- | --- |",
        f"| frames a second while it scrolls, a step in each | 50 | {ours:.0f} | {rest:.0f} "
        f"({ours / rest:.2f} times) |",
        f"| from opening the page to its first rows | 1 s | {statistics.median(opened):.0f} ms |  |",
    ]  # fmt: skip


def main() -> None:
    """Measures, and writes the section of docs/benchmarks.md."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        server = PrivateServer(folder / "db")
        application = Application(server.start(), folder)
        fill(application)
        application.start()
        try:
            section = measure(application)
        finally:
            application.stop()
            server.stop()
    print("\n".join(section), flush=True)
    write(section)


if __name__ == "__main__":
    main()
