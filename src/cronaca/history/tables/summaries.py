"""Hourly and daily summaries as plain rows, for reporting tools."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from cronaca.core.calendar import month_at
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import Window
from cronaca.core.rollup.rows import ReportRow
from cronaca.db.transaction import Transaction
from cronaca.history.tables.partitions import Place

_COLUMNS: Final = (
    "start_us, end_us, sample_count, good_us, uncertain_us, bad_us, low, low_us, high, high_us, mean, "
    "last_value, transitions"
)
_VALUES: Final = "VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s)"
_PUT_HOURS: Final = f"REPLACE INTO summary_hour (archive_id, month, tag_id, version, {_COLUMNS}) {_VALUES}"
_PUT_DAYS: Final = f"REPLACE INTO summary_day (archive_id, month, tag_id, version, {_COLUMNS}) {_VALUES}"
_WHERE: Final = """
WHERE archive_id = %(archive_id)s AND month IN %(months)s AND tag_id = %(tag_id)s AND version = %(version)s
    AND start_us >= %(start_us)s AND start_us < %(end_us)s
"""
_REMOVE_HOURS: Final = f"DELETE FROM summary_hour {_WHERE}"
_REMOVE_DAYS: Final = f"DELETE FROM summary_day {_WHERE}"
_READ_HOURS: Final = f"SELECT {_COLUMNS} FROM summary_hour {_WHERE} ORDER BY start_us"
_READ_DAYS: Final = f"SELECT {_COLUMNS} FROM summary_day {_WHERE} ORDER BY start_us"


def put_hours(tx: Transaction, key: HistoryKey, window: Window, rows: Sequence[ReportRow]) -> None:
    """Writes the hours of a window anew."""
    tx.execute(_REMOVE_HOURS, **_where(key, window))
    tx.execute_many(_PUT_HOURS, _rows(key, rows))


def put_days(tx: Transaction, key: HistoryKey, window: Window, rows: Sequence[ReportRow]) -> None:
    """Writes the days that start in a window anew."""
    tx.execute(_REMOVE_DAYS, **_where(key, window))
    tx.execute_many(_PUT_DAYS, _rows(key, rows))


def read_hours(tx: Transaction, key: HistoryKey, window: Window) -> list[ReportRow]:
    """The hours that start in a window."""
    return [ReportRow(*row) for row in tx.fetch(_READ_HOURS, **_where(key, window))]


def read_days(tx: Transaction, key: HistoryKey, window: Window) -> list[ReportRow]:
    """The days of the plant that start in a window."""
    return [ReportRow(*row) for row in tx.fetch(_READ_DAYS, **_where(key, window))]


def places_of(key: HistoryKey, rows: Sequence[ReportRow]) -> set[Place]:
    """The partitions that rows belong to."""
    return {(key.archive_id, month_at(row.start_us)) for row in rows}


def _where(key: HistoryKey, window: Window) -> dict[str, object]:
    months = sorted({month_at(window.start_us), month_at(window.end_us - 1)})
    return {**key._asdict(), "months": months, "start_us": window.start_us, "end_us": window.end_us}


def _rows(key: HistoryKey, rows: Sequence[ReportRow]) -> list[tuple[object, ...]]:
    return [
        (
            key.archive_id, month_at(r.start_us), key.tag_id, key.version, r.start_us, r.end_us, r.samples,
            r.good_us, r.uncertain_us, r.bad_us, r.low, r.low_us, r.high, r.high_us, r.mean, r.last_value,
            r.transitions,
        )
        for r in rows
    ]  # fmt: skip
