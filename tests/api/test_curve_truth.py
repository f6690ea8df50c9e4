"""What is drawn is true: each pixel column of a pen covers the lowest and the highest sample that was
recorded in it, however the curve was read."""

from __future__ import annotations

import io
import json
from pathlib import Path

import numpy as np
import pyarrow as pa
from fastapi.testclient import TestClient
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.model import DAY, MINUTE, SECOND, Series, ValueType, Window
from cronaca.db import Store
from cronaca.history.jobs.pyramid import PyramidBuilder
from cronaca.history.write.bulk import backfill
from tests.support.builders import NOW, FixedClock, a_tag, plant_with
from tests.support.signed_in import app_of

ARROW = "application/vnd.apache.arrow.stream"
LENGTH = 9 * DAY
START = NOW - LENGTH


def spiky(step_us: int, seed: int) -> Series:
    """A walk with single samples far off, failures and a stretch without any sample."""
    chance = np.random.default_rng(seed)
    times = np.arange(START, NOW, step_us)
    times = times[(times < START + 4 * DAY) | (times > START + 4 * DAY + 90 * MINUTE)]
    values: NDArray[np.float64] = np.cumsum(chance.normal(0, 0.3, len(times)), dtype=np.float64).round(2)
    values[chance.integers(0, len(times), 60)] += 80.0 * chance.choice([-1, 1], 60)
    quality = np.zeros(len(times), np.uint16)
    quality[chance.integers(0, len(times), 200)] = q.BAD_SENSOR_FAILURE
    return Series.of(ValueType.FLOAT, times, values, quality)


class Drawn:
    """A server with one tag, and all that was recorded of it."""

    def __init__(self, store: Store, step_us: int) -> None:
        tag = a_tag("pressure")
        key = plant_with(store, [tag], START)["pressure"]
        self.raw = spiky(step_us, 7)
        backfill(store, {key: self.raw}, Window(START, NOW))
        PyramidBuilder(store, FixedClock(NOW + DAY)).build_some(120)
        self.uid = tag.uid
        self.client = TestClient(app_of(store, Path()))

    def curve(self, window: Window, width: int) -> tuple[Series, int]:
        """What the browser gets, and the width of the buckets that it came from (0: from samples)."""
        params: dict[str, str | int] = {
            "tag": self.uid, "start": window.start_us, "end": window.end_us, "width": width,
        }  # fmt: skip
        answer = self.client.get("/api/series/curves", params=params, headers={"accept": ARROW})
        stream = pa.ipc.open_stream(io.BytesIO(answer.content))
        (details,) = json.loads(stream.schema.metadata[b"cronaca"])["series"]
        table = stream.read_all()
        columns = [table.column(name).to_numpy() for name in ("t", "v", "q")]
        return Series(ValueType.FLOAT, *columns), int(details["bucket_us"])


def extremes(series: Series, window: Window, width: int) -> tuple[np.ndarray, np.ndarray]:
    """Lowest and highest usable value of each pixel column; NaN where there is none."""
    usable = ~q.is_bad(series.quality) & ~np.isnan(series.values)
    usable &= (series.ts_us >= window.start_us) & (series.ts_us < window.end_us)
    columns = (series.ts_us[usable] - window.start_us) * width // window.length_us
    low, high = np.full(width, np.inf), np.full(width, -np.inf)
    np.minimum.at(low, columns, series.values[usable])
    np.maximum.at(high, columns, series.values[usable])
    return low, high


def spread(low: np.ndarray, high: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The same of each column with its two neighbours."""
    padded_low, padded_high = np.pad(low, 1, constant_values=np.inf), np.pad(high, 1, constant_values=-np.inf)
    triples = [slice(0, -2), slice(1, -1), slice(2, None)]
    return (
        np.minimum.reduce([padded_low[one] for one in triples]),
        np.maximum.reduce([padded_high[one] for one in triples]),
    )


def test_each_pixel_column_covers_the_lowest_and_the_highest_sample(store: Store) -> None:
    drawn = Drawn(store, 2 * SECOND)
    chance = np.random.default_rng(2)
    paths = {"samples": 0, "rollups": 0}
    for _ in range(40):
        length = int(np.exp(chance.uniform(np.log(MINUTE), np.log(1.2 * LENGTH))))
        length = int(chance.choice([length, LENGTH * chance.uniform(0.3, 1.2)]))  # half of them long
        start = int(chance.integers(START - DAY, NOW - MINUTE))
        window, width = Window(start, start + length), int(np.exp(chance.uniform(np.log(10), np.log(2000))))
        curve, bucket_us = drawn.curve(window, width)
        told, truth = extremes(curve, window, width), extremes(drawn.raw, window, width)
        assert np.isin(curve.ts_us[~np.isnan(curve.values)], drawn.raw.ts_us).all(), "only real samples"
        if bucket_us:
            # Columns snap to the edges of buckets, which are no wider than a pixel: an extreme may be drawn
            # at the near edge of the next pixel, where it truly lies in time.
            assert bucket_us <= length / width
            told = spread(*told)
        paths["rollups" if bucket_us else "samples"] += 1
        assert (told[0] <= truth[0]).all(), (window, width, bucket_us)
        assert (told[1] >= truth[1]).all(), (window, width, bucket_us)
    assert min(paths.values()) > 5, paths
