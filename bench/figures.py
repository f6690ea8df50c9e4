"""Hourly time-weighted means of a month at 1 Hz: from samples, from rollups, beside DuckDB and pandas."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

import numpy as np
import pandas as pd
from tests.support.builders import a_tag

from bench.plain import Duck
from cronaca.core.aggregates import Samples, by_duration, process
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import DAY, HOUR, SECOND, Series, Window
from cronaca.db import Store
from cronaca.history.read.figures import FigureReader, Wanted
from cronaca.history.read.series import SeriesReader

MONTH: Final = 30 * DAY
COUNT: Final = MONTH // SECOND
NAME: Final = "TimeAverage2"


@dataclass(frozen=True)
class Speeds:
    """Seconds for a month's hourly means; all ways give the same means."""

    core: float
    raw: float
    rollup: float
    duck: float
    pandas: float


def measure(store: Store, key: HistoryKey, start_us: int, duck: Duck) -> Speeds:
    """One tag's month. `core` has the samples in memory already, as pandas has."""
    where = by_duration(start_us, start_us + MONTH, HOUR)
    tag = a_tag("pen", tag_id=key.tag_id)
    held = _read(store, tag_wanted := Wanted(tag, None, where, exact=True))
    series = held.series

    def from_store(wanted: Wanted) -> np.ndarray:
        return process(NAME, _read(store, wanted), where).values

    raw = from_store(tag_wanted)
    summed = from_store(Wanted(tag, None, where))
    table = _by_pandas(series, start_us)
    inner = slice(0, len(table))
    np.testing.assert_allclose(raw, summed, rtol=1e-12)
    # The plain queries leave out the joint between two hours: a second of 3,600.
    np.testing.assert_allclose(raw[inner], table, rtol=2e-3)
    window = Window(start_us, start_us + MONTH)
    return Speeds(
        _best(lambda: process(NAME, held, where)), _best(lambda: from_store(tag_wanted)),
        _best(lambda: from_store(Wanted(tag, None, where))),
        _best(lambda: duck.hours(key.tag_id, window)), _best(lambda: _by_pandas(series, start_us)),
    )  # fmt: skip


def _read(store: Store, wanted: Wanted) -> Samples:
    """By readers that keep nothing from one run to the next."""
    (found,) = FigureReader(store, SeriesReader(store)).read_each([wanted])
    return found.samples


def _by_pandas(series: Series, start_us: int) -> np.ndarray:
    """The same means as a pandas user writes them, without the joints at the hours' edges."""
    inside = (series.ts_us >= start_us) & (series.ts_us < start_us + MONTH)
    frame = pd.DataFrame({"ts": series.ts_us[inside], "v": series.values[inside]})
    hour = frame["ts"] // HOUR
    same = hour == hour.shift(-1)
    length = (frame["ts"].shift(-1) - frame["ts"]).where(same)
    middle = (frame["v"] + frame["v"].shift(-1)) / 2
    sums = pd.DataFrame({"area": middle * length, "length": length}).groupby(hour).sum()
    return (sums["area"] / sums["length"]).to_numpy()


def _best(work: Callable[[], object], runs: int = 5) -> float:
    found = []
    for _ in range(runs):
        start = time.perf_counter()
        work()
        found.append(time.perf_counter() - start)
    return min(found)


def lines(speeds: Speeds) -> list[str]:
    """The table for docs/benchmarks.md."""
    rows = [
        ("samples in memory", speeds.core, ""),
        ("read and computed from samples", speeds.raw, "20 M samples/s"),
        ("read and computed from rollups", speeds.rollup, "50 ms"),
        ("DuckDB, from its file", speeds.duck, ""),
        ("pandas, samples in memory", speeds.pandas, ""),
    ]  # fmt: skip
    return [
        "## Figures: hourly time-weighted means of a month at 1 Hz (2.6 million samples)",
        "",
        "| way | bar | time | samples/s | ours from samples is as quick |",
        "| --- | --- | --- | --- | --- |",
        *(f"| {name} | {bar} | {s * 1e3:.1f} ms | {COUNT / s / 1e6:.1f} M | {s / speeds.raw:.2f} times |"
          for name, s, bar in rows),
        "",
    ]  # fmt: skip
