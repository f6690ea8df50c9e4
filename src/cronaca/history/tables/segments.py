"""Segments: compressed samples of one history, none across a month (UTC) of its partition."""

from __future__ import annotations

import logging
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Final

from cronaca.core.calendar import day_bits, split_by_month
from cronaca.core.codec import MAX_SAMPLES, decode_segment, decode_segment_into, encode_segment
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.codec.merging import Extent, swallowed
from cronaca.core.codec.summary import summarise
from cronaca.core.errors import CorruptPayload
from cronaca.core.model import Series, Window, merge
from cronaca.db.transaction import Transaction
from cronaca.history.tables import months
from cronaca.history.tables.months import HistoryMonth
from cronaca.history.tables.partitions import Place

_log = logging.getLogger(__name__)
_KEY: Final = "archive_id, month, tag_id, version, generation"
_COLUMNS: Final = f"{_KEY}, start_us, end_us, sample_count, payload"
_ADD: Final = """
INSERT INTO segment (archive_id, month, tag_id, version, generation, start_us, end_us, sample_count,
    low, high, good_us, uncertain_us, bad_us, bytes, payload)
VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s)
"""
_REPLACE: Final = _ADD.replace("INSERT", "REPLACE", 1)
_READ_KEYS: Final = f"SELECT {_COLUMNS} FROM segment WHERE ({_KEY}) IN %(keys)s"
_REMOVE_KEYS: Final = f"DELETE FROM segment WHERE ({_KEY}) IN %(keys)s"
_OF_HISTORY: Final = "archive_id = %(archive_id)s AND tag_id = %(tag_id)s AND version = %(version)s"
_LIST_EXTENTS: Final = f"""
SELECT month, generation, start_us, end_us, sample_count, bytes FROM segment
WHERE {_OF_HISTORY} AND month IN %(months)s ORDER BY month, generation
"""
_AT_ONCE: Final = 400
"""Keys in one statement: with full segments a few MB of payload."""

SegmentKey = tuple[int, int, int, int, int]
SegmentRow = tuple[
    int, int, int, int, int, int, int, int, float | None, float | None, int, int, int, int, bytes
]


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
        with self._named():
            return decode_segment(self.payload)

    def fill(self, out: Series) -> None:
        """Writes the samples into a series of the same length and type; raises as `series`."""
        with self._named():
            decode_segment_into(self.payload, out)

    @contextmanager
    def _named(self) -> Iterator[None]:
        try:
            yield
        except CorruptPayload as exc:
            extent = f"{self.start_us} to {self.end_us} µs"
            raise exc.within(f"segment of tag {self.tag_id}, archive {self.archive_id}, {extent}") from exc


@dataclass(frozen=True, slots=True)
class SegmentExtent:
    """Where a segment lies, without its payload."""

    month: int
    generation: int
    start_us: int
    end_us: int
    samples: int
    bytes: int


def places_of(samples: Mapping[HistoryKey, Series]) -> set[Place]:
    """The partitions that samples belong to."""
    return {
        (key.archive_id, month)
        for key, series in samples.items()
        for month, _ in split_by_month(series.ts_us)
    }


def append(tx: Transaction, samples: Mapping[HistoryKey, Series]) -> None:
    """Writes new samples of many histories as segments, swallowing small predecessors. The caller has
    the turn, and made sure of the partitions."""
    by_place: dict[Place, dict[HistoryKey, Series]] = defaultdict(dict)
    for key, series in samples.items():
        for month, part in split_by_month(series.ts_us):
            by_place[key.archive_id, month][key] = series.take(part)
    for (archive_id, month), parts in sorted(by_place.items()):
        _append_place(tx, archive_id, month, parts)


def _append_place(tx: Transaction, archive_id: int, month: int, parts: Mapping[HistoryKey, Series]) -> None:
    rows = months.read_months(tx, archive_id, month, list(parts))
    taken = {key: _swallowed(rows[key], series) for key, series in parts.items()}
    older = _read_swallowed(tx, taken, rows)
    _leave_damaged(older, rows)
    added: list[SegmentRow] = []
    touched = []
    for key, series in parts.items():
        row = rows[key]
        days = day_bits(series.ts_us, month)
        _forget(row, older.get(key, []))
        whole = merge([*(s.series() for s in older.get(key, [])), series], series.value_type)
        added += _write(row, whole)
        row.touch(days)
        row.days_present |= days
        touched.append((row, days))
    _remove(tx, [_key_of(s) for stored in older.values() for s in stored])
    tx.execute_many(_ADD, added)
    months.put_months(tx, rows.values())
    months.unbuild_after(tx, touched)


def _swallowed(row: HistoryMonth, series: Series) -> int:
    new = Extent(int(series.ts_us[0]), int(series.ts_us[-1]), len(series))
    return swallowed([segment.extent for segment in row.tail], new)


