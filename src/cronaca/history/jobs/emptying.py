"""Live-only archives: scratch work that a start of the recorder empties."""

from __future__ import annotations

import logging
from typing import Final

from cronaca.core.ports import Clock
from cronaca.db.pool import Store
from cronaca.history.jobs.compaction import compact_some, in_turn
from cronaca.history.jobs.retention import forget_month
from cronaca.history.tables.months import ALL_DAYS
from cronaca.history.tables.partitions import TABLES, Partitions
from cronaca.history.write.turn import take_turn

_ARCHIVES: Final = "SELECT archive_id, name FROM archive WHERE live_only"
_MONTHS: Final = """
SELECT DISTINCT month FROM history_month WHERE archive_id = %(archive_id)s AND sample_count > 0
"""
_FORGET_COVERAGE: Final = "DELETE FROM coverage WHERE archive_id = %(archive_id)s AND end_us IS NOT NULL"
_BEGIN_ANEW: Final = """
UPDATE IGNORE coverage SET start_us = %(now_us)s WHERE archive_id = %(archive_id)s AND start_us < %(now_us)s
"""
_log = logging.getLogger(__name__)


def empty_live_archives(store: Store, clock: Clock) -> list[str]:
    """Empties them, whole months at once; returns their names. What waits in the journal goes too: it is
    compacted first. Raises StoreError."""
    with store.snapshot() as tx:
        archives = [(int(number), str(name)) for number, name in tx.fetch(_ARCHIVES)]
    if not archives:
        return []
    partitions = Partitions(store)
    while in_turn(store, partitions, compact_some):
        pass
    for archive_id, name in archives:
        with store.snapshot() as tx:
            months = [int(row[0]) for row in tx.fetch(_MONTHS, archive_id=archive_id)]
        for month in months:
            with store.transaction() as tx:
                take_turn(tx)
                for table in TABLES:
                    partitions.drop(table, (archive_id, month))
                forget_month(tx, archive_id, month, ALL_DAYS)
        with store.transaction() as tx:
            tx.execute(_FORGET_COVERAGE, archive_id=archive_id)
            tx.execute(_BEGIN_ANEW, archive_id=archive_id, now_us=clock.now_us())
        _log.info("The live-only archive %s begins empty", name)
    return [name for _, name in archives]
