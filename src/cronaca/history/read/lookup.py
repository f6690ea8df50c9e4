"""What the recorder looks up of what was recorded before it."""

from __future__ import annotations

from cronaca.core.model import Window
from cronaca.core.ports import Remembered
from cronaca.db.pool import Store
from cronaca.history.read.series import SeriesReader


class StoreHistoryLookup:
    """Reads the past of single tags. Keeps nothing of it: this is done once for each."""

    def __init__(self, store: Store) -> None:
        self._store = store

    def recall(self, tag_id: int, window: Window) -> Remembered:
        """What is recorded of a tag over a window, from the archive that fits."""
        (answer,) = SeriesReader(self._store).read_many([tag_id], window)
        return Remembered(answer.series, answer.known_until_us)
