"""Loggers at work: core's rules, fed with readings and ticks, their decisions put into the queue."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core.logging import ChangeState, PeriodicState, decide_change, decide_periodic, latest_tick
from cronaca.core.model import SECOND, Logger, Window
from cronaca.core.ports import Reading
from cronaca.recorder.live import LiveTable, Slots
from cronaca.recorder.queue import Chunk, SampleQueue

GRACE_US: Final = SECOND // 4
"""How long after a tick its scans may still answer."""


class PeriodicLogger:
    """Records its tags at each tick."""

    def __init__(self, logger: Logger, live: LiveTable, histories: Mapping[int, int], now_us: int) -> None:
        self.interval_us = logger.interval_us
        self.begin(now_us)
        self._slots = live.slots_of(logger.tag_ids)
        self._histories = np.array([histories[tag_id] for tag_id in logger.tag_ids], np.intp)
        self._state = PeriodicState.fresh(len(logger.tag_ids))
        self._live = live

    def begin(self, now_us: int) -> None:
        """Starts with the next tick: a recorder may have waited for its lease since it was built."""
        self.next_us = latest_tick(now_us, self.interval_us) + self.interval_us

    @property
    def grace_us(self) -> int:
        """When a tick is looked at, counted from it."""
        return min(GRACE_US, self.interval_us // 4)

    def record_due(self, now_us: int, queue: SampleQueue) -> Window | None:
        """Records the tick that is due. Ticks missed altogether (a process or machine that stood still)
        are not invented: their stretch, up to the tick recorded, is returned."""
        if self.next_us - now_us > self.interval_us:
            self.begin(now_us)  # the clock was set back
        if now_us < self.next_us + self.grace_us:
            return None
        due = self.next_us
        tick = max(due, latest_tick(now_us - self.grace_us, self.interval_us))
        reading = self._live.at(self._slots, tick)
        keep = decide_periodic(self._state, reading.quality)
        queue.put(Chunk(self._histories[keep], tick, reading.bits[keep], reading.quality[keep]))
        self.next_us = tick + self.interval_us
        return Window(due, tick) if tick > due else None


class ChangeLogger:
    """Records its tags when they change."""

    def __init__(self, logger: Logger, live: LiveTable, histories: Mapping[int, int]) -> None:
        slots = live.slots_of(logger.tag_ids)
        self._member_of: NDArray[np.intp] = np.full(len(live.tag_ids), -1, np.intp)
        self._member_of[slots] = np.arange(len(slots))
        self._histories = np.array([histories[tag_id] for tag_id in logger.tag_ids], np.intp)
        self._state = ChangeState.fresh(len(slots))

    def on_reading(self, slots: Slots, ts_us: int, reading: Reading, queue: SampleQueue) -> None:
        """Looks at a scan's reading."""
        members = self._member_of[slots]
        mine = members >= 0
        if not mine.any():
            return
        members, bits, quality = members[mine], reading.bits[mine], reading.quality[mine]
        keep = decide_change(self._state, members, bits, quality)
        if keep.any():
            queue.put(Chunk(self._histories[members[keep]], ts_us, bits[keep], quality[keep]))
