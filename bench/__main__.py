"""The numbers to hold, measured beside the alternatives in one run; written to docs/benchmarks.md."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

import numpy as np
from tests.support.builders import FixedClock, a_tag, plant_with

from bench import outputs_codec
from bench.data import START, noise, p95, timed, times, wave
from bench.figures import COUNT, NAME, Speeds, measure
from bench.figures import lines as figure_lines
from bench.live import measure_live, measure_recorder
from bench.plain import Duck, RowTable
from bench.rules import write_section
from cronaca.core.aggregates import Samples, by_duration, process
from cronaca.core.codec import decode_segment, encode_segment
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import DAY, HOUR, MINUTE, SECOND, Series, ValueType, Window
from cronaca.core.trends import reduce_m4
from cronaca.db import Store
from cronaca.db.migrate import migrate
from cronaca.db.private_server import PrivateServer
from cronaca.demo.history import write_history
from cronaca.demo.seed import seed
from cronaca.history.jobs.pyramid import PyramidBuilder
from cronaca.history.jobs.sizes import list_sizes, size_on_disk
from cronaca.history.read.curves import CurveReader
from cronaca.history.read.series import SeriesReader
from cronaca.history.write.bulk import backfill
from cronaca.plant import histories
from cronaca.plant.tags import insert_tag, list_tags
from cronaca.services.history_files import ImportOptions, import_history

YEAR = 365 * DAY
PENS = 8
WIDTH = 2000
ROW_SAMPLES = 1_000_000


def codec_table() -> list[str]:
    lines = [
        "## Segment codec, one core",
        "",
        "| data | bytes a sample | encoded, million/s | decoded, million/s |",
        "| --- | --- | --- | --- |",
    ]
    for name, series in (("the demo's kind", wave(1_000_000, 1)), ("64-bit noise", noise(1_000_000, 1))):
        pieces = [series.take(slice(i, i + 16_384)) for i in range(0, len(series), 16_384)]
        encoded = [encode_segment(piece) for piece in pieces]
        write = timed(lambda p=pieces: [encode_segment(piece) for piece in p])
        read = timed(lambda e=encoded: [decode_segment(data) for data in e])
        size = sum(map(len, encoded)) / len(series)
        lines.append(
            f"| {name} | {size:.2f} | {len(series) / write / 1e6:.1f} | {len(series) / read / 1e6:.1f} |"
        )
    return lines


class Bench:
    """One database with a year of eight tags, a row table and a DuckDB file with the same."""

    def __init__(self, folder: Path, store: Store) -> None:
        self.store, self.folder = store, folder
        names = [f"pen {i}" for i in range(PENS)]
        self.keys = [plant_with(store, [a_tag(n) for n in names], START)[n] for n in names[:1]]
        with store.snapshot() as tx:
            rows = tx.fetch("SELECT archive_id, tag_id, version FROM history ORDER BY tag_id")
        self.keys = [HistoryKey(*row) for row in rows]
        self.rows, self.duck = RowTable(store), Duck(folder / "duck.db")
        self.seconds: dict[str, float] = {"ours": 0.0, "duck": 0.0, "pyramid": 0.0}
        self.samples = 0

    def fill(self) -> None:
        count = YEAR // SECOND
        for i, key in enumerate(self.keys):
            series = wave(count, i)
            start = time.perf_counter()
            for first in range(0, count, 4_000_000):
                part = series.take(slice(first, first + 4_000_000))
                backfill(self.store, {key: part}, Window(START, START + YEAR))
            self.seconds["ours"] += time.perf_counter() - start
            self.seconds["duck"] += self.duck.write(key.tag_id, series)
            self.samples += count
            print(f"pen {i}: {count:,} samples", flush=True)
            if i == 0:
                self.seconds["rows"] = self.rows.write(key.tag_id, series.take(slice(0, ROW_SAMPLES)))
        start = time.perf_counter()
        PyramidBuilder(self.store, FixedClock(START + YEAR)).build_some(3600)
        self.seconds["pyramid"] = time.perf_counter() - start

    def year(self) -> tuple[float, float, float]:
        """Ours by readers that keep nothing, by one that keeps decoded rollups as a server does, and
        DuckDB."""
        ids, window = [key.tag_id for key in self.keys], Window(START, START + YEAR)
        found = []
        for i in range(20):
            # A reader that keeps nothing, and a window that is never the same: the harder case.
            reader = CurveReader(self.store, SeriesReader(self.store))
            moved = Window(window.start_us + i * HOUR + 1, window.end_us - i * MINUTE - 1)
            start = time.perf_counter()
            reader.read_many(ids, moved, WIDTH)
            found.append(time.perf_counter() - start)
        kept = CurveReader(self.store, SeriesReader(self.store))
        again = []
        for i in range(21):
            moved = Window(window.start_us + i * HOUR + 1, window.end_us - i * MINUTE - 1)
            start = time.perf_counter()
            kept.read_many(ids, moved, WIDTH)
            again.append(time.perf_counter() - start)
        duck = times(lambda: [self.duck.curve(tag_id, window, WIDTH) for tag_id in ids], 2)
        return p95(found), p95(again[1:]), p95(duck)

    def ten_minutes(self) -> tuple[float, float, float]:
        ids, end = [key.tag_id for key in self.keys], START + YEAR
        reader = CurveReader(self.store, SeriesReader(self.store))
        window = Window(end - 10 * MINUTE, end)
        ours = times(lambda: reader.read_many(ids, window, WIDTH), 50)
        duck = times(lambda: [self.duck.curve(tag_id, window, WIDTH) for tag_id in ids], 20)
        near = Window(START + HOUR, START + HOUR + 10 * MINUTE)
        rows = times(lambda: [self.rows.curve(self.keys[0].tag_id, near, WIDTH) for _ in ids], 20)
        return p95(ours), p95(duck), p95(rows)

    def month_of_hours(self) -> tuple[Speeds, float]:
        """Exact time-weighted hourly means; and samples a second of the row table."""
        window = Window(START, START + ROW_SAMPLES * SECOND)
        where = by_duration(window.start_us, window.end_us, HOUR)

        def rows() -> None:
            process(NAME, Samples(self.rows.read(self.keys[0].tag_id, window)), where)

        return measure(self.store, self.keys[1], START, self.duck), ROW_SAMPLES / timed(rows, 1)

    def whole_of_a_million(self) -> tuple[float, float, float]:
        key, window = self.keys[0], Window(START, START + ROW_SAMPLES * SECOND)

        def ours() -> None:
            (answer,) = SeriesReader(self.store).read_keys([key], window)
            reduce_m4(answer.series, window, WIDTH)

        duck = timed(lambda: self.duck.curve(key.tag_id, window, WIDTH), 3)
        return timed(ours, 3), duck, timed(lambda: self.rows.curve(key.tag_id, window, WIDTH), 1)

    def sizes(self) -> tuple[float, float, float]:
        with self.store.transaction() as tx:
            tx.fetch("ANALYZE TABLE segment, rollup, summary_hour, summary_day, history_month")
            ours = size_on_disk(tx)
        return ours / self.samples, self.duck.bytes() / self.samples, self.rows.bytes() / ROW_SAMPLES


def growth(store: Store) -> list[str]:
    """One tag with more and more samples at 10 Hz: the whole window as a curve, and bytes."""
    lines = [
        "",
        "## Growth: one tag, the whole window as a curve of 2,000 columns",
        "",
        "| samples | curve, ms | last 10 min, ms | bytes a sample (segments and rollups) |",
        "| --- | --- | --- | --- |",
    ]
    for count in (1_000_000, 10_000_000, 100_000_000):
        (key,) = _one_more_tag(store, f"growth {count}")
        end = START + count * SECOND // 10
        for first in range(0, count, 4_000_000):
            part = wave(min(4_000_000, count - first), 1)
            times_us = START + (first + np.arange(len(part), dtype=np.int64)) * (SECOND // 10)
            series = Series(ValueType.FLOAT, times_us, part.values, part.quality)
            backfill(store, {key: series}, Window(START, end))
        PyramidBuilder(store, FixedClock(end // DAY * DAY + DAY)).build_some(3600)
        reader = CurveReader(store, SeriesReader(store))
        whole = timed(lambda r=reader, k=key, e=end: r.read_many([k.tag_id], Window(START, e), WIDTH))
        last = timed(
            lambda r=reader, k=key, e=end: r.read_many([k.tag_id], Window(e - 10 * MINUTE, e), WIDTH)
        )
        with store.snapshot() as tx:
            size = next(s for s in list_sizes(tx) if s.tag == f"growth {count}")
        lines.append(f"| {count:,} | {whole * 1e3:.0f} | {last * 1e3:.1f} | {size.bytes_per_sample:.2f} |")
        print(lines[-1], flush=True)
    return lines


def _one_more_tag(store: Store, name: str) -> list[HistoryKey]:

    with store.transaction() as tx:
        number = insert_tag(tx, a_tag(name))
        tag = next(t for t in list_tags(tx) if t.tag_id == number)
        return [histories.open_history(tx, 1, tag, START).key]


def demo_bytes(folder: Path) -> float:
    """Bytes a sample of two days of the demo's four lines, with rollups, rows and indexes."""
    server = PrivateServer(folder / "demo")
    store = Store(server.start(), timeout_s=120)
    migrate(store)
    now = START + YEAR
    seed(store, 5020, now, 4)
    write_history(store, lambda: now, lambda _: None, length_us=2 * DAY)
    PyramidBuilder(store, FixedClock(now)).build_some(600)
    with store.transaction() as tx:
        tx.fetch("ANALYZE TABLE segment, rollup, summary_hour, summary_day, history_month")
        samples = sum(size.samples for size in list_sizes(tx))
        size = size_on_disk(tx)
    store.close()
    server.stop()
    return size / samples


