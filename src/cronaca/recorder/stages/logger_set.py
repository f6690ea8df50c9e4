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
from collections.abc import Callable, Iterable, Sequence
from functools import partial
from typing import Final

import numpy as np

from cronaca.core.model import (
    ALWAYS,
    SECOND,
    GapReason,
    Logger,
    LoggerMode,
    Setup,
    Times,
    Window,
)
from cronaca.core.ports import CoverageMark, Reading
from cronaca.recorder.live import LiveTable, Slots
from cronaca.recorder.outputs.queue import SampleQueue
from cronaca.recorder.stages.holding import Hold, Holding
from cronaca.recorder.stages.loggers import ChangeLogger, LoggerContext, PeriodicLogger
from cronaca.recorder.stages.pre_post_trigger import PrePostTriggerLogger
from cronaca.recorder.stages.records import RecordLogger

AtWork = PeriodicLogger | ChangeLogger | RecordLogger | PrePostTriggerLogger
_SWEEP_US: Final = SECOND
_RETRY_US: Final = 30 * SECOND
"""A logger that failed is begun anew after so long."""
_LONGEST_REASON: Final = 300
_log = logging.getLogger(__name__)


class LoggerSet:
    """All loggers of a recorder."""

    def __init__(self, live: LiveTable, queue: SampleQueue) -> None:
        self._live = live
        self._queue = queue
        self._place = LoggerContext(live, queue, {}, {})
        self._setup = Setup((), (), ())
        self._loggers: dict[int, AtWork] = {}
        self._failed: dict[int, tuple[str, int]] = {}
        """Why a logger is not at work though it is wanted, and when it is tried again."""
        self._held = Holding(live)
        self._interest = _Interest()
        self._hold_interest = _Interest()
        self._look_at: set[int] = set()
        """Loggers whose holds may have changed."""
        self._with_time: set[int] = set()
        """Loggers that are to be told that time passes."""
        self._ticks: list[tuple[int, int]] = []
        self._due: dict[int, int] = {}
        self._swept_us = 0
        self._sources_of: dict[int, frozenset[int]] = {}

    def follow(self, setup: Setup, place: LoggerContext, now_us: int) -> None:
        """Goes over to a set-up. A logger that is not touched by it goes on as it is."""
        before, self._failed = self._loggers, {}
        self._place, self._setup, self._loggers = place, setup, {}
        for logger in setup.loggers:
            if logger.wanted:
                self._begin_one(logger, before.get(logger.logger_id), now_us)
        for number, gone in before.items():
            if type(self._loggers.get(number)) is not type(gone):
                self._guarded(number, gone.finish)
        self._held.follow(setup, self._loggers)
        self._index()
        self._schedule()

    def _begin_one(self, logger: Logger, before: AtWork | None, now_us: int) -> None:
        try:
            self._loggers[logger.logger_id] = _at_work(logger, self._place, before, now_us)
        except Exception as exc:  # noqa: BLE001 - kept where it happened, and said
            self._fail(logger, exc, now_us)

    def _index(self) -> None:
        """Which loggers are called for a reading of which slot."""
        slots, tags = self._live.slots, self._place.tags
        self._interest, self._hold_interest = _Interest(), _Interest()
        self._sources_of = {}
        for number, logger in self._loggers.items():
            setup = logger.setup
            wanted = _tags_read_by(logger)
            self._interest.add(number, [slots[t] for t in wanted if t in slots])
            conditions = [t for t in (setup.inhibit_tag_id, setup.when.tag_id) if t is not None]
            self._hold_interest.add(number, [slots[t] for t in conditions if t in slots])
            self._sources_of[number] = frozenset(tags[t].source_id for t in setup.tag_ids if t in tags)
        count = len(self._live.tag_ids)
        self._interest.freeze(count)
        self._hold_interest.freeze(count)
        self._look_at = set(self._loggers)
        self._with_time = {n for n, one in self._loggers.items() if _needs_time(one)}

    def _schedule(self) -> None:
        """The next tick of each periodic logger."""
        self._ticks, self._due = [], {}
        for number, logger in self._loggers.items():
            if isinstance(logger, PeriodicLogger):
                self._expect(number, logger)

    def _expect(self, number: int, logger: PeriodicLogger) -> None:
        due_us = logger.next_us + logger.grace_us
        if self._due.get(number) != due_us:
            self._due[number] = due_us
            heapq.heappush(self._ticks, (due_us, number))

    def begin(self, now_us: int) -> None:
        """Ticks count from now: a recorder may have waited for its lease. A logger that was held off when an
        earlier recorder ended is not, until its tag says so again."""
        for logger in self._loggers.values():
            setup = logger.setup
            if setup.inhibit_tag_id is not None or setup.when != ALWAYS:
                self._queue.note_coverage(CoverageMark(self._place.keys(setup), now_us, None))
            if isinstance(logger, PeriodicLogger):
                logger.begin(now_us)
        self._schedule()

    def on_reading(self, slots: Slots, ts_us: int | Times, reading: Reading) -> None:
        """Hands readings of different tags to the loggers that have an interest in them."""
        self._look_at |= self._hold_interest.of(slots)
        for number in sorted(self._interest.of(slots)):
            logger = self._loggers.get(number)
            if logger is None:
                continue
            if isinstance(logger, PeriodicLogger):
                self._guarded(number, partial(logger.on_reading, slots, ts_us, reading))
            else:
                off = number in self._held
                self._guarded(number, partial(logger.on_reading, slots, ts_us, reading, inhibited=off))
            if _needs_time(logger):
                self._with_time.add(number)

    def miss(self, slots: Slots, window: Window, detail: str) -> None:
        """Nobody read these slots for longer than can be tolerated: what was recorded at changes is not known
        across it."""
        for number in sorted(self._interest.of(slots)):
            logger = self._loggers.get(number)
            if isinstance(logger, ChangeLogger) and number not in self._held:
                self._guarded(number, partial(logger.miss, slots, window, detail))

    def tick(self, now_us: int, until_us: int) -> None:
        """Records what is due; every reading up to `until_us` was handed on."""
        if not 0 <= now_us - self._swept_us < _SWEEP_US:
            self._sweep(now_us)
        if self._look_at:
            self._look_at_holds(now_us)
        self._take_ticks(now_us)
        for number in sorted(self._with_time):
            logger = self._loggers.get(number)
            if isinstance(logger, RecordLogger):
                self._guarded(number, partial(logger.take_due, now_us, until_us))
            elif isinstance(logger, PrePostTriggerLogger) or (
                isinstance(logger, ChangeLogger) and number not in self._held
            ):
                self._guarded(number, partial(logger.pass_time, until_us))
            if logger is None or not _needs_time(logger):
                self._with_time.discard(number)

    def due_us(self, now_us: int) -> int:
        """When there is something to do even if no reading comes; now when something waits already."""
        if self._look_at or self._with_time:
            return now_us
        return self._ticks[0][0] if self._ticks else now_us + _SWEEP_US

    def _take_ticks(self, now_us: int) -> None:
        while self._ticks and self._ticks[0][0] <= now_us:
            due_us, number = heapq.heappop(self._ticks)
            logger = self._loggers.get(number)
            if self._due.get(number) != due_us or not isinstance(logger, PeriodicLogger):
                continue  # it has another tick by now
            del self._due[number]
            if self._guarded(number, partial(_record_due, logger, now_us, off=number in self._held)):
                self._expect(number, logger)

    def _sweep(self, now_us: int) -> None:
        """Once a second: schedules, intervals that come from tags, clocks that were set, failed loggers."""
        self._swept_us = now_us
        for number, logger in list(self._loggers.items()):
            setup = logger.setup
            if setup.inhibit_tag_id is not None or setup.when != ALWAYS:
                self._look_at.add(number)
            if isinstance(logger, PeriodicLogger):
                if setup.when.interval_tag_id is not None:
                    self._guarded(number, partial(logger.look_at_interval, now_us))
                logger.follow_clock(now_us)
                self._expect(number, logger)
        for number, (_, again_us) in list(self._failed.items()):
            if now_us >= again_us:
                self._try_again(number, now_us)

    def _try_again(self, number: int, now_us: int) -> None:
        setup = next((one for one in self._setup.loggers if one.logger_id == number), None)
        del self._failed[number]
        if setup is None:
            return
        self._begin_one(setup, None, now_us)
        if number in self._loggers:
            self._queue.note_coverage(CoverageMark(self._place.keys(setup), now_us, None))
            self._index()
            self._schedule()

    def _look_at_holds(self, now_us: int) -> None:
        wanted, self._look_at = self._look_at, set()
        at_work = [self._loggers[n].setup for n in wanted if n in self._loggers]
        for number, hold in self._held.look(at_work, now_us):
            logger = self._loggers[number]
            if isinstance(logger, PrePostTriggerLogger):
                continue  # its stretches are covered from trigger to trigger
            reason = None if hold is None else hold.gap
            self._queue.note_coverage(CoverageMark(self._place.keys(logger.setup), now_us, reason))
            self._guarded(number, logger.restart if hold is None else logger.finish)

    def _guarded(self, number: int, work: Callable[[], None]) -> bool:
        """Lets a logger do something. One that fails is set aside, with a gap of its own tags; the others go
        on."""
        try:
            work()
        except Exception as exc:  # noqa: BLE001 - kept where it happened, and said
            logger = self._loggers.pop(number, None)
            self._with_time.discard(number)
            if logger is not None:
                self._fail(logger.setup, exc, self._swept_us)
            return False
        return True

    def _fail(self, logger: Logger, exc: Exception, now_us: int) -> None:
        _log.error("Logger %s failed and is set aside", logger.name, exc_info=exc)
        text = f"It failed: {type(exc).__name__}: {exc}"[:_LONGEST_REASON]
        self._failed[logger.logger_id] = text, now_us + _RETRY_US
        known = [t for t in logger.tag_ids if (logger.archive_id, t) in self._place.histories]
        keys = tuple(self._place.histories[logger.archive_id, t][0] for t in known)
        self._queue.note_coverage(CoverageMark(keys, now_us, GapReason.LOGGER_FAILED))

    def restart(self, now_us: int) -> None:
        """The next values are recorded whatever they are: a hole was torn, and nobody knows across it."""
        for number, logger in list(self._loggers.items()):
            self._guarded(number, logger.restart)
            if isinstance(logger, PeriodicLogger):
                logger.follow_clock(now_us)
        self._with_time |= {n for n, one in self._loggers.items() if _needs_time(one)}
        self._schedule()

    def finish(self) -> None:
        """What loggers hold back is recorded."""
        for number, logger in list(self._loggers.items()):
            self._guarded(number, logger.finish)

    def ask_for_record(self, logger_id: int, now_us: int) -> str:
        """One sample or record of a logger's tags now, in any mode; returns why not, or nothing."""
        logger = self._loggers.get(logger_id)
        if logger is None:
            why = self.why_failed(logger_id)
            return why or "The logger is not at work: it is stopped, or was just added."
        if not logger.setup.tag_ids:
            return "The logger has no tags: there is nothing to record."
        if isinstance(logger, RecordLogger | PrePostTriggerLogger):
            logger.ask(now_us)
        elif isinstance(logger, PeriodicLogger):
            logger.record_now(now_us)
        else:
            logger.restart()
        if _needs_time(logger):
            self._with_time.add(logger_id)
        return ""

    def get(self, logger_id: int) -> AtWork | None:
        """A logger at work."""
        return self._loggers.get(logger_id)

    def hold_of(self, logger_id: int) -> Hold | None:
        """What holds a logger off."""
        return self._held.of(logger_id)

    def why_failed(self, logger_id: int) -> str:
        """Why a logger is set aside, or nothing."""
        return self._failed.get(logger_id, ("", 0))[0]

    def wanted(self) -> list[int]:
        """The loggers that are wanted: an inhibit tag holds one off, and it is wanted all the same."""
        holds = {number: self._held.of(number) for number in self._loggers}
        return [n for n, hold in holds.items() if hold is None or hold.state == "inhibited"]

    def kept(self) -> dict[int, int]:
        """How many samples each has kept."""
        return {number: one.kept for number, one in list(self._loggers.items())}

    def waits(self) -> Iterable[tuple[int, frozenset[int]]]:
        """Instants whose samples are still to be recorded, and the sources whose tags they are of; safe to
        ask from the flusher's thread."""
        for number, logger in list(self._loggers.items()):
            sources = self._sources_of.get(number, frozenset())
            if isinstance(logger, PeriodicLogger):
                yield logger.next_us, sources
            elif isinstance(logger, RecordLogger) and (since_us := logger.waits_since_us) is not None:
                yield since_us, sources


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
        found: set[int] = set()
        for group in np.unique(self._group_of[inside]).tolist():
            found |= self._groups[group]
        return found