def _read_swallowed(
    tx: Transaction, taken: Mapping[HistoryKey, int], rows: Mapping[HistoryKey, HistoryMonth]
) -> dict[HistoryKey, list[StoredSegment]]:
    keys = [
        (key.archive_id, rows[key].month, key.tag_id, key.version, segment.generation)
        for key, count in taken.items()
        for segment in rows[key].tail[len(rows[key].tail) - count :]
    ]
    by_key: dict[HistoryKey, list[StoredSegment]] = defaultdict(list)
    for segment in read_segments(tx, keys):
        by_key[HistoryKey(segment.archive_id, segment.tag_id, segment.version)].append(segment)
    return by_key


def _leave_damaged(
    older: dict[HistoryKey, list[StoredSegment]], rows: Mapping[HistoryKey, HistoryMonth]
) -> None:
    """A segment that cannot be read stays as it is, with all that lie before it, and is not looked at again:
    it costs readers of its own history that stretch, and the work on the journal nothing."""
    for key, stored in list(older.items()):
        try:
            for segment in stored:
                segment.series()
        except CorruptPayload as exc:
            _log.error("It is left as it is: %s", exc)
            rows[key].tail = []
            del older[key]


def _forget(row: HistoryMonth, segments: Sequence[StoredSegment]) -> None:
    """Takes the swallowed segments, the newest ones, off a month's row."""
    if segments:
        row.tail = row.tail[: -len(segments)]
        row.segments -= len(segments)
        row.samples -= sum(s.sample_count for s in segments)
        row.bytes -= sum(len(s.payload) for s in segments)


def _write(row: HistoryMonth, series: Series) -> list[SegmentRow]:
    """Rows of new segments behind all others, put on a month's row."""
    added: list[SegmentRow] = []
    for i in range(0, len(series), MAX_SAMPLES):
        piece = series.take(slice(i, i + MAX_SAMPLES))
        row.generation += 1
        fields = segment_row(row.key, row.month, row.generation, piece)
        extent = Extent(int(piece.ts_us[0]), int(piece.ts_us[-1]), len(piece))
        row.tail.append(months.Segment(row.generation, extent))
        row.segments += 1
        row.samples += extent.samples
        row.bytes += len(fields[-1])
        row.first_us = extent.start_us if row.first_us is None else min(row.first_us, extent.start_us)
        row.last_us = extent.end_us if row.last_us is None else max(row.last_us, extent.end_us)
        added.append(fields)
    return added


def add_segments(tx: Transaction, row: HistoryMonth, series: Series) -> None:
    """New segments behind all others of a month; the caller writes the month's row."""
    tx.execute_many(_ADD, _write(row, series))


def put_segment(tx: Transaction, key: HistoryKey, month: int, generation: int, series: Series) -> None:
    """Writes one segment anew in its place."""
    tx.execute_many(_REPLACE, [segment_row(key, month, generation, series)])


def segment_row(key: HistoryKey, month: int, generation: int, piece: Series) -> SegmentRow:
    """The columns of a segment in the order of the table; the payload is the last."""
    summary, payload = summarise(piece), encode_segment(piece)
    return (
        *(key.archive_id, month, key.tag_id, key.version, generation),
        *(summary.start_us, summary.end_us, summary.samples, summary.low, summary.high),
        *(summary.good_us, summary.uncertain_us, summary.bad_us, len(payload), payload),
    )


def list_extents(tx: Transaction, key: HistoryKey, in_months: Sequence[int]) -> list[SegmentExtent]:
    """Where the segments of some months lie, in the order in which they were written."""
    if not in_months:
        return []
    rows = tx.fetch(_LIST_EXTENTS, **key._asdict(), months=list(in_months))
    return [SegmentExtent(*row) for row in rows]


def read_extents(tx: Transaction, key: HistoryKey, extents: Iterable[SegmentExtent]) -> list[StoredSegment]:
    """The segments at these places, in the order of writing: of equal times the first one stands."""
    keys = [(key.archive_id, e.month, key.tag_id, key.version, e.generation) for e in extents]
    return read_segments(tx, keys)


def read_segments(tx: Transaction, keys: Sequence[SegmentKey]) -> list[StoredSegment]:
    """The segments with these keys, in the order of archive, month, tag, version and writing."""
    result = [
        StoredSegment(*row)
        for i in range(0, len(keys), _AT_ONCE)
        for row in tx.fetch(_READ_KEYS, keys=keys[i : i + _AT_ONCE])
    ]
    return sorted(result, key=_key_of)


def remove_segments(tx: Transaction, segments: Iterable[StoredSegment]) -> None:
    """Removes segments; the caller mends the month's row."""
    _remove(tx, [_key_of(s) for s in segments])


def _remove(tx: Transaction, keys: Sequence[SegmentKey]) -> None:
    for i in range(0, len(keys), _AT_ONCE):
        tx.execute(_REMOVE_KEYS, keys=keys[i : i + _AT_ONCE])


def _key_of(segment: StoredSegment) -> SegmentKey:
    return (segment.archive_id, segment.month, segment.tag_id, segment.version, segment.generation)


def touching(extents: Iterable[SegmentExtent], window: Window) -> list[SegmentExtent]:
    """Those that may hold samples of the window."""
    return [e for e in extents if e.end_us >= window.start_us and e.start_us < window.end_us]
