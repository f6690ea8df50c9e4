"""Where the recorder's flushes are committed: journal, present values, gaps and lease in one transaction."""

from __future__ import annotations

from typing import Final

from cronaca.core.model import Gap, GapReason
from cronaca.core.ports import Flush
from cronaca.store import current, epochs, gaps, journal
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

    def commit(self, flush: Flush) -> None:
        """Commits a flush; one that was committed before changes nothing."""
        self._store.run(lambda tx: _commit(tx, flush))

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
    return number


def _commit(tx: Transaction, flush: Flush) -> None:
    epochs.check_lease(tx, flush.epoch)
    if not journal.add_batch(tx, flush):
        return
    gaps.add_gaps(tx, flush.gaps)
    current.put_current(tx, flush.epoch, flush.seq, flush.live)
    epochs.renew_lease(tx, flush)
