"""What the store costs and how quick it reads, beside a row-per-sample table in the same MariaDB."""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from cronaca.core.codec import decode_segment, encode_segment
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import SECOND, Series, ValueType, Window
from cronaca.core.trends import reduce_m4
from cronaca.store import Store, setup
from cronaca.store.backfill import backfill
from cronaca.store.migrate import migrate
from cronaca.store.private_server import PrivateServer
from cronaca.store.series import SeriesReader

SAMPLES = 1_000_000
ROWS = "CREATE TABLE bench_row (ts_us BIGINT PRIMARY KEY, value DOUBLE, quality SMALLINT UNSIGNED)"
INSERT = "INSERT INTO bench_row (ts_us, value, quality) VALUES (%s, %s, %s)"
SELECT = "SELECT ts_us, value, quality FROM bench_row WHERE ts_us >= %(a)s AND ts_us < %(b)s ORDER BY ts_us"
BYTES = """
SELECT SUM(data_length) FROM information_schema.tables
WHERE table_schema = DATABASE() AND table_name = %(name)s
"""


def timed(work: Callable[[], object], runs: int = 5) -> float:
    """Median seconds of some runs after a warm-up."""
    work()
    found = []
    for _ in range(runs):
        start = time.perf_counter()
        work()
        found.append(time.perf_counter() - start)
    return statistics.median(found)


def demo_like() -> Series:
    """One decimal, slow wander and noise, as the demo's transmitters give."""
    rng = np.random.default_rng(1)
    values = 71.5 + np.cumsum(rng.normal(0, 0.004, SAMPLES)) + rng.normal(0, 0.05, SAMPLES)
    times = 1_790_000_000 * SECOND + np.arange(SAMPLES) * SECOND
    return Series.of(ValueType.FLOAT, times, np.round(values, 1))


def noise() -> Series:
    """Full 64-bit noise: nothing can compress it."""
    plain = demo_like()
    values = np.random.default_rng(2).random(SAMPLES)
    return Series.of(ValueType.FLOAT, plain.ts_us, values)


def measure_codec(series: Series) -> tuple[float, float, float]:
    """Bytes a sample, samples/s encoded, samples/s decoded, one core."""
    pieces = [series.take(slice(i, i + 16_384)) for i in range(0, len(series), 16_384)]
    encoded = [encode_segment(piece) for piece in pieces]
    write = timed(lambda: [encode_segment(piece) for piece in pieces])
    read = timed(lambda: [decode_segment(data) for data in encoded])
    return sum(map(len, encoded)) / len(series), len(series) / write, len(series) / read


def measure_store(store: Store, series: Series, key: HistoryKey) -> dict[str, tuple[float, float]]:
    """Ours and the row table: seconds to write, bytes a sample, seconds to read all."""
    window = Window(int(series.ts_us[0]), int(series.ts_us[-1]) + SECOND)
    start = time.perf_counter()
    backfill(store, {key: series}, window)
    ours_write = time.perf_counter() - start
    rows = list(zip(series.ts_us.tolist(), series.values.tolist(), series.quality.tolist(), strict=True))
    start = time.perf_counter()
    with store.transaction() as tx:
        tx.execute(ROWS)
        for i in range(0, len(rows), 20_000):
            tx.execute_many(INSERT, rows[i : i + 20_000])
    rows_write = time.perf_counter() - start
    reader = SeriesReader(store)

    def read_ours() -> None:
        (answer,) = reader.read_many([key.tag_id], window)
        reduce_m4(answer.series, window, 1000)

    def read_rows() -> None:
        with store.snapshot() as tx:
            found = np.array(tx.fetch(SELECT, a=window.start_us, b=window.end_us))
        columns = Series.of(ValueType.FLOAT, found[:, 0].astype(np.int64), found[:, 1])
        reduce_m4(columns, window, 1000)

    with store.transaction() as tx:
        tx.fetch("ANALYZE TABLE segment, bench_row")
        sizes = [float(tx.fetch(BYTES, name=name)[0][0]) / SAMPLES for name in ("segment", "bench_row")]
    return {
        "write, s": (ours_write, rows_write),
        "bytes a sample on disk": (sizes[0], sizes[1]),
        "read all and reduce to 1000 columns, s": (timed(read_ours), timed(read_rows, 1)),
    }


def main() -> None:
    lines = [
        "# Benchmarks",
        "",
        f"Written by `make bench`: {SAMPLES:,} samples of one tag at 1 Hz, medians, one run, one process.",
        "Machines differ and are shared: read the ratios, not the seconds.",
        "",
        "## Segment codec, one core",
        "",
        "| data | bytes a sample | encoded, million/s | decoded, million/s |",
        "| --- | --- | --- | --- |",
    ]
    for name, series in (("one decimal, wander and noise", demo_like()), ("64-bit noise", noise())):
        size, write, read = measure_codec(series)
        lines.append(f"| {name} | {size:.2f} | {write / 1e6:.1f} | {read / 1e6:.1f} |")
    with tempfile.TemporaryDirectory() as folder:
        server = PrivateServer(Path(folder))
        store = Store(server.start(), timeout_s=120)
        migrate(store)
        with store.transaction() as tx:
            tx.execute("INSERT INTO history VALUES (1, 1, 1, 1, '°C', 0)")
            assert setup.find_history(tx, 1, None) is not None
        found = measure_store(store, demo_like(), HistoryKey(1, 1, 1))
        store.close()
        server.stop()
    lines += [
        "",
        "## Store, beside a row per sample in the same MariaDB",
        "",
        "| | segments | rows | ratio |",
        "| --- | --- | --- | --- |",
    ]
    lines += [f"| {name} | {a:.3g} | {b:.3g} | {b / a:.0f} |" for name, (a, b) in found.items()]
    Path("docs/benchmarks.md").write_text("\n".join(lines) + "\n")
    print("\n".join(lines))


main()
