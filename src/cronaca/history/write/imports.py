"""Bringing in bulk history: written aside in many short transactions, published by one."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from typing import Final

from cronaca.core.calendar import day_bits, split_by_month
from cronaca.core.codec import MAX_SAMPLES
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import Series, Window, merge
from cronaca.core.topics import Topic
from cronaca.db.pool import Store
from cronaca.db.transaction import Transaction
from cronaca.history.jobs.compaction import compact_some, in_turn
from cronaca.history.tables import months, segments
from cronaca.history.tables.partitions import Partitions, Place
from cronaca.plant import coverage

MOST_WAITING: Final = 4_000_000
"""Samples held in memory before those of the fullest histories are written."""
_BEGIN: Final = """
INSERT INTO import_run (name, person, started_us, state) VALUES (%(name)s, %(person)s, %(now_us)s, 'open')
"""
_ADD: Final = """
INSERT INTO import_segment (archive_id, month, tag_id, version, generation, start_us, end_us, sample_count,
    low, high, good_us, uncertain_us, bad_us, bytes, payload, import_id, days_present)
VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s)
"""
_SUMS: Final = """
SELECT archive_id, month, tag_id, version, COUNT(*), SUM(sample_count), SUM(bytes), MIN(start_us),
    MAX(end_us), MAX(generation), BIT_OR(days_present)
FROM import_segment WHERE import_id = %(import_id)s GROUP BY archive_id, month, tag_id, version
"""
_MOVE: Final = """
INSERT INTO segment (archive_id, month, tag_id, version, generation, start_us, end_us, sample_count,
    low, high, good_us, uncertain_us, bad_us, bytes, payload)
SELECT i.archive_id, i.month, i.tag_id, i.version, i.generation + COALESCE(m.generation, 0),
    i.start_us, i.end_us, i.sample_count, i.low, i.high, i.good_us, i.uncertain_us, i.bad_us, i.bytes,
    i.payload
FROM import_segment i LEFT JOIN history_month m ON m.archive_id = i.archive_id AND m.month = i.month
    AND m.tag_id = i.tag_id AND m.version = i.version
