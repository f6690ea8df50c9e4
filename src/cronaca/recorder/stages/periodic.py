"""Periodic loggers at work: their tags are recorded at each tick."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Final

import numpy as np

from cronaca.core import quality as q
from cronaca.core.formulas import Column
from cronaca.core.logger_rules import PeriodicState, decide_periodic, latest_tick
from cronaca.core.logger_rules.interval import IntervalValues
from cronaca.core.loggers import LONGEST_INTERVAL_US, Logger, Periodic
from cronaca.core.model import SECOND, SHORTEST_SCAN_US, Gap, GapReason, Keeps, ValueType, Window
from cronaca.core.readings import Readings, Values
from cronaca.recorder.outputs.queue import Samples
from cronaca.recorder.stages.logger_stage import NEVER, LoggerStage
from cronaca.recorder.stages.stage import Moment, StageContext

GRACE_US: Final = SECOND // 4
"""How long after a tick its scans may still answer."""


class PeriodicLogger(LoggerStage):
    """Records its tags at each tick."""

    looks_around = True

    def __init__(
        self, logger: Logger, context: StageContext, now_us: int, before: PeriodicLogger | None = None
    ) -> None:
        super().__init__(logger, context, before)
        self._mode = logger.mode_as(Periodic)
        self.next_us: int = 0
        self._state = PeriodicState.fresh(len(logger.tags))
        self._types = context.live.types[self._slots]
        self.interval_us = self._mode.interval_us
        """The one at work: a tag may say another one than the set-up."""
        self.refused = ""
        """Why the interval is not what its tag says."""
        self._intervals = self._collector()
        self.begin(now_us)
        if before is not None:
            self._take_over(before)

    def _collector(self) -> IntervalValues:
        mode = self._mode
        return IntervalValues(len(self.setup.tags), mode.keeps, self.interval_us, mode.phase_us)

    def _take_over(self, before: PeriodicLogger) -> None:
        known = dict(zip(before._histories.tolist(), before._state.last_quality.tolist(), strict=True))
        last = [known.get(history, q.GOOD) for history in self._histories.tolist()]
        self._state = PeriodicState(np.array(last, np.uint16))
        old, new = before._mode, self._mode
        ticks = (old.interval_us, old.phase_us) == (new.interval_us, new.phase_us)
        if ticks and before.setup.when == self.setup.when:
            self.interval_us, self.refused = before.interval_us, before.refused
            self.next_us = before.next_us  # a tick that is due is not passed over
            if old.keeps is new.keeps and before.setup.tags == self.setup.tags:
                self._intervals = before._intervals

    def begin(self, now_us: int) -> None:
        """Starts with the next tick: a recorder may have waited for its lease since it was built."""
        self.next_us = self._latest(now_us) + self.interval_us if self.interval_us else NEVER

    def _latest(self, now_us: int) -> int:
        phase_us = self._mode.phase_us
        return latest_tick(now_us - phase_us, self.interval_us) + phase_us

    def look_at_interval(self, now_us: int) -> None:
        """The interval is the value of a tag, in seconds. Where that cannot be used the last usable one
        stays."""
        tag_id = self.setup.when.interval_tag
        if tag_id is None or tag_id not in self._context.live.slots:
            return
        slots = self._context.live.slots_of([tag_id])
        reading = self._context.live.at(slots, now_us)
        column = Column.of_bits(
            reading.bits, reading.quality, ValueType(int(self._context.live.types[slots][0]))
        )
        seconds = float(column.values[0])
        if not SHORTEST_SCAN_US <= seconds * SECOND <= LONGEST_INTERVAL_US:
            says = "has no usable value" if math.isnan(seconds) else f"says {seconds:g} s"
            self.refused = f"The tag for its interval {says}: {self.interval_us / SECOND:g} s stays."
            return
        self.refused = ""
        interval_us = round(seconds * SECOND)
        if interval_us != self.interval_us:
            self.interval_us = interval_us
            self._intervals = self._collector()
            self.begin(now_us)

    @property
    def grace_us(self) -> int:
        """When a tick is looked at, counted from it."""
        return min(GRACE_US, self.interval_us // 4)

    @property
    def collects(self) -> bool:
        """Whether it keeps a figure of the readings of each interval, and so has to see them all."""
        return self._mode.keeps is not Keeps.VALUE

    def follow_clock(self, now_us: int) -> None:
        """A clock that was set back must not make it wait for ticks far ahead."""
        if self.interval_us and self.next_us - now_us > self.interval_us:
            self.begin(now_us)

    def _reads(self) -> Sequence[int]:
        """Its members, where a figure of each interval is kept; else their present values do."""
        return self.setup.tags if self.collects else ()

    def _pass_time(self, moment: Moment) -> None:
        """Records the tick that is due."""
        self.look_at_interval(moment.now_us)
        self.record_due(moment.now_us)

    def _next_time(self) -> int:
        """When its next tick is looked at."""
        return NEVER if self.next_us == NEVER else self.next_us + self.grace_us

    def look_around(self, now_us: int) -> None:
        """The tag of its interval may have another value, and the clock may have been set."""
        if self.setup.when.interval_tag is not None:
            self.look_at_interval(now_us)
        self.follow_clock(now_us)

    def _waits_since(self) -> int | None:
        """Its next tick."""
        return None if self.next_us == NEVER else self.next_us

    @property
    def remark(self) -> tuple[str, str, str] | None:
        """Why its interval is another one than wanted."""
        return ("recording", "interval", self.refused) if self.refused else None

    def record_due(self, now_us: int) -> None:
        """Records the tick that is due. Ticks missed altogether (a process or machine that stood still) are
        not invented: their stretch is Uncertain while it is short, and a gap of these tags beyond that."""
        self.follow_clock(now_us)
        if now_us < self.next_us + self.grace_us:
            return
        due = self.next_us
        tick = max(due, self._latest(now_us - self.grace_us))
        if self.held:
            self._intervals.take(tick)  # what is not wanted is not collected either
        else:
            if tick > due:
                self._tell_missed(Window(due, tick))
            self._record(tick)
        # Only now: what is known must not run ahead of what is in the queue.
        self.next_us = tick + self.interval_us

    def _tell_missed(self, missed: Window) -> None:
        if missed.length_us > self._mode.tolerance_us(self.interval_us):
            length_s = missed.length_us / SECOND
            detail = f"{self.setup.name} was delayed: nothing was recorded for {length_s:g} s."
            gap = Gap(missed.start_us, missed.end_us, GapReason.RECORDER_LATE, detail, self.keys_on())
            self._context.emit(gap)
            self.tear()
            return
        at_us = missed.start_us
        if self.collects:
            self._record(at_us)  # the figure of the interval before: its readings were heard
            at_us += self.interval_us
            if at_us >= missed.end_us:
                return
        reading = self._context.live.at(self._slots, at_us)
        # A fault that began here is recorded as at any other tick: without it the value before would go on.
        keep = decide_periodic(self._state, reading.quality) & ~self._off
        quality = np.where(q.is_bad(reading.quality), reading.quality, q.UNCERTAIN_LAST_USABLE)[keep]
        times = np.full(len(quality), at_us, np.int64)
        self._context.emit(Samples(self._histories[keep], times, reading.bits[keep], quality))
        self.kept += len(quality)

    def ask(self, now_us: int) -> None:
        """One sample of every member beside its ticks."""
        self._record(now_us, at_once=True)

    def _take(self, readings: Readings) -> None:
        """Collects the readings of an interval, where a figure of them is kept."""
        if not self.collects:
            return
        mine, members = self._mine(readings)
        if len(members):
            offered = readings.take(mine)
            is_float = self._types[members] == ValueType.FLOAT
            floats = np.where(is_float, offered.bits.view(np.float64), offered.bits)
            self._intervals.offer(members, offered.ts_us, floats, offered.quality)

    def _at(self, tick: int) -> Values:
        if self._mode.keeps is Keeps.VALUE:
            return self._context.live.at(self._slots, tick)
        values, quality = self._intervals.take(tick)
        whole = self._types != ValueType.FLOAT
        bits = np.where(whole, values.astype(np.int64), values.view(np.int64))
        return Values(bits, quality)

    def _record(self, tick: int, *, at_once: bool = False) -> None:
        reading = self._context.live.at(self._slots, tick) if at_once else self._at(tick)
        keep = decide_periodic(self._state, reading.quality) & ~self._off
        count = int(keep.sum())
        ts = np.full(count, tick, np.int64)
        self._context.emit(Samples(self._histories[keep], ts, reading.bits[keep], reading.quality[keep]))
        self.kept += count

    def _restart_member(self, member: int) -> None:
        """The next tick records it, a Bad one too."""
        self._state.last_quality[member] = q.GOOD

    def tear(self) -> None:
        """The next tick records every member, Bad ones too."""
        self._state = PeriodicState.fresh(len(self._slots))
