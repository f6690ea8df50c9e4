"""The alternatives, on the same data in the same run: a row per sample in the same MariaDB, and DuckDB."""

from __future__ import annotations

import time
from pathlib import Path

import duckdb
import numpy as np
import pyarrow as pa

from cronaca.core.model import Series, ValueType, Window
from cronaca.core.trends import reduce_m4
from cronaca.db import Store

ROWS = """
CREATE TABLE bench_row (tag_id INT, ts_us BIGINT, value DOUBLE, quality SMALLINT UNSIGNED,
    PRIMARY KEY (tag_id, ts_us))
"""
INSERT = "INSERT INTO bench_row (tag_id, ts_us, value, quality) VALUES (%s, %s, %s, %s)"
SELECT = """
SELECT ts_us, value, quality FROM bench_row
WHERE tag_id = %(tag_id)s AND ts_us >= %(a)s AND ts_us < %(b)s ORDER BY ts_us
"""
BYTES = """
SELECT SUM(data_length + index_length) FROM information_schema.tables
WHERE table_schema = DATABASE() AND table_name = 'bench_row'
"""


class RowTable:
    """One row per sample, inserted 20,000 at once."""

    def __init__(self, store: Store) -> None:
        self.store = store
        with store.transaction() as tx:
            tx.execute(ROWS)

    def write(self, tag_id: int, series: Series) -> float:
        """Seconds."""
        columns = (series.ts_us.tolist(), series.values.tolist(), series.quality.tolist())
        rows = [(tag_id, *row) for row in zip(*columns, strict=True)]
        start = time.perf_counter()
        for i in range(0, len(rows), 20_000):
            with self.store.transaction() as tx:
                tx.execute_many(INSERT, rows[i : i + 20_000])
        return time.perf_counter() - start

    def read(self, tag_id: int, window: Window) -> Series:
        with self.store.snapshot() as tx:
            found = tx.fetch(SELECT, tag_id=tag_id, a=window.start_us, b=window.end_us)
        columns = np.array(found)
        return Series.of(ValueType.FLOAT, columns[:, 0].astype(np.int64), columns[:, 1])

    def curve(self, tag_id: int, window: Window, width: int) -> Series:
        return reduce_m4(self.read(tag_id, window), window, width)

    def bytes(self) -> int:
        with self.store.transaction() as tx:
            tx.fetch("ANALYZE TABLE bench_row")
            return int(tx.fetch(BYTES)[0][0])


class Duck:
    """DuckDB in a file, sorted by tag and time; the reduction in its own SQL."""

    M4 = """
    SELECT min(ts), max(ts), arg_min(ts, v), arg_max(ts, v), first(v), last(v), min(v), max(v) FROM s
    WHERE tag = ? AND ts >= ? AND ts < ? GROUP BY (ts - ?) * ? // ?
    """

    def __init__(self, path: Path) -> None:
        self._path = path
        self._db = duckdb.connect(str(path))
        self._db.execute("CREATE TABLE s (tag INTEGER, ts BIGINT, v DOUBLE, q USMALLINT)")

    def write(self, tag_id: int, series: Series) -> float:
        """Seconds."""
        start = time.perf_counter()
        block = pa.table(  # noqa: F841 - DuckDB finds it by name
            {
                "tag": np.full(len(series), tag_id, np.int32),
                "ts": series.ts_us,
                "v": series.values,
                "q": series.quality,
            }
        )
        self._db.execute("INSERT INTO s SELECT * FROM block")
        return time.perf_counter() - start

    def curve(self, tag_id: int, window: Window, width: int) -> object:
        a, b = window.start_us, window.end_us
        return self._db.execute(self.M4, [tag_id, a, b, a, width, b - a]).fetchnumpy()

    def before(self, end_us: int) -> object:
        """The 200 newest samples of all tags before a moment."""
        newest = "SELECT ts, tag, v, q FROM s WHERE ts < ? ORDER BY ts DESC, tag LIMIT 200"
        return self._db.execute(newest, [end_us]).fetchall()

    def hours(self, tag_id: int, window: Window) -> object:
        """Time-weighted hourly means of the sloped line, without the joints at the hours' edges."""
        return self._db.execute(
            "SELECT ts // 3600000000, sum((v + w) / 2 * d) / sum(d) FROM (SELECT ts, v, lead(v) OVER o AS w, "
            "lead(ts) OVER o - ts AS d FROM s WHERE tag = ? AND ts >= ? AND ts < ? "
            "WINDOW o AS (ORDER BY ts)) GROUP BY 1",
            [tag_id, window.start_us, window.end_us],
        ).fetchnumpy()

    def bytes(self) -> int:
        self._db.execute("CHECKPOINT")
        return self._path.stat().st_size