WHERE i.import_id = %(import_id)s
"""
_CLOSE: Final = """
UPDATE import_run SET state = %(state)s, samples = %(samples)s
WHERE import_id = %(import_id)s AND state = 'open'
"""
_CLEAR: Final = "DELETE FROM import_segment WHERE import_id = %(import_id)s LIMIT 500"
_LEFT_OVER: Final = """
SELECT DISTINCT s.import_id FROM import_segment s JOIN import_run r ON r.import_id = s.import_id
WHERE r.state <> 'open' OR r.started_us < %(before_us)s
"""


class HistoryImport:
    """One import. Nothing of it is seen before `publish`; after `cancel`, or a crash, nothing ever is."""

    def __init__(self, store: Store, name: str, person: str, now_us: int) -> None:
        self._store = store
        self._partitions = Partitions(store)
        self._waiting: dict[HistoryKey, list[Series]] = defaultdict(list)
        self._counts: dict[HistoryKey, int] = defaultdict(int)
        self._generation = 0
        self.samples = 0
        with store.transaction() as tx:
            self.import_id = tx.insert(_BEGIN, name=name[:300], person=person, now_us=now_us)

    def add(self, samples: Mapping[HistoryKey, Series]) -> None:
        """Takes samples in any order; of equal times the first one stands."""
        for key, series in samples.items():
            self._waiting[key].append(series)
            self._counts[key] += len(series)
            self.samples += len(series)
        while sum(self._counts.values()) > MOST_WAITING:
            fullest = sorted(self._counts, key=self._counts.__getitem__, reverse=True)
            self._write(fullest[: max(len(fullest) // 4, 1)])

    def publish(self) -> int:
        """Makes all of it history at once; returns how many samples were brought."""
        self._write(list(self._waiting))
        with self._store.snapshot() as tx:
            places = {(int(a), int(m)) for a, m, *_ in tx.fetch(_SUMS, import_id=self.import_id)}
        while in_turn(self._store, self._partitions, compact_some):
            pass
        in_turn(self._store, self._partitions, lambda tx, p: self._publish(tx, p, places))
        _clear(self._store, self.import_id)
        return self.samples

    def cancel(self) -> None:
        """Forgets all of it."""
        self._waiting.clear()
        with self._store.transaction() as tx:
            tx.execute(_CLOSE, import_id=self.import_id, state="cancelled", samples=0)
        _clear(self._store, self.import_id)

    def _write(self, keys: list[HistoryKey]) -> None:
        for key in keys:
            parts = self._waiting.pop(key)
            self._counts.pop(key, None)
            self._write_one(key, merge(parts, parts[0].value_type))

    def _write_one(self, key: HistoryKey, series: Series) -> None:
        for month, part in split_by_month(series.ts_us):
            mine = series.take(part)
            rows = []
            for i in range(0, len(mine), MAX_SAMPLES):
                piece = mine.take(slice(i, i + MAX_SAMPLES))
                self._generation += 1
                row = segments.segment_row(key, month, self._generation, piece)
                rows.append((*row, self.import_id, day_bits(piece.ts_us, month)))
            with self._store.transaction() as tx:
                tx.execute_many(_ADD, rows)

    def _publish(self, tx: Transaction, partitions: Partitions, places: set[Place]) -> None:
        tx.changes(Topic.HISTORY)
        partitions.check(places)
        while compact_some(tx, partitions):
            pass
        sums = tx.fetch(_SUMS, import_id=self.import_id)
        tx.execute(_MOVE, import_id=self.import_id)
        by_place: dict[Place, list[tuple[HistoryKey, tuple[int, ...]]]] = defaultdict(list)
        for archive_id, month, tag_id, version, *columns in sums:
            numbers = tuple(int(number) for number in columns)
            by_place[archive_id, month].append((HistoryKey(archive_id, tag_id, version), numbers))
        for (archive_id, month), rows in by_place.items():
            _count_in(tx, archive_id, month, rows)
        coverage.add(tx, _covered(by_place))
        tx.execute(_CLOSE, import_id=self.import_id, state="published", samples=self.samples)


def _count_in(
    tx: Transaction, archive_id: int, month: int, rows: list[tuple[HistoryKey, tuple[int, ...]]]
) -> None:
    """Puts published segments on the rows of their month."""
    by_key = months.read_months(tx, archive_id, month, [key for key, _ in rows])
    touched = []
    for key, (count, samples, size, first, last, generation, days) in rows:
        row = by_key[key]
        row.segments += count
        row.samples += samples
        row.bytes += size
        row.first_us = first if row.first_us is None else min(row.first_us, first)
        row.last_us = last if row.last_us is None else max(row.last_us, last)
        row.generation += generation
        row.tail = []
        row.touch(days)
        row.days_present |= days
        touched.append((row, days))
    months.put_months(tx, by_key.values())
    months.unbuild_after(tx, touched)


def _covered(
    by_place: Mapping[Place, list[tuple[HistoryKey, tuple[int, ...]]]],
) -> list[tuple[HistoryKey, Window]]:
    """From the first to the last sample of each history: an import is one stretch."""
    windows: dict[HistoryKey, Window] = {}
    for rows in by_place.values():
        for key, (_, _, _, first, last, *_) in rows:
            known = windows.get(key, Window(first, last + 1))
            windows[key] = Window(min(known.start_us, first), max(known.end_us, last + 1))
    return list(windows.items())


def clear_left_over(store: Store, before_us: int) -> None:
    """Removes what imports that were never published have left."""
    with store.snapshot() as tx:
        left = [int(row[0]) for row in tx.fetch(_LEFT_OVER, before_us=before_us)]
    for import_id in left:
        _clear(store, import_id)


def _clear(store: Store, import_id: int) -> None:
    """Removes what was written aside, a few segments at a time."""
    while store.run(lambda tx: tx.execute(_CLEAR, import_id=import_id)):
        pass
