"""Turning journal rows into segments: each step is one transaction, restartable at any point."""

from __future__ import annotations

import logging
from collections import defaultdict
from collections.abc import Callable
from typing import Final, TypeVar

from cronaca.core.codec.batch import Batch, HistoryKey
from cronaca.core.model import MINUTE, Series, merge
from cronaca.core.ports import Clock
from cronaca.db.errors import NoPartition
from cronaca.db.pool import Store
from cronaca.db.transaction import Transaction
from cronaca.history.tables import journal, segments
from cronaca.history.tables.partitions import Partitions, PartitionsMissing
from cronaca.history.write.turn import take_turn

T = TypeVar("T")
_log = logging.getLogger(__name__)
MOST_ROWS: Final = 240
KEEP_US: Final = 5 * MINUTE
"""Compacted rows stay this long for followers that were away for a moment."""


class StoreCompaction:
    """The worker's work on a store. A sample is in the journal behind the mark, or in a segment
    before it, never both: the mark moves in the same transaction."""

    def __init__(self, store: Store, clock: Clock) -> None:
        self._store = store
        self._clock = clock
        self._partitions = Partitions(store)

    def compact_step(self) -> int:
        """Compacts the oldest waiting rows of one epoch, at most MOST_ROWS; returns how many."""
        done = in_turn(self._store, self._partitions, compact_some)
        self._store.run(lambda tx: journal.prune(tx, self._clock.now_us() - KEEP_US))
        return done


def in_turn(store: Store, partitions: Partitions, work: Callable[[Transaction, Partitions], T]) -> T:
    """Runs the work of a writer of segments in its turn, and again when it lacked partitions: these
    cannot be made inside of a transaction."""
    while True:
        try:
            return store.run(lambda tx: _with_turn(tx, partitions, work))
        except PartitionsMissing as exc:
            partitions.ensure(exc.places)
        except NoPartition:
            partitions.forget()


def _with_turn(tx: Transaction, partitions: Partitions, work: Callable[[Transaction, Partitions], T]) -> T:
    take_turn(tx)
    return work(tx, partitions)


def compact_some(tx: Transaction, partitions: Partitions) -> int:
    """Compacts the oldest waiting rows of one epoch inside of a turn; returns how many."""
    epoch = journal.find_waiting_epoch(tx)
    if epoch is None:
        return 0
    mark = journal.lock_mark(tx, epoch)
    rows = journal.read_waiting(tx, epoch, mark, MOST_ROWS)
    by_key = _by_history([row.batch for row in rows])
    partitions.check(segments.places_of(by_key))
    segments.append(tx, by_key)
    for row in rows:
        if row.problem:
            _log.error("Journal row %d/%d cannot be read and is set aside: %s", *row.key, row.problem)
            journal.set_aside(tx, row)
    if rows:
        journal.put_mark(tx, rows[-1].key)
    return len(rows)


def _by_history(batches: list[Batch]) -> dict[HistoryKey, Series]:
    parts: dict[HistoryKey, list[Series]] = defaultdict(list)
    for batch in batches:
        for key, series in batch.series.items():
            parts[key].append(series)
    return {key: merge(part, part[0].value_type) for key, part in parts.items()}
