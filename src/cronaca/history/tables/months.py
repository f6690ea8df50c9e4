"""What each history has in each month: extents, sizes, which days are summed up."""

from __future__ import annotations

import struct
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Final, NamedTuple

from cronaca.core.calendar import bits_of_window, month_at, months_between
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.codec.merging import Extent
from cronaca.core.model import DAY, Window
from cronaca.db.transaction import Row, Transaction

ALL_DAYS: Final = (1 << 31) - 1
_TAIL: Final = struct.Struct("<qqqq")
MOST_TAIL: Final = 24
"""As many of the newest segments as the merging rule ever looks at."""
_COLUMNS: Final = (
    "archive_id, month, tag_id, version, first_us, last_us, sample_count, bytes, segments, generation, "
    "tail, days_present, days_built, base_us, thinned, changes"
)
_OF_HISTORY: Final = "tag_id = %(tag_id)s AND archive_id = %(archive_id)s AND version = %(version)s"
_LIST: Final = f"SELECT {_COLUMNS} FROM history_month WHERE {_OF_HISTORY} ORDER BY month"
_LIST_MANY: Final = """
SELECT CONCAT_WS(' ', archive_id, month, tag_id, version, sample_count, bytes, segments, generation,
    days_present, days_built, base_us, thinned, changes, first_us, last_us)
FROM history_month WHERE tag_id IN %(tag_ids)s ORDER BY month
"""
"""One field a row, for the driver's time goes by fields; the two that may be NULL come last and then fail.
Readers have no use for the newest segments, which only writers merge with."""
_OF_MONTH: Final = f"""
SELECT {_COLUMNS} FROM history_month
WHERE archive_id = %(archive_id)s AND month = %(month)s AND tag_id IN %(tag_ids)s
"""
_LATER: Final = "SELECT 1 FROM history_month WHERE archive_id = %(archive_id)s AND month > %(month)s LIMIT 1"
_PUT: Final = """
INSERT INTO history_month (archive_id, month, tag_id, version, first_us, last_us, sample_count, bytes,
    segments, generation, tail, days_present, days_built, changes)
VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s)
ON DUPLICATE KEY UPDATE first_us = VALUES(first_us), last_us = VALUES(last_us),
    sample_count = VALUES(sample_count), bytes = VALUES(bytes), segments = VALUES(segments),
    generation = VALUES(generation), tail = VALUES(tail), days_present = VALUES(days_present),
    days_built = VALUES(days_built), changes = VALUES(changes)
"""
_UNBUILD: Final = f"""
UPDATE history_month SET days_built = 0, changes = changes + 1
WHERE {_OF_HISTORY} AND month > %(month)s AND month <= %(last)s
"""
_UNBUILD_DAYS: Final = """
UPDATE history_month SET days_built = days_built & ~%(days)s, changes = changes + 1
WHERE month = %(month)s AND days_built & %(days)s <> 0
"""
_UNBUILD_DAYS_OF: Final = """
UPDATE history_month SET days_built = days_built & ~%(days)s, changes = changes + 1
WHERE month = %(month)s AND tag_id IN %(tag_ids)s AND days_built & %(days)s <> 0
"""


class Segment(NamedTuple):
    """A segment as the merging rule sees it."""

    generation: int
    extent: Extent


@dataclass(slots=True)
class HistoryMonth:
    """One row; `tail` holds the newest segments, oldest first. Days are bits, day d of the month d - 1."""

    key: HistoryKey
    month: int
    first_us: int | None = None
    last_us: int | None = None
    samples: int = 0
    bytes: int = 0
    segments: int = 0
    generation: int = 0
    tail: list[Segment] = field(default_factory=list)
    days_present: int = 0
    days_built: int = 0
    base_us: int = 0
    thinned: bool = False
    changes: int = 0

    def touch(self, days: int) -> None:
        """Says that samples of these days changed: their summaries, and those up to the next day with
        samples (whose first value in between depends on them), are no longer true."""
        first = (days & -days).bit_length() - 1
        above = self.days_present & ~((1 << days.bit_length()) - 1)
        until = (above & -above).bit_length() if above else 31
        self.days_built &= ~(((1 << until) - 1) & ~((1 << first) - 1))
        self.changes += 1

    def next_day_is_here(self, days: int) -> bool:
        """Whether a day with samples follows in this month."""
        return bool(self.days_present & ~((1 << days.bit_length()) - 1))


