"""Loggers at work: core's rules, fed with readings and ticks, their decisions put into the queue.

A set-up that changes makes new loggers; each takes over from the one before what its members have been
through, so that a tag whose rule stays the same notices nothing.
"""

from __future__ import annotations

import logging
import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final, Protocol

import numpy as np
from numpy.typing import NDArray

from cronaca.core import logger_rules as rules
from cronaca.core import quality as q
from cronaca.core.bits import to_bits
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import InvalidInput
from cronaca.core.formulas import Column
from cronaca.core.logger_rules import PeriodicState, Rule, decide_periodic, latest_tick, rule_for
from cronaca.core.logger_rules.interval import IntervalValues
from cronaca.core.model import (
    NO_RULE,
    SECOND,
    Gap,
    GapReason,
    Keeps,
    Logger,
    RuleWish,
    Tag,
    Times,
    ValueType,
    Window,
)
from cronaca.core.ports import HistoryOf, Reading
from cronaca.core.setup.facts import LONGEST_INTERVAL_US, SHORTEST_SCAN_US
from cronaca.recorder.live import LiveTable, Slots
from cronaca.recorder.outputs.queue import Chunk, SampleQueue

_log = logging.getLogger(__name__)
GRACE_US: Final = SECOND // 4
"""How long after a tick its scans may still answer."""


@dataclass(frozen=True, slots=True)
class LoggerContext:
    """What loggers work on: present values, the queue, the tags by number, the open histories."""

    live: LiveTable
    queue: SampleQueue
    tags: Mapping[int, Tag]
    histories: HistoryOf

    def positions(self, logger: Logger) -> NDArray[np.intp]:
        """The members' histories in the queue."""
        found = [self.queue.position_of(*self.histories[logger.archive_id, t]) for t in logger.tag_ids]
        return np.array(found, np.intp)

    def keys(self, logger: Logger) -> tuple[HistoryKey, ...]:
        """The members' histories."""
        return tuple(self.histories[logger.archive_id, tag_id][0] for tag_id in logger.tag_ids)


class Working(Protocol):
    """A logger at work."""

    setup: Logger
    kept: int

    def finish(self) -> None:
        """It stops: what it held back is recorded."""
        ...

    def restart(self) -> None:
        """The next value is recorded whatever it is: what was recorded before may not be known."""
        ...


