"""Reading history: one function gives a tag's series over a window as one consistent whole."""

from __future__ import annotations

import time
from collections.abc import Generator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Final

from cronaca.core import coverage as knowledge
from cronaca.core.calendar import month_at
from cronaca.core.codec.batch import Batch, HistoryKey
from cronaca.core.coverage import Knowledge
from cronaca.core.errors import InvalidInput
from cronaca.core.model import Covered, Gap, GapReason, Series, Times, ValueType, Window, merge
from cronaca.db.pool import Store
from cronaca.db.transaction import Transaction
from cronaca.history.read.cache import HistoryCache
from cronaca.history.tables import epochs, gaps, journal, months, segments
from cronaca.history.tables.epochs import Epoch
from cronaca.history.tables.months import HistoryMonth
from cronaca.history.tables.segments import SegmentExtent
from cronaca.plant import coverage, histories
from cronaca.plant.histories import History
from cronaca.plant.tags import list_source_ids

NO_CHOICE: Final[Mapping[int, int]] = {}
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
    last_us: int | None = None
    """Of the newest sample of all, wherever the window lies."""


@dataclass(frozen=True, slots=True)
class Stretch:
    """A part of a window, what tags say in it, and the transaction in which it was read."""

    window: Window
    answers: list[SeriesAnswer]
    tx: Transaction


@dataclass(frozen=True, slots=True)
class Context:
    """What the tags of one reading share, all of it seen at the same instant of the database."""

    tx: Transaction
    cache: HistoryCache
    window: Window
    tail: list[Batch]
    gaps: tuple[Gap, ...]
    scoped_gaps: Mapping[HistoryKey, list[Gap]]
    known_until_us: int
    known_of_tags: Mapping[int, int]
    """Of tags whose source is known to be further ahead than the slowest one."""
    recording_began_us: int | None
    silence: GapReason
    months: Mapping[HistoryKey, list[HistoryMonth]]
    covered: Mapping[HistoryKey, list[Covered]]
    removed: Mapping[int, int]
    """By archive: retention has deleted what lay before."""
    now_us: int

    def knowledge(self, key: HistoryKey) -> Knowledge:
        """What is known of one history."""
        covered = knowledge.normalised(self.covered[key], self.recording_began_us)
        removed = self.removed.get(key.archive_id, 0)
        gaps = (*self.gaps, *self.scoped_gaps.get(key, ()))
        known_us = self.known_of_tags.get(key.tag_id, self.known_until_us)
        return Knowledge(covered, gaps, known_us, self.silence, removed, self.now_us)

    def waiting(self, key: HistoryKey) -> list[Series]:
        """The samples of a history that are not in segments yet, in the order of writing."""
        return [batch.series[key] for batch in self.tail if key in batch.series]

    def fitting(self, choices: Sequence[History]) -> History | None:
        """Of the histories of one tag in several archives, in their order, the first that reaches back to the
        start of the window; else the one that reaches back furthest."""
        begins = [
            min((row.first_us for row in self.months[choice.key] if row.first_us is not None), default=_NEVER)
            for choice in choices
        ]
        for choice, begin in zip(choices, begins, strict=True):
            if begin <= self.window.start_us:
                return choice
        return choices[begins.index(min(begins))] if choices else None

    def last_us(self, key: HistoryKey) -> int | None:
        """When the newest sample of a history was taken; None: there is none."""
        ends = [row.last_us for row in self.months[key] if row.last_us is not None]
        ends += [int(series.ts_us[-1]) for series in self.waiting(key) if len(series)]
        return max(ends, default=None)

    def read_samples(self, history: History, window: Window) -> Series:
        """The samples of a window (which may be empty) and one bounding sample on each side, from segments
        and journal."""
        key = history.key
        extents = self.cache.extents(self.tx, months_of(self.months[key], window))
        chosen = _with_bounds(extents, window)
        refuse_too_many(sum(e.samples for e in chosen))
        stored = self.cache.samples(self.tx, key, history.value_type, chosen)
        return frame(merge([stored, *self.waiting(key)], history.value_type), window)

    def read(self, history: History) -> SeriesAnswer:
        """One history over the window of the context."""
        framed = self.read_samples(history, self.window)
        count = count_inside(framed.ts_us, self.window)
        result = answer(framed, self.knowledge(history.key), self.window, count)
        return replace(result, last_us=self.last_us(history.key))

    def page(self, history: History, most: int) -> Window:
        """The beginning of the window up to where the segments hold more than so many samples; the whole
        window where they do not."""
        extents = self.cache.extents(self.tx, months_of(self.months[history.key], self.window))
        count = 0
        for extent in sorted(segments.touching(extents, self.window), key=lambda e: e.start_us):
            # Of one that begins before the window nobody knows how many lie inside.
            count += extent.samples if extent.start_us >= self.window.start_us else 0
            if count > most:
                return Window(self.window.start_us, min(extent.end_us + 1, self.window.end_us))
        return self.window

    def end_page(self, histories: Sequence[History | None], window: Window, most: int) -> Window:
        """The end of a window from where the segments of one of these histories hold so many samples, or of
        all together; the whole window where they do not."""
        chosen = [row for h in histories if h is not None for row in months_of(self.months[h.key], window)]
        count = 0
        for month in sorted({row.month for row in chosen}, reverse=True):
            rows = [row for row in chosen if row.month == month]
            extents = [extent for row in rows for extent in self.cache.extents(self.tx, [row])]
            for extent in sorted(segments.touching(extents, window), key=lambda e: -e.start_us):
                # Of one that ends behind the window nobody knows how many lie inside.
                count += extent.samples if extent.end_us < window.end_us else 0
                if count >= most:
                    return Window(max(extent.start_us, window.start_us), window.end_us)
        return window


