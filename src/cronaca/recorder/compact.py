"""The compactor: turns the journal into segments, a step at a time, until it is stopped."""

from __future__ import annotations

import logging
import threading
from typing import Final

from cronaca.core.errors import StoreError
from cronaca.core.ports import Compaction

PERIOD_S: Final = 20.0
_log = logging.getLogger(__name__)


def run_compactor(compaction: Compaction, stop: threading.Event, period_s: float = PERIOD_S) -> None:
    """Works off what waits, then pauses; a database that is away is waited for."""
    while not stop.is_set():
        try:
            while compaction.compact_step() and not stop.is_set():
                pass
        except StoreError as exc:
            _log.warning("Compaction waits: %s", exc)
        stop.wait(period_s)
