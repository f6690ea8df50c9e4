"""Scanning one source: each group of its tags is read on the clock."""

from __future__ import annotations

import asyncio
from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from cronaca.core import quality as q
from cronaca.core.logger_rules import latest_tick
from cronaca.core.model import SECOND, SourceSetup, SourceState, Tag, Window
from cronaca.core.ports import Clock, Driver, Explaining
from cronaca.core.readings import Readings, Slots, Values
from cronaca.recorder.devices.source import OnReadings, Sleep, SourceWorker
from cronaca.recorder.live import LiveTable

_LONGEST_SLEEP_S: Final = 0.5
"""Tags may be added meanwhile."""
_LATE_SHARE: Final = 0.25
_LATE_US: Final = SECOND // 4
"""A scan that begins later than this share of its interval, or than this, is stamped with its true time, and
counted. Nearer to its tick it carries the tick, so that values of several sources stand at one time."""
_STALE_SCANS: Final = 3
"""After so many intervals without a reading the last value is no longer called Good."""
_TOLERATED_US: Final = 5 * SECOND
"""A recorder that was held up for longer leaves a gap; for shorter its values are Uncertain."""
OnMissed = Callable[[Slots, Window, str], None]
"""Told of slots that nobody read over a window, because the recorder was delayed, and why in words."""


@dataclass(slots=True)
class _Group:
    """Tags that are read together, every `interval_us`."""

    interval_us: int
    tags: list[Tag]
    slots: Slots
    next_us: int
    read_us: int = 0
    """When it was read last over this connection; 0: it was not yet."""


class SourceScanner(SourceWorker):
    """Reads the tags of a polled device."""

    def __init__(
        self,
        setup: SourceSetup,
        driver: Driver,
        tags: Sequence[Tag],
        live: LiveTable,
        on_readings: OnReadings,
        clock: Clock,
        sleep: Sleep = asyncio.sleep,
        on_missed: OnMissed | None = None,
    ) -> None:
        super().__init__(setup, driver, live, on_readings, clock, sleep)
        self._on_missed = on_missed
        self._groups = _group(tags, live, clock.now_us())
        self._scanning = False
        self._under_way: tuple[_Group, int] | None = None

    @property
    def tag_count(self) -> int:
        """How many tags are read."""
        return sum(len(group.tags) for group in self._groups)

    def set_tags(self, tags: Sequence[Tag]) -> None:
        """Reads these tags from now on, without a new connection; the clock of each group goes on."""
        before = {group.interval_us: group for group in self._groups}
        self._groups = _group(tags, self._live, self._clock.now_us())
        now = self._clock.now_us()
        for group in self._groups:
            old = before.get(group.interval_us)
            group.next_us = _next_tick(now, group.interval_us) if old is None else old.next_us
            group.read_us = 0 if old is None or old.tags != group.tags else old.read_us
            if self._under_way is not None and self._under_way[0] is old:
                group.next_us += group.interval_us  # that tick is being read already

    def known_until_us(self, now_us: int) -> int:
        """Up to here every reading was handed on: a scan that is due or under way is not."""
        if not self._scanning:
            return now_us
        under_way = [] if self._under_way is None else [self._under_way[1]]
        return min([now_us, *under_way, *(group.next_us for group in self._groups)])

    async def _serve(self) -> None:
        self._schedule()
        self._scanning = True
        while True:
            if not self._groups:
                await self._idle()
                continue
            group = min(self._groups, key=lambda g: g.next_us)
            wait_us = group.next_us - self._clock.now_us()
            if wait_us > group.interval_us:
                self._schedule()  # the clock was set back
            elif wait_us > 0:
                await self._sleep(min(wait_us / 1e6, _LONGEST_SLEEP_S))
            else:
                await self._scan(group)

    def _schedule(self) -> None:
        now = self._clock.now_us()
        for group in self._groups:
            group.next_us = _next_tick(now, group.interval_us)

    async def _idle(self) -> None:
        """There is nothing to read: the connection stands, and that is all that is known."""
        self._enter(SourceState.UP, "")
        await self._sleep(_LONGEST_SLEEP_S)

    async def _scan(self, group: _Group) -> None:
        now = self._clock.now_us()
        late_us = now - group.next_us
        late = late_us > min(group.interval_us * _LATE_SHARE, _LATE_US)
        ts = now if late else group.next_us
        self.late_scans += late
        self._under_way = group, ts
        self._tell_unread(group, late_us)
        values = await self._driver.read(group.tags)
        self._under_way = None
        driver = self._driver
        self._enter(SourceState.UP, driver.trouble if isinstance(driver, Explaining) else "")
        self._on_readings(Readings.of(group.slots, ts, values))
        group.read_us = ts
        # Skipped ticks are not made up for: the next scan is the next tick still to come, never one before
        # the reading that was just handed on.
        newest = latest_tick(self._clock.now_us(), group.interval_us)
        group.next_us = max(newest, _next_tick(ts, group.interval_us))

    def _tell_unread(self, group: _Group, late_us: int) -> None:
        """Nobody read this group for a while: its values were not known meanwhile, and that is said before
        the next reading. Held up for long, it is a gap."""
        since_us = group.read_us + group.interval_us
        if not group.read_us or group.next_us + late_us - group.read_us <= _STALE_SCANS * group.interval_us:
            return
        last = self._live.at(group.slots, since_us)
        doubtful = np.where(q.is_bad(last.quality), last.quality, q.UNCERTAIN_LAST_USABLE).astype(np.uint16)
        self._on_readings(Readings.of(group.slots, since_us, Values(last.bits, doubtful)))
        unread = Window(since_us, group.next_us + late_us)
        if unread.length_us > max(_TOLERATED_US, _STALE_SCANS * group.interval_us) and self._on_missed:
            who = "the recorder was delayed" if 2 * late_us > unread.length_us else "the device was slow"
            length_s = unread.length_us / SECOND
            self._on_missed(group.slots, unread, f"Nothing was read for {length_s:.1f} s: {who}.")

    def _say_bad(self) -> None:
        for group in self._groups:
            count = len(group.tags)
            bad = Values(np.zeros(count, np.int64), np.full(count, q.BAD_NO_COMMUNICATION, np.uint16))
            self._on_readings(Readings.of(group.slots, self._clock.now_us(), bad))

    def _after_loss(self) -> None:
        self._scanning, self._under_way = False, None
        for group in self._groups:
            group.read_us = 0


def _next_tick(now_us: int, interval_us: int) -> int:
    return latest_tick(now_us, interval_us) + interval_us


def _group(tags: Sequence[Tag], live: LiveTable, now_us: int) -> list[_Group]:
    by_interval: dict[int, list[Tag]] = defaultdict(list)
    for tag in tags:
        by_interval[tag.scan_us].append(tag)
    return [
        _Group(interval, members, live.slots_of([t.tag_id for t in members]), now_us)
        for interval, members in sorted(by_interval.items())
    ]
