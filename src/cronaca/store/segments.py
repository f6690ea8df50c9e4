"""Segments: compressed samples of one history, none across a month (UTC) of its partition."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np

from cronaca.core.calendar import month_of
from cronaca.core.codec import MAX_SAMPLES, decode_segment, encode_segment
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.codec.merging import Extent, swallowed
from cronaca.core.codec.summary import summarise
from cronaca.core.errors import CorruptPayload
from cronaca.core.model import Series, Window, merge
from cronaca.store.transaction import Transaction

_COLUMNS: Final = "archive_id, month, tag_id, version, generation, start_us, end_us, sample_count, payload"
_ADD: Final = """
INSERT INTO segment (archive_id, month, tag_id, version, generation, start_us, end_us, sample_count,
    low, high, good_us, uncertain_us, bad_us, payload)
VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s)
"""
_LATEST: Final = """
SELECT generation, start_us, end_us, sample_count FROM segment
WHERE archive_id = %(archive_id)s AND month = %(month)s AND tag_id = %(tag_id)s AND version = %(version)s
ORDER BY generation DESC LIMIT 16
"""
_READ_GENERATIONS: Final = f"""
SELECT {_COLUMNS} FROM segment
WHERE archive_id = %(archive_id)s AND month = %(month)s AND tag_id = %(tag_id)s AND version = %(version)s
AND generation >= %(generation)s ORDER BY generation
"""
_REMOVE_GENERATIONS: Final = """
DELETE FROM segment
WHERE archive_id = %(archive_id)s AND month = %(month)s AND tag_id = %(tag_id)s AND version = %(version)s
AND generation >= %(generation)s
"""
_OF_HISTORY: Final = "tag_id = %(tag_id)s AND archive_id = %(archive_id)s AND version = %(version)s"
_READ: Final = f"""
SELECT {_COLUMNS} FROM segment
WHERE {_OF_HISTORY} AND end_us >= %(start_us)s AND start_us < %(end_us)s ORDER BY generation
"""
_READ_BEFORE: Final = f"""
SELECT {_COLUMNS} FROM segment WHERE {_OF_HISTORY} AND end_us < %(start_us)s
ORDER BY end_us DESC, generation LIMIT 1
"""
_READ_AFTER: Final = f"""
SELECT {_COLUMNS} FROM segment WHERE {_OF_HISTORY} AND start_us >= %(end_us)s
ORDER BY start_us, generation LIMIT 1
"""
_FIRST: Final = f"SELECT MIN(start_us) FROM segment WHERE {_OF_HISTORY}"


@dataclass(frozen=True, slots=True)
class StoredSegment:
    """One row: `start_us` and `end_us` are its first and last sample."""

    archive_id: int
    month: int
    tag_id: int
    version: int
    generation: int
    start_us: int
    end_us: int
    sample_count: int
    payload: bytes

    def series(self) -> Series:
        """The samples; raises CorruptPayload that names tag and range."""
        try:
            found = decode_segment(self.payload)
        except CorruptPayload as exc:
            extent = f"{self.start_us} to {self.end_us} µs"
            raise exc.within(f"segment of tag {self.tag_id}, archive {self.archive_id}, {extent}") from exc
        return found


def append_series(tx: Transaction, key: HistoryKey, series: Series) -> None:
    """Writes new samples of one history as segments, by month, swallowing small predecessors."""
    months = month_of(series.ts_us)
    for month in np.unique(months).tolist():
        _append_month(tx, key, month, series.take(months == month))


def _append_month(tx: Transaction, key: HistoryKey, month: int, series: Series) -> None:
    where = {**key._asdict(), "month": month}
    latest = tx.fetch(_LATEST, **where)
    generation = latest[0][0] + 1 if latest else 1
    extents = [Extent(*row[1:]) for row in reversed(latest)]
    taken = swallowed(extents, Extent(int(series.ts_us[0]), int(series.ts_us[-1]), len(series)))
    if taken:
        generation = latest[taken - 1][0]
        older = [
            StoredSegment(*row).series()
            for row in tx.fetch(_READ_GENERATIONS, **where, generation=generation)
        ]
        series = merge([*older, series], series.value_type)
        tx.execute(_REMOVE_GENERATIONS, **where, generation=generation)
    pieces = [series.take(slice(i, i + MAX_SAMPLES)) for i in range(0, len(series), MAX_SAMPLES)]
    tx.execute_many(_ADD, [_row(key, month, generation + i, piece) for i, piece in enumerate(pieces)])


def _row(key: HistoryKey, month: int, generation: int, piece: Series) -> tuple[object, ...]:
    facts = summarise(piece)
    return (
        *(key.archive_id, month, key.tag_id, key.version, generation),
        *(facts.start_us, facts.end_us, facts.samples, facts.low, facts.high),
        *(facts.good_us, facts.uncertain_us, facts.bad_us, encode_segment(piece)),
    )


def read_segments(tx: Transaction, key: HistoryKey, window: Window) -> list[StoredSegment]:
    """All segments that touch the window, in the order in which they were written."""
    rows = tx.fetch(_READ, **key._asdict(), start_us=window.start_us, end_us=window.end_us)
    return [StoredSegment(*row) for row in rows]


def find_segment_before(tx: Transaction, key: HistoryKey, start_us: int) -> StoredSegment | None:
    """The segment that ends last before a time."""
    row = tx.fetch_one(_READ_BEFORE, **key._asdict(), start_us=start_us)
    return None if row is None else StoredSegment(*row)


def find_segment_after(tx: Transaction, key: HistoryKey, end_us: int) -> StoredSegment | None:
    """The segment that starts first at or after a time."""
    row = tx.fetch_one(_READ_AFTER, **key._asdict(), end_us=end_us)
    return None if row is None else StoredSegment(*row)


def find_first_sample(tx: Transaction, key: HistoryKey) -> int | None:
    """The time of the oldest sample in segments."""
    row = tx.fetch_one(_FIRST, **key._asdict())
    return None if row is None else row[0]
