"""Where the recorder puts what devices remembered of an outage."""

from __future__ import annotations

import time
from collections.abc import Sequence

from cronaca.core.ports import Backfill
from cronaca.db.pool import Store
from cronaca.history.write.edits import Author, HistoryEditor

RECORDER = "recorder"


class StoreBackfill:
    """A BackfillSink on a store."""

    def __init__(self, store: Store) -> None:
        self._editor = HistoryEditor(store)

    def fill(self, parts: Sequence[Backfill], reason: str) -> int:
        """Corrects each history; what stood there stays on record as modified history."""
        return self._editor.fill(parts, Author(RECORDER, time.time_ns() // 1000, reason))
