"""The loggers at work: each is called only when one of its tags was read or its time has come, and a fault of
one is its own.

Nothing is polled: readings wake the loggers that have an interest in their slots, a heap of ticks wakes the
periodic ones, and only those that hold something back are told that time passes. Once a second everything
that depends on the calendar is looked at.
"""

from __future__ import annotations

import heapq
import logging
from collections import defaultdict
from collections.abc import Callable, Collection, Iterable, Sequence
from functools import partial
from typing import Final

import numpy as np

from cronaca.core.codec.batch import HistoryKey
from cronaca.core.loggers import Logger, OnChange, OnTrigger, Periodic
from cronaca.core.model import SECOND, GapReason, Window
from cronaca.core.outputs import CoverageMark
from cronaca.core.readings import Readings, Slots
from cronaca.core.setup.whole import Setup
from cronaca.recorder.live import LiveTable
from cronaca.recorder.stages.holding import Hold, Holding
from cronaca.recorder.stages.logger_stage import NEVER, LoggerStage
from cronaca.recorder.stages.on_change import ChangeLogger
from cronaca.recorder.stages.on_trigger import RecordLogger
from cronaca.recorder.stages.periodic import PeriodicLogger
from cronaca.recorder.stages.pre_post_trigger import PrePostTriggerLogger
from cronaca.recorder.stages.stage import Moment, Stage, StageContext

_SWEEP_US: Final = SECOND
_RETRY_US: Final = 30 * SECOND
"""A logger that failed is begun anew after so long."""
_LONGEST_REASON: Final = 300
_log = logging.getLogger(__name__)


