"""Where the recorder's flushes are committed: journal, present values, gaps and lease in one transaction."""

from __future__ import annotations

import contextlib
import time
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Final

import numpy as np

from cronaca.core.codec import Batch
from cronaca.core.groups import WHOLE_PLANT
from cronaca.core.model import Gap, GapReason, Series, Window
from cronaca.core.outputs import Output, Record, SafeRecord
from cronaca.core.ports import Flush, RecorderReport
from cronaca.db.pool import Store
from cronaca.db.transaction import Transaction
from cronaca.history.tables import current, epochs, gaps, journal, minutes, months
from cronaca.history.tables.minutes import RecorderMinute
from cronaca.logbook import records, runs
from cronaca.services.outputs import HANDLERS, Late, OutputHandler, Storing, store_outputs

_TELL_AGAIN_S: Final = 5.0
"""A report that says nothing new is written anew after so long: the length of a flush is in it, too."""
_ENDINGS: Final = {
    "lost": (
        GapReason.RECORDER_DOWN,
        "The recorder ended without warning; what it had not committed is lost.",
    ),
    "stopped": (GapReason.RECORDER_STOPPED, "The recorder was stopped on purpose."),
    "clock_step": (GapReason.CLOCK_STEP, "The clock of the machine was set."),
}


class StoreSink:
    """A SampleSink on a store."""

    def __init__(
        self, store: Store, handlers: Mapping[type[Output], OutputHandler] = HANDLERS,
        group: int = WHOLE_PLANT,
    ) -> None:  # fmt: skip
        """Of one recording group."""
        self._store = store
        self._handlers = handlers
        self._group = group
        self._told: tuple[int, RecorderReport, float] | None = None
        """Epoch, report and moment of the last report that was written."""
        self._late_scans = 0
        """As counted when the last flush was committed."""

    def open_epoch(self, holder: str, now_us: int) -> int | None:
        """Takes the lease and puts the gap since the last epoch on record; None while another holds it."""
        return self._store.run(lambda tx: _open(tx, holder, now_us, self._group))

    def begin_epoch(self, epoch: int, now_us: int) -> None:
        """The gap before an epoch that was just opened lasts until now."""
        self._store.run(lambda tx: _begin(tx, epoch, now_us, self._group))

    def commit(self, flush: Flush) -> tuple[SafeRecord, ...]:
        """Commits a flush; one that was committed before changes nothing."""
        news = self._is_news(flush)
        safe = self._store.run(lambda tx: self._commit(tx, flush, with_report=news))
        self._late_scans = flush.report.late_scans
        if news:
            self._told = flush.epoch, flush.report, time.monotonic()
        return safe

    def _is_news(self, flush: Flush) -> bool:
        # The report of a large plant is a long text: written twice a second it is most of an idle flush.
        if self._told is None or self._told[0] != flush.epoch:
            return True
        _, last, at = self._told
        same = replace(last, last_flush_ms=flush.report.last_flush_ms) == flush.report
        return not same or time.monotonic() - at >= _TELL_AGAIN_S

    def fill(self, epoch: int, flush: Flush) -> tuple[SafeRecord, ...]:
        """Keeps what an earlier epoch's flush holds of uncovered time, and shortens the gap there."""
        return self._store.run(lambda tx: self._fill(tx, epoch, flush))

    def probe(self, epoch: int, flush: Flush) -> None:
        """Does what `commit` or `fill` would do, and takes it back."""

        def work(tx: Transaction) -> None:
            if flush.epoch == epoch:
                self._commit(tx, flush)
            else:
                self._fill(tx, epoch, flush)
            raise _TakenBack

        with contextlib.suppress(_TakenBack):
            self._store.run(work)

    def close_epoch(self, epoch: int, known_until_us: int, reason: str) -> None:
        """Ends the epoch on purpose."""
        self._store.run(lambda tx: epochs.close_epoch(tx, epoch, known_until_us, reason))

    def _commit(self, tx: Transaction, flush: Flush, *, with_report: bool = True) -> tuple[SafeRecord, ...]:
        epochs.check_lease(tx, flush.epoch)
        if not journal.add_batch(tx, flush):
            return records.find_safe(tx, (flush.epoch, flush.seq), flush.of(Record))
        safe = store_outputs(self._handlers, Storing(tx, flush, self._group))
        epochs.put_sources_known(tx, flush)
        current.put_current(tx, flush.epoch, flush.seq, flush.live)
        epochs.renew_lease(tx, flush, with_report=with_report)
        minutes.add(tx, self._minute_of(flush), self._group)
        return safe

    def _minute_of(self, flush: Flush) -> RecorderMinute:
        late = max(flush.report.late_scans - self._late_scans, 0)
        behind_us = max(flush.received_us - flush.known_until_us, 0)
        return RecorderMinute(flush.received_us, flush.batch.sample_count, late, behind_us)

    def _fill(self, tx: Transaction, epoch: int, flush: Flush) -> tuple[SafeRecord, ...]:
        epochs.check_lease(tx, epoch)
        epochs.extend_lease(tx, epoch)
        if not epochs.begin_fill(tx, flush.epoch, flush.seq):
            return records.find_safe(tx, (flush.epoch, flush.seq), flush.of(Record))
        late = Late(_holes_of(tx, flush, self._group), epochs.get_opened(tx, epoch))
        series = {key: _inside(part, late.holes) for key, part in flush.batch.series.items()}
        batch = Batch({key: part for key, part in series.items() if len(part)})
        if not journal.add_batch(tx, replace(flush, batch=batch)):
            return records.find_safe(tx, (flush.epoch, flush.seq), flush.of(Record))
        safe = store_outputs(self._handlers, Storing(tx, flush, self._group, late))
        for number, hole in late.holes:
            news = _told_of(hole, flush)
            if news is not None:
                gaps.cut(tx, number, hole, news, self._group)
                months.unbuild_days(tx, news)
        return safe