def list_months(tx: Transaction, key: HistoryKey) -> list[HistoryMonth]:
    """All months of one history, in order."""
    return [_month(row) for row in tx.fetch(_LIST, **key._asdict())]


def list_months_of(tx: Transaction, keys: Sequence[HistoryKey]) -> dict[HistoryKey, list[HistoryMonth]]:
    """All months of several histories, in order; without their newest segments."""
    by_key: dict[HistoryKey, list[HistoryMonth]] = {key: [] for key in keys}
    if keys:
        for row in tx.fetch(_LIST_MANY, tag_ids=sorted({key.tag_id for key in keys})):
            month = _month_of_text(row[0])
            if month.key in by_key:
                by_key[month.key].append(month)
    return by_key


def read_months(
    tx: Transaction, archive_id: int, month: int, keys: Sequence[HistoryKey]
) -> dict[HistoryKey, HistoryMonth]:
    """One month of several histories of one archive; fresh rows for those that have none."""
    tag_ids = sorted({key.tag_id for key in keys})
    rows = tx.fetch(_OF_MONTH, archive_id=archive_id, month=month, tag_ids=tag_ids) if tag_ids else []
    by_key = {entry.key: entry for entry in (_month(row) for row in rows)}
    return {key: by_key.get(key) or HistoryMonth(key, month) for key in keys}


def put_months(tx: Transaction, months: Iterable[HistoryMonth]) -> None:
    """Writes rows as they are now (levels of rollups and thinning are not touched)."""
    tx.execute_many(_PUT, [_row(month) for month in months])


def unbuild_after(tx: Transaction, touched: Iterable[tuple[HistoryMonth, int]]) -> None:
    """For late samples: the days after theirs, up to the next one with samples, in the months behind."""
    rows = [(row, days) for row, days in touched if not row.next_day_is_here(days)]
    if not rows:
        return
    archive_id, month = rows[0][0].key.archive_id, rows[0][0].month
    if tx.fetch_one(_LATER, archive_id=archive_id, month=month) is None:
        return
    for row, _ in rows:
        later = [m for m in list_months(tx, row.key) if m.month > row.month]
        filled = next((m for m in later if m.days_present), later[-1] if later else None)
        if filled is not None:
            tx.execute(_UNBUILD, **row.key._asdict(), month=row.month, last=filled.month)


def unbuild_days(tx: Transaction, window: Window, tag_ids: Sequence[int] | None = None) -> None:
    """The summaries of these tags (None: of all) have to be made anew over a window, and up to a day behind
    it."""
    behind = Window(window.start_us, window.end_us + DAY)
    for month in months_between(month_at(behind.start_us), month_at(behind.end_us - 1)):
        days = bits_of_window(behind, month)
        if tag_ids is None:
            tx.execute(_UNBUILD_DAYS, month=month, days=days)
        elif tag_ids:
            tx.execute(_UNBUILD_DAYS_OF, month=month, days=days, tag_ids=tag_ids)


def _month(row: Row) -> HistoryMonth:
    archive_id, month, tag_id, version, first, last, samples, size, segments, generation, tail, *rest = row
    present, built, base_us, thinned, changes = rest
    extents = [Segment(g, Extent(a, b, int(n))) for g, a, b, n in _TAIL.iter_unpack(tail or b"")]
    return HistoryMonth(
        HistoryKey(archive_id, tag_id, version), month, first, last, int(samples), int(size), segments,
        generation, extents, present, built, base_us, bool(thinned), changes,
    )  # fmt: skip


def _month_of_text(text: str) -> HistoryMonth:
    archive_id, month, tag_id, version, samples, size, segments, generation, *rest = map(int, text.split())
    present, built, base_us, thinned, changes, *extent = rest
    first_us, last_us = extent or (None, None)
    return HistoryMonth(
        HistoryKey(archive_id, tag_id, version), month, first_us, last_us, samples, size, segments,
        generation, [], present, built, base_us, bool(thinned), changes,
    )  # fmt: skip


def _row(month: HistoryMonth) -> tuple[object, ...]:
    tail = b"".join(_TAIL.pack(s.generation, *s.extent) for s in month.tail[-MOST_TAIL:])
    return (
        month.key.archive_id, month.month, month.key.tag_id, month.key.version, month.first_us, month.last_us,
        month.samples, month.bytes, month.segments, month.generation, tail,
        month.days_present, month.days_built, month.changes,
    )  # fmt: skip