class LoggerSet(Stage):
    """All loggers of a recorder, one stage to the rest of it."""

    name = "loggers"

    def __init__(self, live: LiveTable) -> None:
        self._live = live
        self._context: StageContext | None = None
        self._setup = Setup((), (), ())
        self._loggers: dict[int, LoggerStage] = {}
        self._failed: dict[int, tuple[str, int]] = {}
        """Why a logger is not at work though it is wanted, and when it is tried again."""
        self._holds = Holding(live)
        self._members_off: dict[int, frozenset[int]] = {}
        """By logger, the members that inhibit tags of their own hold off."""
        self._interest = _Interest()
        self._hold_interest = _Interest()
        self._look_at: set[int] = set()
        """Loggers whose holds may have changed."""
        self._conditional: set[int] = set()
        """Loggers that a tag or a schedule may hold off."""
        self._times: list[tuple[int, int]] = []
        """A heap of when loggers are to be told the time; what is not in `_due` any more is old."""
        self._due: dict[int, int] = {}
        self._swept_us = 0
        self._sources_of: dict[int, frozenset[int]] = {}

    def follow(self, setup: Setup, context: StageContext, now_us: int) -> Sequence[Readings]:
        """Goes over to a set-up. A logger that is not touched by it goes on as it is."""
        before, self._failed = self._loggers, {}
        self._context, self._setup, self._loggers = context, setup, {}
        for logger in setup.loggers:
            if logger.wanted:
                self._begin_one(context, logger, before.get(logger.logger_id), now_us)
        for number, gone in before.items():
            if type(self._loggers.get(number)) is not type(gone):
                self._guarded(number, gone.stop)
        self._holds.follow(setup, self._loggers)
        self._members_off = {
            number: off & set(self._loggers[number].setup.tags)
            for number, off in self._members_off.items()
            if number in self._loggers
        }
        self._index(context)
        return ()

    def wakes_on(self) -> Collection[int]:
        """Members, triggers and what holds loggers off."""
        tag_ids: set[int] = set()
        for logger in self._setup.loggers:
            tag_ids.update(logger.tags, logger.named_tags())
        return tag_ids

    def _begin_one(
        self, context: StageContext, logger: Logger, before: LoggerStage | None, now_us: int
    ) -> None:
        try:
            self._loggers[logger.logger_id] = _at_work(logger, context, before, now_us)
        except Exception as exc:  # noqa: BLE001 - kept where it happened, and said
            self._fail(logger, exc, now_us)

    def _index(self, context: StageContext) -> None:
        """Which loggers are called for a reading of which slot, and when for the first time."""
        slots, tags = self._live.slots, context.tags
        self._interest, self._hold_interest = _Interest(), _Interest()
        self._sources_of = {}
        for number, logger in self._loggers.items():
            setup = logger.setup
            logger.held = number in self._holds
            logger.hold_members(self._members_off.get(number, frozenset()))
            self._interest.add(number, [slots[t] for t in logger.wakes_on() if t in slots])
            self._hold_interest.add(number, [slots[t] for t in _conditions_of(setup) if t in slots])
            self._sources_of[number] = frozenset(tags[t].source_id for t in setup.tags if t in tags)
        count = len(self._live.tag_ids)
        self._interest.freeze(count)
        self._hold_interest.freeze(count)
        self._look_at = set(self._loggers)
        self._conditional = {
            number
            for number, logger in self._loggers.items()
            if _conditions_of(logger.setup) or not logger.setup.when.always
        }
        self._schedule()

    def _schedule(self) -> None:
        self._times, self._due = [], {}
        for number, logger in self._loggers.items():
            self._expect(number, logger)

    def _expect(self, number: int, logger: LoggerStage) -> None:
        due_us = logger.next_time()
        if due_us == NEVER:
            self._due.pop(number, None)
        elif self._due.get(number) != due_us:
            self._due[number] = due_us
            heapq.heappush(self._times, (due_us, number))

    def begin(self, now_us: int) -> None:
        """Ticks count from now. A logger that was held off when an earlier recorder ended is not, until its
        tag says so again."""
        for number, logger in self._loggers.items():
            if number in self._conditional:
                self._cover(logger.keys, now_us, None)
            logger.begin(now_us)
        self._schedule()

    def _cover(self, keys: tuple[HistoryKey, ...], at_us: int, reason: GapReason | None) -> None:
        if self._context is not None and keys:
            self._context.emit(CoverageMark(keys, at_us, reason))

    def on(self, readings: Readings) -> None:
        """Hands readings of different tags to the loggers that have an interest in them."""
        self._look_at |= self._hold_interest.of(readings.slots)
        for number in sorted(self._interest.of(readings.slots)):
            logger = self._loggers.get(number)
            if logger is not None and self._guarded(number, partial(logger.on, readings)):
                self._expect(number, logger)

    def miss(self, slots: Slots, window: Window, detail: str) -> None:
        """Nobody read these slots for longer than can be tolerated: what was recorded at changes is not known
        across it."""
        for number in sorted(self._interest.of(slots)):
            logger = self._loggers.get(number)
            if logger is not None and not logger.held:
                self._guarded(number, partial(logger.miss, slots, window, detail))

    def on_time(self, moment: Moment) -> Sequence[Readings]:
        """Records what is due."""
        if not 0 <= moment.now_us - self._swept_us < _SWEEP_US:
            self._sweep(moment.now_us)
        if self._look_at:
            self._look_at_holds(moment.now_us)
        for number in self._take_due(moment.now_us):
            logger = self._loggers[number]
            if self._guarded(number, partial(logger.on_time, moment)):
                self._expect(number, logger)
        return ()

    def _take_due(self, now_us: int) -> list[int]:
        """The loggers that are to be told the time now."""
        due = []
        while self._times and self._times[0][0] <= now_us:
            due_us, number = heapq.heappop(self._times)
            if self._due.get(number) == due_us and number in self._loggers:
                del self._due[number]
                due.append(number)
        return due

    def next_time(self, now_us: int) -> int:
        """When there is something to do even if no reading comes; now when something waits already."""
        if self._look_at:
            return now_us
        return max(self._times[0][0], now_us) if self._times else now_us + _SWEEP_US

    def _sweep(self, now_us: int) -> None:
        """Once a second: schedules, intervals that come from tags, clocks that were set, failed loggers."""
        self._swept_us = now_us
        self._look_at |= self._conditional
        for number, logger in list(self._loggers.items()):
            if logger.looks_around and self._guarded(number, partial(logger.look_around, now_us)):
                self._expect(number, logger)
        for number, (_, again_us) in list(self._failed.items()):
            if now_us >= again_us:
                self._try_again(number, now_us)

    def _try_again(self, number: int, now_us: int) -> None:
        setup = next((logger for logger in self._setup.loggers if logger.logger_id == number), None)
        del self._failed[number]
        if setup is None or self._context is None:
            return
        self._begin_one(self._context, setup, None, now_us)
        if number in self._loggers:
            self._cover(self._loggers[number].keys, now_us, None)
            self._index(self._context)

    def _look_at_holds(self, now_us: int) -> None:
        numbers, self._look_at = self._look_at, set()
        at_work = [self._loggers[n].setup for n in numbers if n in self._loggers]
        for number, hold in self._holds.look(at_work, now_us):
            logger = self._loggers[number]
            logger.held = hold is not None
            if logger.covers_itself:
                continue  # its stretches are covered from trigger to trigger
            keys = logger.keys_on() if hold is None else logger.keys
            self._cover(keys, now_us, None if hold is None else hold.gap)
            if self._guarded(number, logger.tear if hold is None else logger.stop):
                self._expect(number, logger)
        for number in sorted(numbers):
            if number in self._loggers and (
                self._loggers[number].setup.inhibits or number in self._members_off
            ):
                self._look_at_members(number, self._loggers[number], now_us)

    def _look_at_members(self, number: int, logger: LoggerStage, now_us: int) -> None:
        """Members with an inhibit tag of their own: what it holds off has a gap, and the others go on."""
        before = self._members_off.get(number, frozenset())
        off = self._holds.members_off(logger.setup, before, now_us)
        if off == before:
            return
        self._members_off[number] = off
        if not self._guarded(number, partial(logger.hold_members, off)):
            return
        if logger.is_covered:
            self._cover(logger.keys_of(off - before), now_us, GapReason.LOGGER_INHIBITED)
            self._cover(logger.keys_of(before - off), now_us, None)
        self._expect(number, logger)

    def _guarded(self, number: int, work: Callable[[], None]) -> bool:
        """Lets a logger do something. One that fails is set aside, with a gap of its own tags; the others go
        on."""
        try:
            work()
        except Exception as exc:  # noqa: BLE001 - kept where it happened, and said
            logger = self._loggers.pop(number, None)
            self._due.pop(number, None)
            if logger is not None:
                self._fail(logger.setup, exc, self._swept_us)
            return False
        return True

    def _fail(self, logger: Logger, exc: Exception, now_us: int) -> None:
        _log.error("Logger %s failed and is set aside", logger.name, exc_info=exc)
        text = f"It failed: {type(exc).__name__}: {exc}"[:_LONGEST_REASON]
        self._failed[logger.logger_id] = text, now_us + _RETRY_US
        histories = {} if self._context is None else self._context.histories
        known = [t for t in logger.tags if (logger.archive, t) in histories]
        keys = tuple(histories[logger.archive, t][0] for t in known)
        self._cover(keys, now_us, GapReason.LOGGER_FAILED)

    def tear(self, now_us: int) -> None:
        """The next values are recorded whatever they are: a hole was torn, and nobody knows across it."""
        for number, logger in list(self._loggers.items()):
            self._guarded(number, logger.tear)
            self._guarded(number, partial(logger.look_around, now_us))
        self._schedule()

    def finish(self) -> None:
        """What loggers hold back is recorded."""
        for number, logger in list(self._loggers.items()):
            self._guarded(number, logger.stop)

    def ask_for_record(self, logger_id: int, now_us: int) -> str:
        """One sample or record of a logger's tags now, in any mode; returns why not, or nothing."""
        logger = self._loggers.get(logger_id)
        if logger is None:
            why = self.why_failed(logger_id)
            return why or "The logger is not running: it is stopped, or was just added."
        if not logger.setup.tags:
            return "The logger has no tags: there is nothing to record."
        logger.ask(now_us)
        self._expect(logger_id, logger)
        return ""

    def get(self, logger_id: int) -> LoggerStage | None:
        """A logger at work."""
        return self._loggers.get(logger_id)

    def hold_of(self, logger_id: int) -> Hold | None:
        """What holds a logger off."""
        return self._holds.of(logger_id)

    def why_failed(self, logger_id: int) -> str:
        """Why a logger is set aside, or nothing."""
        return self._failed.get(logger_id, ("", 0))[0]

    def wanted(self) -> list[int]:
        """The loggers that are wanted: an inhibit tag holds one off, and it is wanted all the same."""
        holds = {number: self._holds.of(number) for number in self._loggers}
        return [n for n, hold in holds.items() if hold is None or hold.state == "inhibited"]

    def kept(self) -> dict[int, int]:
        """How many samples each has kept."""
        return {number: logger.kept for number, logger in list(self._loggers.items())}

    def known_until(self, now_us: int) -> int:
        """The first instant of which a logger has still something to record."""
        return min([now_us, *(since_us for since_us, _ in self._waits())])

    def lower_known(self, known: dict[int, int], now_us: int) -> None:
        """What is still to be recorded holds back the sources of its tags."""
        for since_us, sources in self._waits():
            for number in sources:
                known[number] = min(known.get(number, now_us), since_us)

    def _waits(self) -> Iterable[tuple[int, frozenset[int]]]:
        for number, logger in list(self._loggers.items()):
            since_us = logger.waits_since_us
            if since_us is not None:
                yield since_us, self._sources_of.get(number, frozenset())


