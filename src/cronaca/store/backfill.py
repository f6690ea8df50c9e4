"""The door for history that was not recorded by this recorder: whole series, straight into segments."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import Series, Window
from cronaca.store import epochs, journal, segments
from cronaca.store.pool import Store

_HOLDER: Final = "backfill"


def backfill(store: Store, found: Mapping[HistoryKey, Series], window: Window) -> None:
    """Writes the series in one transaction, and says that all of the window is known.

    Only before anything was recorded: the stretch becomes the first epoch, and what follows until the
    recorder starts is a gap on record."""
    with store.transaction() as tx:
        for key, series in found.items():
            segments.append_series(tx, key, series)
        opened = epochs.take_lease(tx, _HOLDER, window.start_us)
        if opened is not None:
            journal.add_mark(tx, opened[0])
            epochs.close_epoch(tx, opened[0], window.end_us, "stopped")
