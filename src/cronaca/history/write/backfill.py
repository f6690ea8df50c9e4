"""Filling a gap with what a device remembered of it."""

from __future__ import annotations

import time

from cronaca.core.logger_rules.backfill import backfilled
from cronaca.core.ports import MissedReadings
from cronaca.db.pool import Store
from cronaca.history.write.edits import Author, Filling, HistoryEditor

RECORDER = "recorder"
_REASON = "The device remembered what was missed."


class StoreBackfill:
    """A BackfillSink on a store."""

    def __init__(self, store: Store) -> None:
        self._editor = HistoryEditor(store)

    def fill(self, missed: MissedReadings) -> None:
        """Each logger keeps of the readings what it would have kept. What stood in their place stays on
        record as modified history; repeating it writes nothing twice."""
        window = missed.window
        parts = [
            Filling(key, window, backfilled(mode, missed.tag, missed.readings, window))
            for key, mode in missed.takers
        ]
        self._editor.fill(parts, Author(RECORDER, time.time_ns() // 1000, _REASON))
