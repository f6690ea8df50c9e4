"""What a reader keeps of the store: only things that never change under their key."""

from __future__ import annotations

import logging
import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable, Sequence
from itertools import accumulate
from typing import Final, Generic, TypeVar

from cronaca.core import quality as q
from cronaca.core.codec.batch import Batch, HistoryKey
from cronaca.core.errors import CorruptPayload
from cronaca.core.model import Series, ValueType, concatenate
from cronaca.db.transaction import Transaction
from cronaca.history.tables import journal, segments
from cronaca.history.tables.journal import JournalKey, Row
from cronaca.history.tables.months import HistoryMonth
from cronaca.history.tables.segments import SegmentExtent, StoredSegment

_log = logging.getLogger(__name__)
K = TypeVar("K", bound=Hashable)
V = TypeVar("V")
_BATCHES: Final = 120
"""A minute of flushes; the worker leaves far fewer waiting."""
_EXTENTS: Final = 200_000
_SAMPLES: Final = 8_000_000
"""Decoded segments: about 144 MB."""
_AT_ONCE: Final = _SAMPLES // 4
"""A reading of more would push out what the others need: it is decoded in place and not kept."""


class LruCache(Generic[K, V]):
    """The most recently used things, up to a weight in all. Safe for several threads."""

    def __init__(self, most: int, weigh: Callable[[V], int] = lambda _: 1) -> None:
        self._most = most
        self._weigh = weigh
        self._things: OrderedDict[K, V] = OrderedDict()
        self._weight = 0
        self._lock = threading.Lock()

    def find(self, key: K) -> V | None:
        """The thing under a key, if it is kept."""
        with self._lock:
            value = self._things.get(key)
            if value is not None:
                self._things.move_to_end(key)
            return value

    def keep(self, key: K, thing: V) -> None:
        """Keeps a thing, and lets the least recently used ones go."""
        with self._lock:
            if key in self._things:
                return
            self._things[key] = thing
            self._weight += self._weigh(thing)
            while self._weight > self._most:
                _, gone = self._things.popitem(last=False)
                self._weight -= self._weigh(gone)


class HistoryCache:
    """Journal rows, extents of segments of a month as long as it does not change, decoded segments: the
    number of a segment is never given twice, and what is cut out of one changes its count."""

    def __init__(self) -> None:
        self._batches: LruCache[JournalKey, Batch] = LruCache(_BATCHES)
        self._extents: LruCache[tuple[HistoryKey, int, int], list[SegmentExtent]] = LruCache(_EXTENTS, len)
        self._segments: LruCache[tuple[HistoryKey, SegmentExtent], Series] = LruCache(_SAMPLES, len)

    def rows(self, tx: Transaction, keys: Sequence[JournalKey]) -> list[Row]:
        """Journal rows, in order; those that are not kept are read together."""
        kept = {key: self._batches.find(key) for key in keys}
        result = [Row(key, batch) for key, batch in kept.items() if batch is not None]
        for row in journal.read_batches(tx, [key for key, batch in kept.items() if batch is None]):
            result.append(row)
            if not row.problem:
                self._batches.keep(row.key, row.batch)
        return sorted(result, key=lambda row: row.key)

    def extents(self, tx: Transaction, rows: Sequence[HistoryMonth]) -> list[SegmentExtent]:
        """The extents of the segments of some months of one history, in the order of writing."""
        kept = {row.month: self._extents.find((row.key, row.month, row.changes)) for row in rows}
        missing = [row for row in rows if kept[row.month] is None]
        if missing:
            read = segments.list_extents(tx, missing[0].key, [row.month for row in missing])
            for row in missing:
                kept[row.month] = mine = [e for e in read if e.month == row.month]
                self._extents.keep((row.key, row.month, row.changes), mine)
        return [e for row in rows for e in kept[row.month] or []]

    def samples(
        self, tx: Transaction, key: HistoryKey, value_type: ValueType, extents: Sequence[SegmentExtent]
    ) -> Series:
        """The samples of some segments of one history behind each other, in the order of writing. Of one that
        cannot be read there is a Bad sample where it begins and one where it ends: it costs no other history,
        and nobody takes it for a stretch in which the value stood still."""
        ordered = sorted(extents, key=lambda e: (e.month, e.generation))
        ends = list(accumulate(e.samples for e in ordered))
        whole = Series.unfilled(value_type, ends[-1] if ends else 0)
        missing = {}
        for extent, end in zip(ordered, ends, strict=True):
            part = whole.take(slice(end - extent.samples, end))
            kept = self._segments.find((key, extent))
            if kept is None:
                missing[extent.month, extent.generation] = extent, part
            else:
                part.fill(kept)
        damaged = self._read(tx, key, missing)
        if not damaged:
            return whole
        parts = [
            _lost(value_type, e)
            if (e.month, e.generation) in damaged
            else whole.take(slice(end - e.samples, end))
            for e, end in zip(ordered, ends, strict=True)
        ]
        return concatenate(parts, value_type)

    def _read(
        self, tx: Transaction, key: HistoryKey, missing: dict[tuple[int, int], tuple[SegmentExtent, Series]]
    ) -> set[tuple[int, int]]:
        """Fills the parts from the database; which of them cannot be read."""
        damaged = set()
        few = sum(extent.samples for extent, _ in missing.values()) <= _AT_ONCE
        read = segments.read_extents(tx, key, [extent for extent, _ in missing.values()])
        if len(read) != len(missing):
            gone = f"{len(missing) - len(read)} of {len(missing)} segments are gone"
            raise CorruptPayload("segment", f"{gone} (tag {key.tag_id}, archive {key.archive_id})")
        for stored in read:
            place = stored.month, stored.generation
            extent, part = missing[place]
            try:
                self._decode(stored, key, extent, part, keep=few)
            except CorruptPayload as exc:
                _log.error("Stored samples are shown as Bad: %s", exc)
                damaged.add(place)
        return damaged

    def _decode(
        self, stored: StoredSegment, key: HistoryKey, extent: SegmentExtent, part: Series, *, keep: bool
    ) -> None:
        if not keep:
            stored.fill(part)
            return
        series = stored.series()
        if len(series) != len(part):
            raise CorruptPayload("segment", f"it holds {len(series)} samples in place of {len(part)}")
        part.fill(series)
        self._segments.keep((key, extent), series)


def _lost(value_type: ValueType, extent: SegmentExtent) -> Series:
    times = sorted({extent.start_us, extent.end_us})
    count = len(times)
    return Series.of(value_type, times, [0] * count, [q.BAD_DATA_LOST] * count)