class _Interest:
    """Which numbers have an interest in which slots."""

    def __init__(self) -> None:
        self._by_slot: dict[int, list[int]] = defaultdict(list)
        self._group_of = np.zeros(0, np.intp)
        self._groups: list[frozenset[int]] = [frozenset()]

    def add(self, number: int, slots: Sequence[int]) -> None:
        """A number is interested in these slots."""
        for slot in slots:
            self._by_slot[slot].append(number)

    def freeze(self, slot_count: int) -> None:
        """Slots with the same interested numbers become one group: readings of thousands of tags are looked
        up at once."""
        known: dict[frozenset[int], int] = {frozenset(): 0}
        self._group_of = np.zeros(slot_count, np.intp)
        for slot, numbers in self._by_slot.items():
            group = frozenset(numbers)
            self._group_of[slot] = known.setdefault(group, len(known))
        self._groups = list(known)
        self._by_slot = defaultdict(list)

    def of(self, slots: Slots) -> set[int]:
        """The numbers that are interested in any of these slots; a slot may be newer than this."""
        if len(self._groups) == 1:
            return set()
        inside = slots[slots < len(self._group_of)]
        tag_ids: set[int] = set()
        for group in np.unique(self._group_of[inside]).tolist():
            tag_ids |= self._groups[group]
        return tag_ids


def _at_work(logger: Logger, context: StageContext, before: LoggerStage | None, now_us: int) -> LoggerStage:
    """A logger at work, which takes over from the one before what goes on unchanged."""
    mode = logger.mode
    if isinstance(mode, Periodic):
        old = before if isinstance(before, PeriodicLogger) else None
        return PeriodicLogger(logger, context, now_us, old)
    if isinstance(mode, OnChange):
        return ChangeLogger(logger, context, before if isinstance(before, ChangeLogger) else None)
    if isinstance(mode, OnTrigger):
        return RecordLogger(logger, context, before if isinstance(before, RecordLogger) else None)
    around = before if isinstance(before, PrePostTriggerLogger) else None
    return PrePostTriggerLogger(logger, context, around)


def _conditions_of(logger: Logger) -> tuple[int, ...]:
    """The tags that may hold a logger or one of its members off."""
    own = (tag for _, tag in logger.inhibits)
    return tuple(tag for tag in (logger.inhibit_tag, logger.when.tag, *own) if tag is not None)