class PeriodicLogger:
    """Records its tags at each tick."""

    def __init__(
        self, logger: Logger, place: LoggerContext, now_us: int, before: PeriodicLogger | None = None
    ) -> None:
        self.setup = logger
        self.kept: int = 0 if before is None else before.kept
        self.next_us: int = 0
        self._place = place
        self._slots = place.live.slots_of(logger.tag_ids)
        self._histories = place.positions(logger)
        self._state = PeriodicState.fresh(len(logger.tag_ids))
        self._types = place.live.types[self._slots]
        self._member_of = members_in(place.live, self._slots)
        self.interval_us = logger.interval_us
        """The one at work: a tag may say another one than the set-up."""
        self.refused = ""
        """Why the interval is not what its tag says."""
        self._intervals = self._collector()
        self.begin(now_us)
        if before is not None:
            self._take_over(before)

    def _collector(self) -> IntervalValues:
        logger = self.setup
        return IntervalValues(len(logger.tag_ids), logger.keeps, self.interval_us, logger.phase_us)

    def _take_over(self, before: PeriodicLogger) -> None:
        known = dict(zip(before._histories.tolist(), before._state.last_quality.tolist(), strict=True))
        last = [known.get(history, q.GOOD) for history in self._histories.tolist()]
        self._state = PeriodicState(np.array(last, np.uint16))
        old, new = before.setup, self.setup
        if (old.interval_us, old.phase_us, old.when) == (new.interval_us, new.phase_us, new.when):
            self.interval_us, self.refused = before.interval_us, before.refused
            self.next_us = before.next_us  # a tick that is due is not passed over
            if (old.keeps, old.tag_ids) == (new.keeps, new.tag_ids):
                self._intervals = before._intervals

    def begin(self, now_us: int) -> None:
        """Starts with the next tick: a recorder may have waited for its lease since it was built."""
        self.next_us = self._latest(now_us) + self.interval_us

    def _latest(self, now_us: int) -> int:
        phase_us = self.setup.phase_us
        return latest_tick(now_us - phase_us, self.interval_us) + phase_us

    def look_at_interval(self, now_us: int) -> None:
        """The interval is the value of a tag, in seconds. Where that cannot be used the last usable one
        stays."""
        tag_id = self.setup.when.interval_tag_id
        if tag_id is None or tag_id not in self._place.live.slots:
            return
        slots = self._place.live.slots_of([tag_id])
        reading = self._place.live.at(slots, now_us)
        column = Column.of_bits(
            reading.bits, reading.quality, ValueType(int(self._place.live.types[slots][0]))
        )
        seconds = float(column.values[0])
        if not SHORTEST_SCAN_US <= seconds * SECOND <= LONGEST_INTERVAL_US:
            says = "has no usable value" if math.isnan(seconds) else f"says {seconds:g} s"
            self.refused = f"The tag for its interval {says}: {self.interval_us / SECOND:g} s stays."
            return
        self.refused = ""
        wanted = round(seconds * SECOND)
        if wanted != self.interval_us:
            self.interval_us = wanted
            self._intervals = self._collector()
            self.begin(now_us)

    @property
    def grace_us(self) -> int:
        """When a tick is looked at, counted from it."""
        return min(GRACE_US, self.interval_us // 4)

    @property
    def collects(self) -> bool:
        """Whether it keeps a figure of the readings of each interval, and so has to see them all."""
        return self.setup.keeps is not Keeps.VALUE

    def follow_clock(self, now_us: int) -> None:
        """A clock that was set back must not make it wait for ticks far ahead."""
        if self.next_us - now_us > self.interval_us:
            self.begin(now_us)

    def record_due(self, now_us: int, *, inhibited: bool = False) -> None:
        """Records the tick that is due. Ticks missed altogether (a process or machine that stood still) are
        not invented: their stretch is Uncertain while it is short, and a gap of these tags beyond that."""
        self.follow_clock(now_us)
        if now_us < self.next_us + self.grace_us:
            return
        due = self.next_us
        tick = max(due, self._latest(now_us - self.grace_us))
        if inhibited:
            self._intervals.take(tick)  # what is not wanted is not collected either
        else:
            if tick > due:
                self._tell_missed(Window(due, tick))
            self._record(tick)
        # Only now: what is known must not run ahead of what is in the queue.
        self.next_us = tick + self.interval_us

    def _tell_missed(self, missed: Window) -> None:
        if missed.length_us > self.setup.tolerance_us(self.interval_us):
            length_s = missed.length_us / SECOND
            detail = f"{self.setup.name} was held up: nothing was recorded for {length_s:g} s."
            keys = self._place.keys(self.setup)
            gap = Gap(missed.start_us, missed.end_us, GapReason.RECORDER_LATE, detail, keys)
            self._place.queue.note_gap(gap)
            self.restart()
            return
        at_us = missed.start_us
        if self.collects:
            self._record(at_us)  # the figure of the interval before: its readings were heard
            at_us += self.interval_us
            if at_us >= missed.end_us:
                return
        reading = self._place.live.at(self._slots, at_us)
        # A fault that began here is recorded as at any other tick: without it the value before would go on.
        keep = decide_periodic(self._state, reading.quality)
        quality = np.where(q.is_bad(reading.quality), reading.quality, q.UNCERTAIN_LAST_USABLE)[keep]
        times = np.full(len(quality), at_us, np.int64)
        self._place.queue.put(Chunk(self._histories[keep], times, reading.bits[keep], quality))
        self.kept += len(quality)

    def record_now(self, now_us: int) -> None:
        """One sample of every member beside its ticks."""
        self._record(now_us, at_once=True)

    def on_reading(self, slots: Slots, ts_us: int | Times, reading: Reading) -> None:
        """Collects the readings of an interval, where a figure of them is kept."""
        if self.setup.keeps is Keeps.VALUE:
            return
        mine, members = mine_of(self._member_of, slots)
        if len(members):
            bits = reading.bits[mine]
            floats = np.where(self._types[members] == ValueType.FLOAT, bits.view(np.float64), bits)
            times = np.broadcast_to(ts_us, slots.shape)[mine]
            self._intervals.offer(members, times, floats, reading.quality[mine])

    def _at(self, tick: int) -> Reading:
        if self.setup.keeps is Keeps.VALUE:
            return self._place.live.at(self._slots, tick)
        values, quality = self._intervals.take(tick)
        whole = self._types != ValueType.FLOAT
        bits = np.where(whole, values.astype(np.int64), values.view(np.int64))
        return Reading(bits, quality)

    def _record(self, tick: int, *, at_once: bool = False) -> None:
        reading = self._place.live.at(self._slots, tick) if at_once else self._at(tick)
        keep = decide_periodic(self._state, reading.quality)
        count = int(keep.sum())
        ts = np.full(count, tick, np.int64)
        self._place.queue.put(Chunk(self._histories[keep], ts, reading.bits[keep], reading.quality[keep]))
        self.kept += count

    def finish(self) -> None:
        """Nothing is held back."""

    def restart(self) -> None:
        """The next tick records every member, Bad ones too."""
        self._state = PeriodicState.fresh(len(self._slots))


@dataclass(frozen=True, slots=True)
class _Member:
    """One tag of an on-change logger; its rule carries on as long as all of this stays the same."""

    history: int
    wish: RuleWish
    facts: tuple[float, float, bool]
    """Range and kind of line: a rule may depend on them."""


class ChangeLogger:
    """Records its tags by rules of their own; what a rule holds back comes when its time is over."""

    def __init__(self, logger: Logger, place: LoggerContext, before: ChangeLogger | None = None) -> None:
        self.setup = logger
        self.kept: int = 0 if before is None else before.kept
        self._queue = place.queue
        self._tags = [place.tags[tag_id] for tag_id in logger.tag_ids]
        slots = place.live.slots_of(logger.tag_ids)
        self._member_of = members_in(place.live, slots)
        self._types = [ValueType(n) for n in place.live.types[slots].tolist()]
        self._is_float = place.live.types[slots] == ValueType.FLOAT
        self._histories = place.positions(logger)
        self._keys = place.keys(logger)
        own = dict(logger.overrides)
        self._members: list[_Member] = []
        for tag, history in zip(self._tags, self._histories.tolist(), strict=True):
            facts = tag.range_low, tag.range_high, tag.stepped
            self._members.append(_Member(history, own.get(tag.tag_id, logger.rule), facts))
        known = {} if before is None else dict(zip(before._members, before._rules, strict=True))
        self._rules: list[Rule] = [
            known[member] if member in known else _rule_for(member.wish, tag)
            for member, tag in zip(self._members, self._tags, strict=True)
        ]
        self._holding = {i for i, rule in enumerate(self._rules) if rule.holds_since_us is not None}
        if before is not None:
            self._finish_others(before)

    def _finish_others(self, before: ChangeLogger) -> None:
        """Members that left, or whose rule is another one: what was held back is recorded."""
        mine = {id(rule) for rule in self._rules}
        left = [i for i in sorted(before._holding) if id(before._rules[i]) not in mine]
        before._put([(i, one) for i in left for one in before._rules[i].finish()])

    def on_reading(
        self, slots: Slots, ts_us: int | Times, reading: Reading, *, inhibited: bool = False
    ) -> None:
        """Looks at readings of different tags."""
        if inhibited:
            return
        mine, members = mine_of(self._member_of, slots)
        if not len(members):
            return
        bits = reading.bits[mine]
        values = _values(bits, self._is_float[members])
        found = []
        times = np.broadcast_to(ts_us, slots.shape)[mine].tolist()
        qualities = reading.quality[mine].tolist()
        for i, time_us, value, quality in zip(members.tolist(), times, values, qualities, strict=True):
            rule = self._rules[i]
            found += [(i, one) for one in rule.offer(rules.Reading(time_us, value, quality))]
            if rule.holds_since_us is None:
                self._holding.discard(i)
            else:
                self._holding.add(i)
        self._put(found)

    @property
    def needs_time(self) -> bool:
        """Whether something is held back."""
        return bool(self._holding)

    def miss(self, slots: Slots, window: Window, detail: str) -> None:
        """Nobody read these slots over a window: their members have a gap, and begin anew behind it."""
        _, members = mine_of(self._member_of, slots)
        numbers = members.tolist()
        keys = tuple(self._keys[i] for i in numbers)
        if not keys:
            return
        self._put([(i, one) for i in numbers for one in self._rules[i].finish()])
        self._queue.note_gap(Gap(window.start_us, window.end_us, GapReason.RECORDER_LATE, detail, keys))
        for i in numbers:
            self._rules[i] = _rule_for(self._members[i].wish, self._tags[i])
            self._holding.discard(i)

    def pass_time(self, until_us: int) -> None:
        """Records what was held back long enough; every reading until then was handed on."""
        found = []
        for i in sorted(self._holding):
            rule = self._rules[i]
            found += [(i, one) for one in rule.pass_time(until_us)]
            if rule.holds_since_us is None:
                self._holding.discard(i)
        self._put(found)

    def finish(self) -> None:
        """What is held back is recorded."""
        self._put([(i, one) for i in sorted(self._holding) for one in self._rules[i].finish()])
        self._holding.clear()

    def restart(self) -> None:
        """Records what is held back; then the next value of each member is kept, as after a start."""
        self.finish()
        self._rules = [_rule_for(m.wish, tag) for m, tag in zip(self._members, self._tags, strict=True)]

    def _put(self, found: list[tuple[int, rules.Reading]]) -> None:
        if not found:
            return
        members = np.array([i for i, _ in found], np.intp)
        ts = np.array([one.ts_us for _, one in found], np.int64)
        bits = [to_bits(one.value, self._types[i]) for i, one in found]
        quality = np.array([one.quality for _, one in found], np.uint16)
        self._queue.put(Chunk(self._histories[members], ts, np.array(bits, np.int64), quality))
        self.kept += len(found)


def _rule_for(wish: RuleWish, tag: Tag) -> Rule:
    """The rule for a tag. One without a meaning for it (the set-up refuses that) must not stop the others."""
    try:
        return rule_for(wish, tag)
    except InvalidInput as exc:
        _log.error("%s is recorded at every change: %s", tag.name, exc)
        return rule_for(NO_RULE, tag)


def members_in(live: LiveTable, slots: Slots) -> NDArray[np.intp]:
    """The member in each slot, -1 where there is none."""
    found = np.full(len(live.tag_ids), -1, np.intp)
    found[slots] = np.arange(len(slots))
    return found


def mine_of(member_of: NDArray[np.intp], slots: Slots) -> tuple[NDArray[np.bool_], NDArray[np.intp]]:
    """Which of the slots belong to members, and to which; slots may be newer than the logger."""
    inside = slots < len(member_of)
    members = np.full(len(slots), -1, np.intp)
    members[inside] = member_of[slots[inside]]
    mine = members >= 0
    return mine, members[mine]


def _values(bits: NDArray[np.int64], is_float: NDArray[np.bool_]) -> list[float | int]:
    """The values of 64-bit columns of mixed types, exact."""
    values: list[float | int] = bits.tolist()
    if is_float.any():
        floats = bits.view(np.float64)
        for i in np.flatnonzero(is_float).tolist():
            values[i] = float(floats[i])
    return values
