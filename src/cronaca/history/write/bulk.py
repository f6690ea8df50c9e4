"""The door for history that was not recorded by this recorder: whole series, straight into segments."""

from __future__ import annotations

from collections.abc import Mapping

from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import Series, Window
from cronaca.core.topics import Topic
from cronaca.db.pool import Store
from cronaca.db.transaction import Transaction
from cronaca.history.jobs.compaction import in_turn
from cronaca.history.tables import segments
from cronaca.history.tables.partitions import Partitions
from cronaca.plant import coverage


def backfill(store: Store, samples: Mapping[HistoryKey, Series], window: Window) -> None:
    """Writes the series in one transaction, and says that all of the window is known. Where a sample
    stands at the same time already, it stays."""

    def write(tx: Transaction, partitions: Partitions) -> None:
        tx.changes(Topic.HISTORY)
        filled = {key: series for key, series in samples.items() if len(series)}
        partitions.check(segments.places_of(filled))
        segments.append(tx, filled)
        coverage.add(tx, [(key, window) for key in samples])

    in_turn(store, Partitions(store), write)