def csv_speed(bench: Bench) -> float:
    """Samples a second of a CSV import of five million lines."""
    path = bench.folder / "in.csv"
    count = 5_000_000 // PENS
    times_us = np.datetime_as_string((START - 90 * DAY + np.arange(count) * SECOND).astype("datetime64[us]"))
    values = [wave(count, i).values.tolist() for i in range(PENS)]
    with path.open("w") as out:
        out.write("time,tag,value,quality\n")
        for i, at in enumerate(times_us.tolist()):
            out.write("".join(f"{at}Z,pen {pen},{column[i]},Good\n" for pen, column in enumerate(values)))
    start = time.perf_counter()
    done = import_history(bench.store, ImportOptions(path), "bench", START, lambda _, __: None)
    return done.samples / (time.perf_counter() - start)


def main() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        server = PrivateServer(folder / "db")
        store = Store(server.start(), timeout_s=300)
        migrate(store)
        bench = Bench(folder, store)
        bench.fill()
        lines = report(bench)
        _write(lines)
        lines += growth(store)
        store.close()
        server.stop()
    _write(lines)


def _write(lines: list[str]) -> None:
    Path("docs/benchmarks.md").write_text("\n".join(lines) + "\n")
    write_section(120.0)
    print("\n".join(lines), flush=True)


