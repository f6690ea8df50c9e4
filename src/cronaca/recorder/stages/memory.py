"""Remembers what tags were that no logger records: their last minutes can be drawn."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import ClassVar, Final

import numpy as np

from cronaca.core.model import MINUTE, ValueType
from cronaca.core.outputs import RECENT_ROW, RecentReadings
from cronaca.core.readings import Readings
from cronaca.core.setup.whole import Setup
from cronaca.recorder.live import LiveTable
from cronaca.recorder.stages.stage import Stage, StageContext

_TELL_AGAIN_US: Final = MINUTE
"""A value that stays is told again after so long: what is older is forgotten."""


class UnrecordedMemory(Stage):
    """Leaves each change of an unrecorded tag."""

    name: ClassVar[str] = "memory"

    def __init__(self, live: LiveTable) -> None:
        self._live = live
        self._context: StageContext | None = None
        self._tags: frozenset[int] = frozenset()
        self._mine = np.zeros(0, np.bool_)
        """By slot: whether it is remembered; then what was told of it last, and when."""
        self._bits = np.zeros(0, np.int64)
        self._quality = np.zeros(0, np.uint16)
        self._told_us = np.zeros(0, np.int64)

    def follow(self, setup: Setup, context: StageContext, now_us: int) -> Sequence[Readings]:
        """Goes over to a set-up; what is remembered of tags that stay unrecorded goes on."""
        del now_us
        recorded = {tag_id for logger in setup.loggers for tag_id in logger.tags}
        self._context = context
        self._tags = frozenset(
            tag.tag_id
            for tag in setup.tags
            if tag.tag_id not in recorded and tag.value_type is not ValueType.TEXT
        )
        count = len(self._live.tag_ids)
        self._mine = np.zeros(count, np.bool_)
        self._mine[self._live.slots_of([tag_id for tag_id in self._tags if tag_id in self._live.slots])] = (
            True
        )
        # Slots may be used again by other tags: all is told anew.
        self._bits, self._quality = np.zeros(count, np.int64), np.zeros(count, np.uint16)
        self._told_us = np.zeros(count, np.int64)
        return ()

    def wakes_on(self) -> Collection[int]:
        """The tags that no logger records."""
        return self._tags

    def on(self, readings: Readings) -> None:
        """Takes what is new of them."""
        slots = readings.slots
        inside = slots < len(self._mine)
        mine = readings.take(inside & self._mine[np.where(inside, slots, 0)])
        slots = mine.slots
        is_new = (mine.bits != self._bits[slots]) | (mine.quality != self._quality[slots])
        fresh = mine.take(is_new | (mine.ts_us - self._told_us[slots] >= _TELL_AGAIN_US))
        if not len(fresh) or self._context is None:
            return
        slots = fresh.slots
        self._bits[slots], self._quality[slots] = fresh.bits, fresh.quality
        self._told_us[slots] = fresh.ts_us
        rows = np.empty(len(fresh), RECENT_ROW)
        rows["tag"], rows["type"] = self._live.tag_ids[slots], self._live.types[slots]
        rows["ts"], rows["bits"], rows["quality"] = fresh.ts_us, fresh.bits, fresh.quality
        self._context.emit(RecentReadings(rows.tobytes()))
