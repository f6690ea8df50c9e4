"""Present values of all tags as columns, one slot per tag; written by scans, read by loggers and flushes."""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Sequence
from typing import Final

import numpy as np

from cronaca.core import quality as q
from cronaca.core.model import SECOND, Tag
from cronaca.core.ports import LiveValues
from cronaca.core.readings import Readings, Slots, Values

_QUARANTINE_US: Final = 60 * SECOND
"""So long no reading is under way: a driver that answers later has lost its connection."""
_DEPTH: Final = 24
"""Readings remembered of each tag: those of the quickest scan reach back for longer than anybody waits."""


class LiveTable:
    """The newest readings of each tag, as rings: a tick or a record that is looked at a moment late must
    not take a value from after its instant."""

    def __init__(self, tags: Sequence[Tag], now_us: int, block: int) -> None:
        self._lock = threading.Lock()
        self._block = block
        self.slots: dict[int, int] = {}
        self.tag_ids = np.empty(0, np.int64)
        self.types = np.empty(0, np.int64)
        self._scan_us = np.empty(0, np.int64)
        self._sure_until = np.empty(0, np.int64)
        """Until then a value is not old, though no reading came: its device said that it lives."""
        self._newest = np.empty(0, np.intp)
        """The row of each slot's newest reading; older ones are in the rows before it."""
        self._ts = np.empty((_DEPTH, 0), np.int64)
        self._bits = np.empty((_DEPTH, 0), np.int64)
        self._quality = np.empty((_DEPTH, 0), np.uint16)
        self._dirty = np.empty(0, np.bool_)
        self._alive = np.empty(0, np.bool_)
        self._given_up: deque[tuple[int, int]] = deque()
        """Slots that nobody has, and since when."""
        self.follow(tags, now_us)

    def follow(self, tags: Sequence[Tag], now_us: int) -> None:
        """Takes a changed set-up: a tag that was there keeps its slot and its value, unless its type is
        another one. A slot that was given up is used again, but not before every reading that was under way
        for it has come."""
        with self._lock:
            before = self.slots
            kept = {
                tag.tag_id: before[tag.tag_id]
                for tag in tags
                if tag.tag_id in before and self.types[before[tag.tag_id]] == tag.value_type
            }
            gone = np.array([s for tag_id, s in before.items() if tag_id not in kept], np.intp)
            self._alive[gone], self._dirty[gone] = False, True
            self._given_up.extend((slot, now_us) for slot in gone.tolist())
            self._take_slots([tag for tag in tags if tag.tag_id not in kept], kept, now_us)
            self.slots = kept
            self._scan_us[self.slots_of([t.tag_id for t in tags])] = [t.scan_us for t in tags]

    def _take_slots(self, new: Sequence[Tag], slots: dict[int, int], now_us: int) -> None:
        """Gives new tags slots that were given up long enough ago, and appends the rest."""
        rest = list(new)
        while rest and self._given_up and now_us - self._given_up[0][1] > _QUARANTINE_US:
            slot, tag = self._given_up.popleft()[0], rest.pop(0)
            slots[tag.tag_id] = slot
            self.tag_ids[slot], self.types[slot] = tag.tag_id, int(tag.value_type)
            self._scan_us[slot] = self._sure_until[slot] = self._newest[slot] = 0
            self._ts[:, slot], self._bits[:, slot] = now_us, 0
            self._quality[:, slot] = q.BAD_WAITING_FOR_INITIAL_DATA
            self._dirty[slot] = self._alive[slot] = True
        self._append(rest, slots, now_us)

    def _append(self, new: Sequence[Tag], slots: dict[int, int], now_us: int) -> None:
        count, start = len(new), len(self.tag_ids)
        slots.update((tag.tag_id, start + i) for i, tag in enumerate(new))
        self.tag_ids = np.append(self.tag_ids, np.array([t.tag_id for t in new], np.int64))
        self.types = np.append(self.types, np.array([t.value_type for t in new], np.int64))
        self._scan_us = np.append(self._scan_us, np.zeros(count, np.int64))
        self._sure_until = np.append(self._sure_until, np.zeros(count, np.int64))
        self._newest = np.append(self._newest, np.zeros(count, np.intp))
        self._ts = np.hstack([self._ts, np.full((_DEPTH, count), now_us, np.int64)])
        self._bits = np.hstack([self._bits, np.zeros((_DEPTH, count), np.int64)])
        unknown = np.full((_DEPTH, count), q.BAD_WAITING_FOR_INITIAL_DATA, np.uint16)
        self._quality = np.hstack([self._quality, unknown])
        self._dirty = np.append(self._dirty, np.ones(count, np.bool_))
        self._alive = np.append(self._alive, np.ones(count, np.bool_))

    def slots_of(self, tag_ids: Sequence[int]) -> Slots:
        """The slots of these tags."""
        return np.array([self.slots[tag_id] for tag_id in tag_ids], np.intp)

    def update(self, readings: Readings) -> None:
        """Takes readings of different tags."""
        slots = readings.slots
        with self._lock:
            row = (self._newest[slots] + 1) % _DEPTH
            self._newest[slots] = row
            self._ts[row, slots] = readings.ts_us
            self._bits[row, slots] = readings.bits
            self._quality[row, slots] = readings.quality
            self._dirty[slots] = True

    def confirm(self, slots: Slots, until_us: int) -> None:
        """Devices that report only changes say that they live: their values are not old before `until_us`."""
        with self._lock:
            self._sure_until[slots] = until_us

    def at(self, slots: Slots, tick_us: int) -> Values:
        """What the tags were at a tick. A value three scans old is no longer called Good."""
        with self._lock:
            row = self._newest[slots]
            for _ in range(_DEPTH - 1):
                later = self._ts[row, slots] > tick_us
                if not later.any():
                    break
                row = (row - later) % _DEPTH
            ts, bits = self._ts[row, slots], self._bits[row, slots]
            quality = self._quality[row, slots].copy()
            sure_until = self._sure_until[slots]
        old = (tick_us - ts > 3 * self._scan_us[slots]) & (tick_us > sure_until)
        stale = old & q.is_good(quality)
        quality[stale] = q.UNCERTAIN_LAST_USABLE
        return Values(bits, quality)

    def take_changed(self) -> LiveValues:
        """The whole blocks in which something changed since the last call."""
        with self._lock:
            blocks = self.tag_ids // self._block
            chosen = np.isin(blocks, np.unique(blocks[self._dirty])) & self._alive
            self._dirty[:] = False
            slots = np.flatnonzero(chosen)
            row = self._newest[slots]
            return LiveValues(
                self.tag_ids[slots], self.types[slots], self._ts[row, slots], self._bits[row, slots],
                self._quality[row, slots],
            )  # fmt: skip

    def offer_again(self) -> None:
        """All values are taken as changed: what was taken last did not arrive."""
        with self._lock:
            self._dirty[:] = True