_NEVER: Final = 1 << 62


class SeriesReader:
    """Reads series; keeps what never changes, so a live window costs little."""

    def __init__(self, store: Store) -> None:
        self._store = store
        self._cache = HistoryCache()

    def read_many(
        self, tag_ids: Sequence[int], window: Window, archives: Mapping[int, int] = NO_CHOICE
    ) -> list[SeriesAnswer]:
        """The series of several tags, all seen at the same instant of the database; from the archive that is
        named for a tag, else from the fitting one."""
        with self._store.snapshot() as tx:
            context, histories = self.chosen(tx, tag_ids, window, archives)
            return [nothing(context) if history is None else context.read(history) for history in histories]

    def chosen(
        self, tx: Transaction, tag_ids: Sequence[int], window: Window, archives: Mapping[int, int]
    ) -> tuple[Context, list[History | None]]:
        """What a reading of several tags shares, and the history of each that it is from; None: there is
        none."""
        choices = histories.list_choices(tx, list(tag_ids), archives)
        context = self.context(tx, window, [history.key for some in choices.values() for history in some])
        return context, [context.fitting(choices.get(tag_id, [])) for tag_id in tag_ids]

    def read_keys(self, keys: Sequence[HistoryKey], window: Window) -> list[SeriesAnswer]:
        """The series of several histories, as `read_many`."""
        with self._store.snapshot() as tx:
            context = self.context(tx, window, keys)
            return [context.read(histories.get_history(tx, key)) for key in keys]

    def read_page(self, tag_id: int, window: Window, most: int) -> tuple[SeriesAnswer, Window]:
        """The beginning of a window of any length: at least so many samples and one more, or all of them; and
        the stretch that was read."""
        with self._store.snapshot() as tx:
            context, (history,) = self.chosen(tx, [tag_id], window, NO_CHOICE)
            if history is None:
                return nothing(context), window
            part = context.page(history, most)
            return replace(context, window=part).read(history), part

    def read_back(
        self, tag_ids: Sequence[int], window: Window, most: int, archives: Mapping[int, int] = NO_CHOICE
    ) -> Generator[Stretch]:
        """A window of any length from its end on, stretch by stretch, each of about so many samples and all
        seen at one instant of the database, which ends when this is closed."""
        with self._store.snapshot() as tx:
            context, histories = self.chosen(tx, tag_ids, window, archives)
            rest: Window | None = window
            while rest is not None:
                part = context.end_page(histories, rest, most)
                at_part = replace(context, window=part)
                answers = [nothing(at_part) if h is None else at_part.read(h) for h in histories]
                yield Stretch(part, answers, tx)
                before = part.start_us > window.start_us
                rest = Window(window.start_us, part.start_us) if before else None

    def context(self, tx: Transaction, window: Window, keys: Sequence[HistoryKey]) -> Context:
        """What the readings of one snapshot share."""
        last = epochs.find_last_epoch(tx)
        known_us = window.start_us if last is None else last.known_until_us
        waiting = self._cache.rows(tx, journal.list_uncompacted(tx))
        damaged = (journal.damage_gap(tx, row) for row in waiting if row.problem)
        return Context(
            tx,
            self._cache,
            window,
            [row.batch for row in waiting],
            (*gaps.list_gaps(tx, window), *damaged),
            gaps.list_scoped(tx, window, keys),
            known_us,
            {} if last is None else known_of_tags(tx, last, [key.tag_id for key in keys]),
            epochs.find_first_opened(tx),
            _reason_of_silence(last),
            months.list_months_of(tx, keys),
            coverage.list_coverage(tx, keys),
            coverage.list_removed(tx),
            time.time_ns() // 1000,
        )