def _at_work(logger: Logger, place: LoggerContext, before: AtWork | None, now_us: int) -> AtWork:
    """A logger at work, which takes over from the one before what goes on unchanged."""
    if logger.mode is LoggerMode.PERIODIC:
        return PeriodicLogger(logger, place, now_us, before if isinstance(before, PeriodicLogger) else None)
    if logger.mode is LoggerMode.ON_CHANGE:
        return ChangeLogger(logger, place, before if isinstance(before, ChangeLogger) else None)
    if logger.mode is LoggerMode.ON_TRIGGER:
        return RecordLogger(logger, place, before if isinstance(before, RecordLogger) else None)
    return PrePostTriggerLogger(logger, place, before if isinstance(before, PrePostTriggerLogger) else None)


def _tags_read_by(logger: AtWork) -> Sequence[int]:
    """The tags whose readings a logger has to see."""
    trigger = logger.setup.trigger
    trigger_tags = () if trigger is None or trigger.tag_id is None else (trigger.tag_id,)
    if isinstance(logger, PeriodicLogger):
        return logger.setup.tag_ids if logger.collects else ()
    if isinstance(logger, ChangeLogger):
        return logger.setup.tag_ids
    if isinstance(logger, RecordLogger):
        return trigger_tags
    return (*logger.setup.tag_ids, *trigger_tags)


def _record_due(logger: PeriodicLogger, now_us: int, *, off: bool) -> None:
    logger.look_at_interval(now_us)
    logger.record_due(now_us, inhibited=off)


def _needs_time(logger: AtWork) -> bool:
    return not isinstance(logger, PeriodicLogger) and logger.needs_time
