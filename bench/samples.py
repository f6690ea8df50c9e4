"""Pages of a table of 100 million samples, beside DuckDB with the same: `python -m bench.samples`
writes the section of docs/benchmarks.md."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

import numpy as np
from tests.support.builders import a_tag, plant_with

from bench.data import START, p95, wave
from bench.load import write
from bench.plain import Duck
from cronaca.core.model import SECOND, Tag, Window
from cronaca.core.samples import ValueCondition
from cronaca.db import Store
from cronaca.db.migrate import migrate
from cronaca.db.private_server import PrivateServer
from cronaca.history.read.series import SeriesReader
from cronaca.history.write.bulk import backfill
from cronaca.plant.tags import list_tags
from cronaca.services.sample_tables import Layout, PageSpec, SampleTables, Selection

TITLE = "## Tables of samples"
TAGS = 4
COUNT = 25_000_000
PAGES = 100
PAGE = 200


def measure_pages(store: Store, folder: Path) -> list[str]:
    """The section: pages as one scrolls, at places far apart, one column per tag, and of what matches."""
    keys = plant_with(store, [a_tag(f"pen {i}") for i in range(TAGS)], START)
    window = Window(START, START + COUNT * SECOND)
    duck = Duck(folder / "samples.db")
    for i, key in enumerate(keys.values()):
        series = wave(COUNT, i)
        for first in range(0, COUNT, 5_000_000):
            backfill(store, {key: series.take(slice(first, first + 5_000_000))}, window)
        duck.write(key.tag_id, series)
        print(f"{key.tag_id}: {COUNT:,} samples", flush=True)
    with store.snapshot() as tx:
        tags = tuple(list_tags(tx))
    places = np.random.default_rng(1).integers(START + SECOND, window.end_us, PAGES).tolist()
    rare = ValueCondition.parse("> 76.6")
    rows = [
        ("the next page, as one scrolls", _scrolled(store, tags, window, Layout.SAMPLE), None),
        ("the same, one column per tag", _scrolled(store, tags, window, Layout.TIME), None),
        ("a page somewhere", _somewhere(store, tags, places), _of_duck(duck, places)),
        ("a page somewhere of a rare value", _somewhere(store, tags, places, rare), None),
    ]
    lines = [
        f"{TAGS} tags with {TAGS * COUNT // 1_000_000} million samples, pages of {PAGE} rows, "
        f"p95 of {PAGES}; somewhere: by a reader that keeps nothing. A page of what matches looks through at "
        "most 2 million samples, the next one goes on from there.",
        "",
        "| what | bar | ours | DuckDB, from its file |",
        "| --- | --- | --- | --- |",
    ]
    for name, ours, other in rows:
        beside = "" if other is None else f"{1000 * other:.0f} ms ({other / ours:.1f} times)"
        bar = "150 ms" if "rare" not in name else ""
        lines.append(f"| {name} | {bar} | {1000 * ours:.1f} ms | {beside} |")
    return lines


def _scrolled(store: Store, tags: tuple[Tag, ...], window: Window, layout: Layout) -> float:
    tables = SampleTables(store, SeriesReader(store))
    end_us, found = window.end_us, []
    for _ in range(PAGES):
        start = time.perf_counter()
        page = tables.page(Selection(tags, Window(window.start_us, end_us)), PageSpec(layout))
        found.append(time.perf_counter() - start)
        assert page.next_end_us is not None and len(page.rows) >= PAGE
        end_us = page.next_end_us
    return p95(found)


def _somewhere(
    store: Store, tags: tuple[Tag, ...], places: list[int], condition: ValueCondition | None = None
) -> float:
    found = []
    for end_us in places:
        tables = SampleTables(store, SeriesReader(store))
        start = time.perf_counter()
        tables.page(Selection(tags, Window(START, end_us), condition), PageSpec())
        found.append(time.perf_counter() - start)
    return p95(found)


def _of_duck(duck: Duck, places: list[int]) -> float:
    found = []
    for end_us in places[:10]:
        start = time.perf_counter()
        duck.before(end_us)
        found.append(time.perf_counter() - start)
    return p95(found)


def main() -> None:
    """Measures, and writes the section of docs/benchmarks.md."""
    with tempfile.TemporaryDirectory() as name:
        server = PrivateServer(Path(name) / "db")
        store = Store(server.start(), timeout_s=300)
        try:
            migrate(store)
            lines = measure_pages(store, Path(name))
        finally:
            store.close()
            server.stop()
    write([TITLE, "", *lines])


if __name__ == "__main__":
    main()