def known_of_tags(tx: Transaction, last: Epoch, tag_ids: Sequence[int]) -> dict[int, int]:
    """Until when each of these tags is known: a source that is slow holds back its own tags alone."""
    sources = epochs.list_sources_known(tx, last.epoch)
    source_ids = list_source_ids(tx, tag_ids) if sources else {}
    return {
        tag_id: max(last.known_until_us, sources.get(source_id, last.known_until_us))
        for tag_id, source_id in source_ids.items()
    }


def _reason_of_silence(last: Epoch | None) -> GapReason:
    if last is None or last.running:
        return GapReason.NOT_YET_KNOWN
    return GapReason.RECORDER_STOPPED if last.reason == "stopped" else GapReason.RECORDER_DOWN


def nothing(context: Context) -> SeriesAnswer:
    """The answer for a tag that was never recorded."""
    known = Knowledge((), known_until_us=context.known_until_us, silence=context.silence)
    return answer(Series.empty(ValueType.FLOAT), known, context.window, 0)


def answer(recorded: Series, known: Knowledge, window: Window, samples: int) -> SeriesAnswer:
    """A series with what is known of it."""
    holes = [g for g in known.holes() if g.end_us is None or g.end_us > window.start_us]
    marked = knowledge.with_gaps_marked(recorded, [g for g in holes if g.start_us < window.end_us])
    blanks = tuple(knowledge.blanks(recorded, known, window, marked))
    return SeriesAnswer(marked, recorded, blanks, known.until_us, known.since_us, samples, known.covered)


def months_of(rows: Sequence[HistoryMonth], window: Window) -> list[HistoryMonth]:
    """The months that may hold samples of the window, and the nearest ones with samples around it."""
    filled = [r for r in rows if r.first_us is not None and r.last_us is not None]
    before = [r.month for r in filled if r.first_us is not None and r.first_us < window.start_us]
    behind = [r.month for r in filled if r.last_us is not None and r.last_us >= window.end_us]
    first = max(before, default=month_at(window.start_us))
    last = min(behind, default=month_at(window.end_us))
    return [r for r in filled if first <= r.month <= last]


def _with_bounds(extents: Sequence[SegmentExtent], window: Window) -> list[SegmentExtent]:
    """The segments that touch the window and those that may hold its bounding samples."""
    before = [e for e in extents if e.end_us < window.start_us]
    behind = [e for e in extents if e.start_us >= window.end_us]
    touching = segments.touching(extents, window)
    if before:
        touching.append(max(before, key=lambda e: (e.end_us, -e.month, -e.generation)))
    if behind:
        touching.append(min(behind, key=lambda e: (e.start_us, e.month, e.generation)))
    return touching


def refuse_too_many(samples: int) -> None:
    """Raises InvalidInput for more samples than one reading may hold."""
    if samples > MOST_SAMPLES:
        raise InvalidInput(
            "end",
            "window-holds-samples-one",
            "the window holds {samples:,} samples of one tag",
            "Ask for a shorter window: at most {most_samples:,}.",
            samples=samples,
            most_samples=MOST_SAMPLES,
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
