"""Turning journal rows into segments: each step is one transaction, restartable at any point."""

from __future__ import annotations

from collections import defaultdict
from typing import Final

from cronaca.core.codec.batch import Batch, HistoryKey
from cronaca.core.model import MINUTE, Series, merge
from cronaca.core.ports import Clock
from cronaca.store import journal, segments
from cronaca.store.pool import Store
from cronaca.store.transaction import Transaction

MOST_ROWS: Final = 240
KEEP_US: Final = 5 * MINUTE
"""Compacted rows stay this long for followers that were away for a moment."""


class StoreCompaction:
    """The compactor's work on a store. A sample is in the journal behind the mark, or in a segment
    before it, never both: the mark moves in the same transaction."""

    def __init__(self, store: Store, clock: Clock) -> None:
        self._store = store
        self._clock = clock

    def compact_step(self) -> int:
        """Compacts the oldest waiting rows of one epoch, at most MOST_ROWS; returns how many."""
        epoch = self._store.run(journal.find_waiting_epoch)
        done = 0 if epoch is None else self._store.run(lambda tx: _compact(tx, epoch))
        self._store.run(lambda tx: journal.prune(tx, self._clock.now_us() - KEEP_US))
        return done


def _compact(tx: Transaction, epoch: int) -> int:
    mark = journal.lock_mark(tx, epoch)
    rows = journal.read_waiting(tx, epoch, mark, MOST_ROWS)
    for key, series in _by_history([batch for _, batch in rows]).items():
        segments.append_series(tx, key, series)
    if rows:
        journal.put_mark(tx, rows[-1][0])
    return len(rows)


def _by_history(batches: list[Batch]) -> dict[HistoryKey, Series]:
    parts: dict[HistoryKey, list[Series]] = defaultdict(list)
    for batch in batches:
        for key, series in batch.series.items():
            parts[key].append(series)
    return {key: merge(found, found[0].value_type) for key, found in parts.items()}