class _TakenBack(Exception):
    """Rolls a probe back."""


def _open(tx: Transaction, holder: str, now_us: int, group: int) -> int | None:
    taken = epochs.take_lease(tx, holder, now_us, group)
    if taken is None:
        return None
    number, predecessor = taken
    journal.add_mark(tx, number)
    if predecessor is not None and predecessor.known_until_us < now_us:
        reason, detail = _ENDINGS.get(predecessor.reason, _ENDINGS["lost"])
        gaps.add_gaps(tx, [Gap(predecessor.known_until_us, now_us, reason, detail)], group)
    if predecessor is not None and predecessor.reason == "clock_step":
        runs.carry(tx, number, group)
    elif predecessor is not None:
        runs.cut(tx, predecessor.known_until_us, group)
    return number


def _begin(tx: Transaction, epoch: int, now_us: int, group: int) -> None:
    epochs.check_lease(tx, epoch)
    opened_us = epochs.get_opened(tx, epoch)
    if opened_us >= now_us:
        return
    gaps.extend_until_recorder(tx, opened_us, now_us, group)
    before = epochs.find_before(tx, epoch)
    before_us = None if before is None else epochs.find_known_until(tx, before)
    if before_us is not None and opened_us <= before_us < now_us:
        # The clock of the machine that recorded before was ahead: there was no gap yet.
        starting = Gap(before_us, now_us, GapReason.RECORDER_DOWN, "The recorder was starting.")
        gaps.add_gaps(tx, [starting], group)
    epochs.put_opened(tx, epoch, now_us)


def _holes_of(tx: Transaction, flush: Flush, group: int) -> list[tuple[int, Gap]]:
    """The gaps, with their numbers, in which what a flush of an earlier epoch tells is not known yet."""
    after_us = epochs.find_known_until(tx, flush.epoch)
    if after_us is None:
        after_us = flush.known_until_us if flush.since_us is None else flush.since_us
    return gaps.list_after_recorder(tx, after_us, flush.known_until_us, group)


def _told_of(hole: Gap, flush: Flush) -> Window | None:
    """The stretch of a hole that a flush tells of: from where the flush before it knew to where it knows."""
    start_us = hole.start_us if flush.since_us is None else max(hole.start_us, flush.since_us)
    end_us = min(flush.known_until_us, flush.known_until_us if hole.end_us is None else hole.end_us)
    return Window(start_us, end_us) if start_us < end_us else None


def _inside(series: Series, holes: Sequence[tuple[int, Gap]]) -> Series:
    """The samples that lie in one of the gaps."""
    keep = np.zeros(len(series), np.bool_)
    for _, hole in holes:
        keep |= (series.ts_us >= hole.start_us) & (series.ts_us < (hole.end_us or hole.start_us))
    return series.take(keep)