def report(bench: Bench) -> list[str]:
    year, year_again, duck_year = bench.year()
    live, duck_live, rows_live = bench.ten_minutes()
    speeds, rows_hours = bench.month_of_hours()
    hours, duck_hours = COUNT / speeds.raw, COUNT / speeds.duck
    whole, duck_whole, rows_whole = bench.whole_of_a_million()
    size, duck_size, row_size = bench.sizes()
    write = bench.samples / bench.seconds["ours"]
    duck_write, rows_write = bench.samples / bench.seconds["duck"], ROW_SAMPLES / bench.seconds["rows"]
    speed = csv_speed(bench)
    core, late = measure_recorder(bench.folder)
    screen = measure_live(bench.folder)
    demo = demo_bytes(bench.folder)
    table = [
        ("8 pens, a year at 1 Hz (252 million samples), 2,000 px, p95", "150 ms", f"{year * 1e3:.0f} ms",
         f"{duck_year * 1e3:.0f} ms ({duck_year / year:.0f} times)", "not tried: 252 million rows"),
        ("the same, moved by an hour each time, in a server that has drawn the year before", "150 ms",
         f"{year_again * 1e3:.0f} ms", f"({duck_year / year_again:.0f} times)", ""),
        ("8 pens, the last 10 minutes, p95", "20 ms", f"{live * 1e3:.1f} ms",
         f"{duck_live * 1e3:.1f} ms ({duck_live / live:.1f})",
         f"{rows_live * 1e3:.1f} ms ({rows_live / live:.1f})"),
        ("exact time-weighted hourly means over a month, raw", "20 M samples/s", f"{hours / 1e6:.1f} M/s",
         f"{duck_hours / 1e6:.1f} M/s ({hours / duck_hours:.1f})",
         f"{rows_hours / 1e6:.2f} M/s ({hours / rows_hours:.0f})"),
        ("storage, with rollups, rows for reports and indexes", "0.6 B/sample (demo)",
         f"demo {demo:.2f}, this data {size:.2f}", f"{duck_size:.2f} ({duck_size / size:.1f})",
         f"{row_size:.1f} ({row_size / size:.0f})"),
        ("backfill through the store's door", "5 M samples/s", f"{write / 1e6:.1f} M/s",
         f"{duck_write / 1e6:.1f} M/s ({write / duck_write:.1f})",
         f"{rows_write / 1e6:.2f} M/s ({write / rows_write:.0f})"),
        ("CSV import, 5 million lines", "1 M samples/s", f"{speed / 1e6:.2f} M/s", "", ""),
        ("live recording, 10,000 tags at 1 Hz, logger rules applied", "0.6 of a core, no late scan",
         f"{core:.2f} of a core, {late} late scans", "", ""),
        ("from a changed value at the device to the live message, p95 (scan interval 0.2 s included)", "1 s",
         f"{screen:.2f} s", "", ""),
        ("a million samples read and reduced, nothing pre-computed", "", f"{whole * 1e3:.0f} ms",
         f"{duck_whole * 1e3:.0f} ms ({duck_whole / whole:.1f})",
         f"{rows_whole * 1e3:.0f} ms ({rows_whole / whole:.0f})"),
    ]  # fmt: skip
    return [
        "# Benchmarks",
        "",
        "Written by `make bench`, one run, two cores shared with others: read the ratios (in brackets: how",
        "many times ours), not the seconds. DuckDB keeps the same samples in a file and reduces in its SQL;",
        f"the row table is one row per sample in the same MariaDB, with {ROW_SAMPLES:,} rows. Readers of the",
        "year keep nothing between runs; the pyramid of the 252 million samples took",
        f"{bench.seconds['pyramid']:.0f} s to build.",
        "",
        "## Numbers to hold",
        "",
        "| what | bar | ours | DuckDB | a row per sample |",
        "| --- | --- | --- | --- | --- |",
        *("| " + " | ".join(row) + " |" for row in table),
        "",
        *figure_lines(speeds),
        *codec_table(),
        "",
        *outputs_codec.lines(),
    ]


main()
