"""Where the recorder's flushes are committed: journal, present values, gaps and lease in one transaction."""

from __future__ import annotations

from dataclasses import replace
from typing import Final

import numpy as np

from cronaca.core.codec import Batch
from cronaca.core.model import Gap, GapReason, Series, Window
from cronaca.core.ports import Flush, SafeRecord
from cronaca.store import coverage, current, epochs, gaps, journal, months, records, runs
from cronaca.store.pool import Store
from cronaca.store.transaction import Transaction

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

    def __init__(self, store: Store) -> None:
        self._store = store

    def open_epoch(self, holder: str, now_us: int) -> int | None:
        """Takes the lease and puts the gap since the last epoch on record; None while another holds it."""
        return self._store.run(lambda tx: _open(tx, holder, now_us))

    def commit(self, flush: Flush) -> tuple[SafeRecord, ...]:
        """Commits a flush; one that was committed before changes nothing."""
        return self._store.run(lambda tx: _commit(tx, flush))

    def fill(self, epoch: int, flush: Flush) -> tuple[SafeRecord, ...]:
        """Keeps what an earlier epoch's flush holds of uncovered time, and shortens the gap there."""
        return self._store.run(lambda tx: _fill(tx, epoch, flush))

    def close_epoch(self, epoch: int, known_until_us: int, reason: str) -> None:
        """Ends the epoch on purpose."""
        self._store.run(lambda tx: epochs.close_epoch(tx, epoch, known_until_us, reason))


def _open(tx: Transaction, holder: str, now_us: int) -> int | None:
    taken = epochs.take_lease(tx, holder, now_us)
    if taken is None:
        return None
    number, predecessor = taken
    journal.add_mark(tx, number)
    if predecessor is not None and predecessor.known_until_us < now_us:
        reason, detail = _ENDINGS.get(predecessor.reason, _ENDINGS["lost"])
        gaps.add_gaps(tx, [Gap(predecessor.known_until_us, now_us, reason, detail)])
    if predecessor is not None and predecessor.reason == "clock_step":
        runs.carry(tx, number)
    elif predecessor is not None:
        runs.cut(tx, predecessor.known_until_us)
    return number


def _commit(tx: Transaction, flush: Flush) -> tuple[SafeRecord, ...]:
    epochs.check_lease(tx, flush.epoch)
    if not journal.add_batch(tx, flush):
        return records.find_safe(tx, flush)
    gaps.add_gaps(tx, flush.gaps)
    _mark(tx, flush)
    current.put_current(tx, flush.epoch, flush.seq, flush.live)
    runs.put_marks(tx, flush)
    epochs.renew_lease(tx, flush)
    return records.add_records(tx, flush)


def _mark(tx: Transaction, flush: Flush) -> None:
    for mark in flush.coverage:
        if mark.reason is None:
            coverage.begin(tx, mark.keys, mark.at_us)
        else:
            coverage.end(tx, mark.keys, mark.at_us, mark.reason)


def _fill(tx: Transaction, epoch: int, flush: Flush) -> tuple[SafeRecord, ...]:
    epochs.check_lease(tx, epoch)
    epochs.extend_lease(tx, epoch)
    gaps.add_gaps(tx, flush.gaps)
    _mark(tx, flush)
    after_us = epochs.get_known_until(tx, flush.epoch)
    holes = gaps.list_after_recorder(tx, after_us, flush.known_until_us)
    kept = {key: _inside(series, holes) for key, series in flush.batch.series.items()}
    batch = Batch({key: series for key, series in kept.items() if len(series)})
    if not journal.add_batch(tx, replace(flush, batch=batch)):
        return records.find_safe(tx, flush)
    runs.put_marks(tx, flush, late=True)
    for number, hole in holes:
        end_us = hole.end_us or flush.known_until_us
        gaps.shorten(tx, number, min(flush.known_until_us, end_us))
        months.unbuild_days(tx, Window(hole.start_us, end_us))
    return records.add_records(tx, flush)


def _inside(series: Series, holes: list[tuple[int, Gap]]) -> Series:
    """The samples that lie in one of the gaps."""
    keep = np.zeros(len(series), np.bool_)
    for _, hole in holes:
        keep |= (series.ts_us >= hole.start_us) & (series.ts_us < (hole.end_us or hole.start_us))
    return series.take(keep)
