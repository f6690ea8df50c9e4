"""Reading history: one function gives a tag's series over a window as one consistent whole."""

from __future__ import annotations

import threading
from collections import OrderedDict
from dataclasses import dataclass
from typing import Final

from cronaca.core import coverage
from cronaca.core.codec.batch import Batch, HistoryKey
from cronaca.core.errors import InvalidInput
from cronaca.core.model import Gap, GapReason, Series, Times, ValueType, Window, merge
from cronaca.store import epochs, gaps, journal, segments, setup
from cronaca.store.epochs import Epoch
from cronaca.store.journal import JournalKey
from cronaca.store.pool import Store
from cronaca.store.segments import StoredSegment
from cronaca.store.transaction import Transaction

_CACHED_BATCHES: Final = 120
"""A minute of flushes; the compactor leaves far fewer waiting."""
MOST_SAMPLES: Final = 20_000_000
"""Of one tag in one reading: about 360 MB in memory. Summaries will lift this bar for curves."""


@dataclass(frozen=True, slots=True)
class SeriesAnswer:
    """A series over a window.

    `recorded` holds the samples inside [start, end) and one bounding sample on each side where there
    is one; in `series` the gaps on record are marked by Bad samples too. `blanks` says why where there
    is nothing. `known_until_us`: later than this nothing is known yet. `samples` counts recorded ones inside.
    """

    series: Series
    recorded: Series
    blanks: tuple[Gap, ...]
    known_until_us: int
    recorded_since_us: int | None
    samples: int


class SeriesReader:
    """Reads series; keeps decoded journal rows, which never change, so a live window costs little."""

    def __init__(self, store: Store) -> None:
        self._store = store
        self._batches: OrderedDict[JournalKey, Batch] = OrderedDict()
        self._lock = threading.Lock()

    def read_many(
        self, tag_ids: list[int], window: Window, archive_id: int | None = None
    ) -> list[SeriesAnswer]:
        """The series of several tags, all seen at the same instant of the database."""
        with self._store.snapshot() as tx:
            tail = [self._batch(tx, key) for key in journal.list_uncompacted(tx)]
            last = epochs.find_last_epoch(tx)
            context = _Context(
                window,
                tail,
                gaps.list_gaps(tx, window),
                window.start_us if last is None else last.known_until_us,
                epochs.find_first_opened(tx),
                _reason_of_silence(last),
            )
            return [_read_one(tx, context, tag_id, archive_id) for tag_id in tag_ids]

    def _batch(self, tx: Transaction, key: JournalKey) -> Batch:
        with self._lock:
            found = self._batches.get(key)
        if found is None:
            found = journal.get_batch(tx, key)
            with self._lock:
                self._batches[key] = found
                while len(self._batches) > _CACHED_BATCHES:
                    self._batches.popitem(last=False)
        return found


@dataclass(frozen=True, slots=True)
class _Context:
    """What all tags of one reading share."""

    window: Window
    tail: list[Batch]
    gaps: list[Gap]
    known_until_us: int
    first_opened_us: int | None
    silence: GapReason
    """Why nothing is known behind `known_until_us`."""


def _reason_of_silence(last: Epoch | None) -> GapReason:
    if last is None or last.running:
        return GapReason.NOT_YET_KNOWN
    return GapReason.RECORDER_STOPPED if last.reason == "stopped" else GapReason.RECORDER_DOWN


def _read_one(tx: Transaction, context: _Context, tag_id: int, archive_id: int | None) -> SeriesAnswer:
    history = setup.find_history(tx, tag_id, archive_id)
    if history is None:
        series = Series.empty(ValueType.FLOAT)
        found = coverage.blanks(series, [], context.window, context.known_until_us, None, context.silence)
        return SeriesAnswer(series, series, tuple(found), context.known_until_us, None, 0)
    window, key, value_type = context.window, history.key, history.value_type
    tail = [batch.series[key] for batch in context.tail if key in batch.series]
    rows = _segments(tx, key, window)
    _refuse_too_many(sum(row.sample_count for row in rows))
    whole = merge([*(row.series() for row in rows), *tail], value_type)
    framed = _frame(whole, window)
    since_us = _since(tx, context, history, tail)
    blanks = coverage.blanks(framed, context.gaps, window, context.known_until_us, since_us, context.silence)
    marked = coverage.with_gaps_marked(framed, context.gaps)
    inside = int(((framed.ts_us >= window.start_us) & (framed.ts_us < window.end_us)).sum())
    return SeriesAnswer(marked, framed, tuple(blanks), context.known_until_us, since_us, inside)


def _refuse_too_many(samples: int) -> None:
    if samples > MOST_SAMPLES:
        raise InvalidInput(
            "end",
            f"the window holds {samples:,} samples of one tag",
            f"Ask for a shorter window: at most {MOST_SAMPLES:,}.",
        )


def _segments(tx: Transaction, key: HistoryKey, window: Window) -> list[StoredSegment]:
    """The segments that touch the window and those that may hold its bounding samples, in the order of
    writing: equal times lie in one month, and of those the first written stands."""
    near = segments.read_segments(tx, key, window)
    before = segments.find_segment_before(tx, key, window.start_us)
    after = segments.find_segment_after(tx, key, window.end_us)
    found = [*near, *(segment for segment in (before, after) if segment is not None)]
    return sorted(found, key=lambda segment: (segment.month, segment.generation))


def _frame(whole: Series, window: Window) -> Series:
    """What lies in the window, and one sample on each side."""
    first, after = _positions(whole.ts_us, window)
    return whole.take(slice(max(first - 1, 0), after + 1))


def _positions(ts_us: Times, window: Window) -> tuple[int, int]:
    return int(ts_us.searchsorted(window.start_us)), int(ts_us.searchsorted(window.end_us))


def _since(tx: Transaction, context: _Context, history: setup.History, tail: list[Series]) -> int | None:
    """When the tag was first recorded: its oldest sample, else the first moment a recorder could."""
    starts = [int(part.ts_us[0]) for part in tail if len(part)]
    first = segments.find_first_sample(tx, history.key)
    if first is not None:
        starts.append(first)
    if context.first_opened_us is not None:
        starts.append(max(history.since_us, context.first_opened_us))
    return min(starts, default=None)
