"""Does the store hold what it says? Reads every segment, journal row, modified history and rollup."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import astuple, dataclass
from typing import Final

import numpy as np

from cronaca.core.calendar import month_of, month_window
from cronaca.core.codec import MAX_SAMPLES, decode_segment
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.codec.summary import summarise
from cronaca.core.errors import CorruptPayload
from cronaca.core.model import DAY, Window
from cronaca.core.rollup.buckets import COUNTS, FIGURES, POINTS, Buckets, Floats
from cronaca.db.pool import Store
from cronaca.db.transaction import Transaction
from cronaca.history.jobs.pyramid import fresh_buckets, hour_rows
from cronaca.history.read.series import SeriesReader
from cronaca.history.tables import journal, months, rollups, summaries
from cronaca.history.tables.months import HistoryMonth
from cronaca.history.write.edits import read_replaced
from cronaca.plant import histories
from cronaca.plant.tags import is_stepped

_SEGMENTS: Final = """
SELECT generation, start_us, end_us, sample_count, low, high, good_us, uncertain_us, bad_us, bytes, payload
FROM segment WHERE archive_id = %(archive_id)s AND month = %(month)s AND tag_id = %(tag_id)s
    AND version = %(version)s ORDER BY generation
"""
_MONTHS: Final = """
SELECT archive_id, tag_id, version, month FROM history_month ORDER BY month, archive_id, tag_id
"""
_STRAY: Final = """
SELECT DISTINCT s.archive_id, s.tag_id, s.version, s.month FROM segment s
LEFT JOIN history_month m ON m.archive_id = s.archive_id AND m.tag_id = s.tag_id AND m.version = s.version
    AND m.month = s.month WHERE m.month IS NULL
"""
_EDITS: Final = "SELECT edit_id FROM history_edit"
_CLOSE: Final = 1e-9
"""Sums in another order differ in the last bits: this share of the largest figure is let pass."""


@dataclass(frozen=True, slots=True)
class Fault:
    """Something that is not as it should be."""

    where: str
    problem: str

    def __str__(self) -> str:
        return f"{self.where}: {self.problem}"


def verify(store: Store, tell: Callable[[float], None]) -> Iterator[Fault]:
    """All faults of the store, as they are found; `tell` gets the share done and may raise to stop."""
    with store.snapshot() as tx:
        places = [(HistoryKey(a, t, v), int(m)) for a, t, v, m in tx.fetch(_MONTHS)]
        strays = tx.fetch(_STRAY)
    for archive_id, tag_id, version, month in strays:
        key = HistoryKey(archive_id, tag_id, version)
        yield Fault(_name(key, month), "it has segments that its month does not know of")
    yield from _journal(store)
    reader = SeriesReader(store)
    for i, (key, month) in enumerate(places):
        tell(i / len(places))
        # One snapshot for each month: what is compacted meanwhile is seen whole or not at all.
        with store.snapshot() as tx:
            row = next((m for m in months.list_months(tx, key) if m.month == month), None)
            if row is None:
                continue
            faults = list(_month(tx, key, row))
            if not faults and row.days_built and not row.thinned:
                faults += _summaries(tx, reader, key, row)
        yield from faults
    tell(1.0)


def _name(key: HistoryKey, month: int) -> str:
    return f"tag {key.tag_id}, archive {key.archive_id}, month {month}"


def _journal(store: Store) -> Iterator[Fault]:
    with store.snapshot() as tx:
        for key in journal.list_uncompacted(tx):
            try:
                journal.get_batch(tx, key)
            except CorruptPayload as exc:
                yield Fault(exc.what, exc.problem)
        for key, problem in journal.list_damaged(tx):
            yield Fault(f"journal row {key.epoch}/{key.seq}", f"it was set aside: {problem}")
        for (edit_id,) in tx.fetch(_EDITS):
            try:
                read_replaced(tx, edit_id)
            except CorruptPayload as exc:
                yield Fault(exc.what, exc.problem)


def _month(tx: Transaction, key: HistoryKey, row: HistoryMonth) -> Iterator[Fault]:
    rows = tx.fetch(_SEGMENTS, **key._asdict(), month=row.month)
    for generation, *summary, size, payload in rows:
        where = f"{_name(key, row.month)}, segment {generation} from {summary[0]} to {summary[1]} µs"
        problem = _segment(row.month, summary, size, payload)
        if problem:
            yield Fault(where, problem)
    counted = (len(rows), sum(r[3] for r in rows), sum(r[9] for r in rows))
    if counted != (row.segments, row.samples, row.bytes):
        yield Fault(_name(key, row.month), "the sums of its segments do not agree with its row")
    ends = (min((r[1] for r in rows), default=None), max((r[2] for r in rows), default=None))
    if ends != (row.first_us, row.last_us):
        yield Fault(_name(key, row.month), "its first and last time do not agree with its row")


def _segment(month: int, summary: Sequence[object], size: int, payload: bytes) -> str:
    """What is wrong with a segment; empty when nothing is."""
    try:
        series = decode_segment(payload)
    except CorruptPayload as exc:
        return exc.problem
    if not 1 <= len(series) <= MAX_SAMPLES or len(payload) != size:
        return "its length is wrong"
    if bool((np.diff(series.ts_us) <= 0).any()):
        return "its times do not rise"
    if set(month_of(series.ts_us).tolist()) != {month}:
        return "it holds samples of another month"
    if tuple(summary) != astuple(summarise(series)):
        return "its columns do not agree with its samples"
    return ""


def _summaries(tx: Transaction, reader: SeriesReader, key: HistoryKey, row: HistoryMonth) -> list[Fault]:
    """Rollups and hourly rows of the built days, against the samples."""
    faults: list[Fault] = []
    stepped, history = is_stepped(tx, key.tag_id), histories.get_history(tx, key)
    try:
        base = rollups.find_buckets(tx, key, row.month, row.base_us) if row.base_us else None
    except CorruptPayload as exc:
        return [Fault(exc.what, exc.problem)]
    for window in _built(row):
        answer = reader.context(tx, window, [key]).read(history)
        if base is not None:
            expected = fresh_buckets(answer, window, row.base_us)
            mine = base.take((base.start_us >= window.start_us) & (base.start_us < window.end_us))
            if not _agree(mine, expected):
                faults.append(Fault(_name(key, row.month), "a rollup does not agree with the samples"))
        hours = hour_rows(answer, window, stepped)
        if summaries.read_hours(tx, key, window) != hours:
            faults.append(Fault(_name(key, row.month), "hourly summaries do not agree with the samples"))
    return faults


def _built(row: HistoryMonth) -> Iterator[Window]:
    """The days that are summed up, as windows of some days each."""
    whole = month_window(row.month)
    for day in range((whole.end_us - whole.start_us) // DAY):
        if row.days_built >> day & 1:
            yield Window(whole.start_us + day * DAY, whole.start_us + (day + 1) * DAY)


def _agree(left: Buckets, other: Buckets) -> bool:
    if not np.array_equal(left.start_us, other.start_us):
        return False
    exact = all(np.array_equal(left.counts[name], other.counts[name]) for name in COUNTS)
    points = all(np.array_equal(left.points[name].ts_us, other.points[name].ts_us) for name in POINTS)
    figures = all(_close(left.figures[name], other.figures[name]) for name in FIGURES)
    return exact and points and figures


def _close(left: Floats, other: Floats) -> bool:
    scale = float(np.nanmax(np.abs(other), initial=0.0))
    return bool(np.allclose(left, other, rtol=_CLOSE, atol=_CLOSE * scale, equal_nan=True))
