"""The compactor: turns the journal into segments and sums up what is over, until it is stopped."""

from __future__ import annotations

import logging
import threading
import time
from typing import Final

from cronaca.core.errors import StoreError
from cronaca.core.ports import Compaction, Housekeeping, SummaryBuilder

PERIOD_S: Final = 20.0
SLICE_S: Final = 5.0
"""Summing up pauses this often for the journal."""
RETENTION_S: Final = 3600.0
_log = logging.getLogger(__name__)


def run_compactor(
    compaction: Compaction,
    builder: SummaryBuilder,
    retention: Housekeeping,
    stop: threading.Event,
    period_s: float = PERIOD_S,
) -> None:
    """Works off what waits, then pauses; a database that is away is waited for."""
    keep_house_at = time.monotonic() + RETENTION_S
    while not stop.is_set():
        more = 0
        try:
            while compaction.compact_step() and not stop.is_set():
                pass
            more = builder.build_some(SLICE_S, stop.is_set)
            if time.monotonic() >= keep_house_at:
                keep_house_at = time.monotonic() + RETENTION_S
                retention.run_all()
        except StoreError as exc:
            _log.warning("Compaction waits: %s", exc)
        stop.wait(0 if more else period_s)
