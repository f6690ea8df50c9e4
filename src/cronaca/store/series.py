"""Reading history: one function gives a tag's series over a window as one consistent whole."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from cronaca.core import coverage as knowledge
from cronaca.core.calendar import month_at
from cronaca.core.codec.batch import Batch, HistoryKey
from cronaca.core.coverage import Knowledge
from cronaca.core.errors import InvalidInput
from cronaca.core.model import Covered, Gap, GapReason, Series, Times, ValueType, Window, merge
from cronaca.store import coverage, epochs, gaps, journal, months, segments, setup
from cronaca.store.epochs import Epoch
from cronaca.store.journal import JournalKey
from cronaca.store.months import HistoryMonth
from cronaca.store.pool import Store
from cronaca.store.segments import SegmentExtent
from cronaca.store.transaction import Transaction

_CACHED_BATCHES: Final = 120
"""A minute of flushes; the compactor leaves far fewer waiting."""
MOST_SAMPLES: Final = 20_000_000
"""Of one tag in one reading of samples: about 360 MB in memory. Curves of long windows use summaries."""


@dataclass(frozen=True, slots=True)
class SeriesAnswer:
    """A series over a window.

    `recorded` holds the samples inside [start, end) and one bounding sample on each side where there
    is one; in `series` the holes of the history are marked by Bad samples too. `blanks` says why where
    there is nothing. `known_until_us`: later than this nothing is known yet. `samples` counts recorded
    ones inside.
    """

    series: Series
    recorded: Series
    blanks: tuple[Gap, ...]
    known_until_us: int
    recorded_since_us: int | None
    samples: int
    covered: tuple[Covered, ...] = ()


@dataclass(frozen=True, slots=True)
class Context:
    """What all tags of one reading share: all of it seen at the same instant of the database."""

    window: Window
    tail: list[Batch]
    gaps: tuple[Gap, ...]
    known_until_us: int
    recording_began_us: int | None
    silence: GapReason

    def knowledge(self, tx: Transaction, key: HistoryKey) -> Knowledge:
        """What is known of one history."""
        covered = knowledge.normalised(coverage.list_coverage(tx, key), self.recording_began_us)
        return Knowledge(covered, self.gaps, self.known_until_us, self.silence)

    def waiting(self, key: HistoryKey) -> list[Series]:
        """The samples of a history that are not in segments yet, in the order of writing."""
        return [batch.series[key] for batch in self.tail if key in batch.series]


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
            context = self.context(tx, window)
            return [_read_tag(tx, context, tag_id, archive_id) for tag_id in tag_ids]

    def read_keys(self, keys: Sequence[HistoryKey], window: Window) -> list[SeriesAnswer]:
        """The series of several histories, as `read_many`."""
        with self._store.snapshot() as tx:
            context = self.context(tx, window)
            return [read_history(tx, context, key, setup.get_history(tx, key).value_type) for key in keys]

    def context(self, tx: Transaction, window: Window) -> Context:
        """What the readings of one snapshot share."""
        last = epochs.find_last_epoch(tx)
        return Context(
            window,
            [self._batch(tx, key) for key in journal.list_uncompacted(tx)],
            tuple(gaps.list_gaps(tx, window)),
            window.start_us if last is None else last.known_until_us,
            epochs.find_first_opened(tx),
            _reason_of_silence(last),
        )

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


def _reason_of_silence(last: Epoch | None) -> GapReason:
    if last is None or last.running:
        return GapReason.NOT_YET_KNOWN
    return GapReason.RECORDER_STOPPED if last.reason == "stopped" else GapReason.RECORDER_DOWN


def _read_tag(tx: Transaction, context: Context, tag_id: int, archive_id: int | None) -> SeriesAnswer:
    history = setup.find_history(tx, tag_id, archive_id)
    if history is None:
        return nothing(context)
    return read_history(tx, context, history.key, history.value_type)


def nothing(context: Context) -> SeriesAnswer:
    """The answer for a tag that was never recorded."""
    series = Series.empty(ValueType.FLOAT)
    known = Knowledge((), known_until_us=context.known_until_us, silence=context.silence)
    found = knowledge.blanks(series, known, context.window)
    return SeriesAnswer(series, series, tuple(found), context.known_until_us, None, 0)


def read_history(tx: Transaction, context: Context, key: HistoryKey, value_type: ValueType) -> SeriesAnswer:
    """One history over the window of the context."""
    window = context.window
    framed = read_samples(tx, months.list_months(tx, key), key, value_type, window, context.waiting(key))
    return answer(framed, framed, context.knowledge(tx, key), window, count_inside(framed.ts_us, window))


def answer(series: Series, recorded: Series, known: Knowledge, window: Window, samples: int) -> SeriesAnswer:
    """A series with what is known of it."""
    holes = [g for g in known.holes() if g.end_us is None or g.end_us > window.start_us]
    marked = knowledge.with_gaps_marked(series, [g for g in holes if g.start_us < window.end_us])
    blanks = tuple(knowledge.blanks(series, known, window))
    return SeriesAnswer(marked, recorded, blanks, known.until_us, known.since_us, samples, known.covered)


def read_samples(
    tx: Transaction,
    rows: Sequence[HistoryMonth],
    key: HistoryKey,
    value_type: ValueType,
    window: Window,
    waiting: Sequence[Series],
) -> Series:
    """The samples of the window (which may be empty) and one bounding sample on each side, from segments
    and journal; `rows` are all months of the history."""
    extents = segments.list_extents(tx, key, months_of(rows, window))
    chosen = _with_bounds(extents, window)
    refuse_too_many(sum(e.samples for e in chosen))
    parts = [stored.series() for stored in segments.read_extents(tx, key, chosen)]
    return frame(merge([*parts, *waiting], value_type), window)


def months_of(rows: Sequence[HistoryMonth], window: Window) -> list[int]:
    """The months that may hold samples of the window, and the nearest ones with samples around it."""
    filled = [r for r in rows if r.first_us is not None and r.last_us is not None]
    before = [r.month for r in filled if r.first_us is not None and r.first_us < window.start_us]
    behind = [r.month for r in filled if r.last_us is not None and r.last_us >= window.end_us]
    first = max(before, default=month_at(window.start_us))
    last = min(behind, default=month_at(window.end_us))
    return [r.month for r in filled if first <= r.month <= last]


def _with_bounds(extents: Sequence[SegmentExtent], window: Window) -> list[SegmentExtent]:
    """The segments that touch the window and those that may hold its bounding samples."""
    before = [e for e in extents if e.end_us < window.start_us]
    behind = [e for e in extents if e.start_us >= window.end_us]
    found = segments.touching(extents, window)
    if before:
        found.append(max(before, key=lambda e: (e.end_us, -e.month, -e.generation)))
    if behind:
        found.append(min(behind, key=lambda e: (e.start_us, e.month, e.generation)))
    return found


def refuse_too_many(samples: int) -> None:
    """Raises InvalidInput for more samples than one reading may hold."""
    if samples > MOST_SAMPLES:
        raise InvalidInput(
            "end",
            f"the window holds {samples:,} samples of one tag",
            f"Ask for a shorter window: at most {MOST_SAMPLES:,}.",
        )


def frame(whole: Series, window: Window) -> Series:
    """What lies in the window, and one sample on each side."""
    first, after = _positions(whole.ts_us, window)
    return whole.take(slice(max(first - 1, 0), after + 1))


def _positions(ts_us: Times, window: Window) -> tuple[int, int]:
    return int(ts_us.searchsorted(window.start_us)), int(ts_us.searchsorted(window.end_us))


def count_inside(ts_us: Times, window: Window) -> int:
    """How many of these ordered times lie in the window."""
    first, after = _positions(ts_us, window)
    return after - first
