"""Present values of all tags as columns, one slot per tag; written by scans, read by loggers and flushes."""

from __future__ import annotations

import threading
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.model import Tag
from cronaca.core.ports import LiveValues, Reading

Slots = NDArray[np.intp]


class LiveTable:
    """The newest reading of each tag, and the one before it: a tick that is looked at a moment late
    must not take a value from after the tick."""

    def __init__(self, tags: Sequence[Tag], now_us: int, block: int) -> None:
        self._lock = threading.Lock()
        self._block = block
        self.slots = {tag.tag_id: slot for slot, tag in enumerate(tags)}
        self.tag_ids = np.array([tag.tag_id for tag in tags], np.int64)
        self._types = np.array([tag.value_type for tag in tags], np.int64)
        self._scan_us = np.array([tag.scan_us for tag in tags], np.int64)
        self._ts = np.full((2, len(tags)), now_us, np.int64)
        self._bits = np.zeros((2, len(tags)), np.int64)
        self._quality = np.full((2, len(tags)), q.BAD_WAITING_FOR_INITIAL_DATA, np.uint16)
        self._dirty = np.ones(len(tags), np.bool_)

    def slots_of(self, tag_ids: Sequence[int]) -> Slots:
        """The slots of these tags."""
        return np.array([self.slots[tag_id] for tag_id in tag_ids], np.intp)

    def update(self, slots: Slots, ts_us: int, reading: Reading) -> None:
        """Takes a scan's reading."""
        with self._lock:
            for column in (self._ts, self._bits, self._quality):
                column[1, slots] = column[0, slots]
            self._ts[0, slots] = ts_us
            self._bits[0, slots] = reading.bits
            self._quality[0, slots] = reading.quality
            self._dirty[slots] = True

    def at(self, slots: Slots, tick_us: int) -> Reading:
        """What the tags were at a tick. A value three scans old is no longer called Good."""
        with self._lock:
            row = (self._ts[0, slots] > tick_us).astype(np.intp)
            ts, bits = self._ts[row, slots], self._bits[row, slots]
            quality = self._quality[row, slots].copy()
        stale = (tick_us - ts > 3 * self._scan_us[slots]) & q.is_good(quality)
        quality[stale] = q.UNCERTAIN_LAST_USABLE
        return Reading(bits, quality)

    def take_changed(self) -> LiveValues:
        """The whole blocks in which something changed since the last call."""
        with self._lock:
            blocks = self.tag_ids // self._block
            chosen = np.isin(blocks, np.unique(blocks[self._dirty]))
            self._dirty[:] = False
            return LiveValues(
                self.tag_ids[chosen],
                self._types[chosen],
                self._ts[0, chosen],
                self._bits[0, chosen],
                self._quality[0, chosen],
            )

    def offer_again(self) -> None:
        """All values are taken as changed: what was taken last did not arrive."""
        with self._lock:
            self._dirty[:] = True
