"""The compactor: turns the journal into segments and sums up what is over, until it is stopped."""

from __future__ import annotations

import logging
import threading
from typing import Final

from cronaca.core.errors import StoreError
from cronaca.core.ports import Compaction, SummaryBuilder

PERIOD_S: Final = 20.0
SLICE_S: Final = 5.0
"""Summing up pauses this often for the journal."""
_log = logging.getLogger(__name__)


def run_compactor(
    compaction: Compaction, builder: SummaryBuilder, stop: threading.Event, period_s: float = PERIOD_S
) -> None:
    """Works off what waits, then pauses; a database that is away is waited for."""
    while not stop.is_set():
        more = 0
        try:
            while compaction.compact_step() and not stop.is_set():
                pass
            more = builder.build_some(SLICE_S, stop.is_set)
        except StoreError as exc:
            _log.warning("Compaction waits: %s", exc)
        stop.wait(0 if more else period_s)
