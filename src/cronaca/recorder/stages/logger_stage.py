"""What the four kinds of loggers have in common."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Collection, Sequence
from typing import ClassVar, Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core.bits import from_bits
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.logger_rules.trigger import Trigger, reason_text
from cronaca.core.loggers import EdgeSpec, Logger, TriggerSpec
from cronaca.core.model import SECOND, Tag, Window
from cronaca.core.readings import Readings, Slots
from cronaca.recorder.live import LiveTable
from cronaca.recorder.outputs.queue import Samples
from cronaca.recorder.stages.stage import Moment, StageContext

NEVER: Final = 1 << 62
PATIENCE_US: Final = SECOND
"""A source that is slower than this does not hold a record up."""


class EdgeWatch:
    """Looks for the edges of a tag in readings."""

    def __init__(
        self, spec: EdgeSpec[int] | TriggerSpec[int] | None, context: StageContext,
        before: EdgeWatch | None = None,
    ) -> None:  # fmt: skip
        self._spec = spec
        self._live = context.live
        self.tag: Tag | None = None if spec is None or spec.tag is None else context.tags.get(spec.tag)
        self._trigger: Trigger | None = None if spec is None else Trigger(spec.edge)
        if before is not None and before._spec == spec:
            self._trigger = before._trigger

    def wakes_on(self) -> tuple[int, ...]:
        """The tag."""
        return () if self._spec is None or self._spec.tag is None else (self._spec.tag,)

    def edge(self, readings: Readings) -> tuple[int, str] | None:
        """When an edge was and what it was, or None."""
        if self.tag is None or self._trigger is None:
            return None
        i = readings.find(self._live.slots.get(self.tag.tag_id, -1))
        if i is None:
            return None
        value = from_bits(int(readings.bits[i]), self.tag.value_type)
        if not self._trigger.offer(value, int(readings.quality[i])):
            return None
        return int(readings.ts_us[i]), reason_text(self.tag.name, self.tag.value_type, value)


class LoggerHooks:
    """What only some kinds of loggers need; the others do nothing."""

    def begin(self, now_us: int) -> None:
        """Recording begins: a recorder may have waited for its lease since this was built."""

    def look_around(self, now_us: int) -> None:
        """Called once a second: looks at what changes without a reading."""

    def miss(self, slots: Slots, window: Window, detail: str) -> None:
        """Nobody read these slots over a window."""

    def finish(self) -> None:
        """It stops: what it held back is recorded."""

    def tear(self) -> None:
        """The next value is recorded whatever it is: what was recorded before may not be known."""

    def _finish_member(self, member: int) -> None:
        """A member is held off from now on: what was held back of it is recorded."""

    def _restart_member(self, member: int) -> None:
        """A member is no longer held off: its next value is recorded whatever it is."""


class LoggerStage(LoggerHooks, ABC):
    """A logger at work: a stage of its own, which the set of loggers calls when it has to be."""

    looks_around: ClassVar[bool] = False
    """Whether something changes for it without a reading: then it looks around once a second."""
    covers_itself: ClassVar[bool] = False
    """Whether it says itself in which stretches it records."""

    def __init__(self, logger: Logger, context: StageContext, before: LoggerStage | None = None) -> None:
        """`before`: the same logger by the set-up before; what goes on unchanged is taken over from it."""
        self.setup = logger
        self.kept: int = 0 if before is None else before.kept
        """Samples kept since the recorder began."""
        self.held = False
        """Inhibited by its tag or its schedule: values are followed, none is recorded."""
        self._context = context
        self._slots = context.live.slots_of(logger.tags)
        self._histories = _positions(logger, context)
        self._off = np.zeros(len(logger.tags), np.bool_)
        """Members that an inhibit tag of their own holds off."""
        self._member_of = members_in(context.live, self._slots)
        watched = None if before is None else before._edges
        self._edges: EdgeWatch = EdgeWatch(logger.sample_on, context, watched)
        self._edges_due: list[tuple[int, str]] = [] if before is None else before._edges_due

    @property
    def keys(self) -> tuple[HistoryKey, ...]:
        """The histories of its members."""
        return self.keys_of(self.setup.tags)

    def keys_of(self, tags: Collection[int]) -> tuple[HistoryKey, ...]:
        """The histories of some of its members."""
        archive, histories = self.setup.archive, self._context.histories
        return tuple(histories[archive, tag][0] for tag in self.setup.tags if tag in tags)

    def keys_on(self) -> tuple[HistoryKey, ...]:
        """The histories of the members that are not held off."""
        return tuple(key for key, off in zip(self.keys, self._off.tolist(), strict=True) if not off)

    def hold_members(self, tags: Collection[int]) -> None:
        """These members, and no others, are held off by tags of their own from now on."""
        off = np.array([tag in tags for tag in self.setup.tags], np.bool_)
        for member in np.flatnonzero(off & ~self._off).tolist():
            self._finish_member(member)
        released = np.flatnonzero(~off & self._off).tolist()
        self._off = off
        for member in released:
            self._restart_member(member)

    @property
    def is_covered(self) -> bool:
        """Whether what it records is covered at present."""
        return not self.held

    def wakes_on(self) -> Sequence[int]:
        """The tags whose readings it has to see."""
        return (*self._reads(), *self._edges.wakes_on())

    def on(self, readings: Readings) -> None:
        """Takes readings in which one of its tags is."""
        self._take(readings)
        edge = self._edges.edge(readings)
        if edge is not None and not self.held:
            self._edges_due.append(edge)

    def on_time(self, moment: Moment) -> None:
        """Does what is due."""
        while self._edges_due:
            ts_us, reason = self._edges_due[0]
            if moment.until_us <= ts_us and moment.now_us < ts_us + PATIENCE_US:
                break
            self._take_sample(ts_us, reason)
            self._edges_due.pop(0)  # only now: knowledge must not run ahead of what is in the queue
        self._pass_time(moment)

    def next_time(self) -> int:
        """When it is to be told the time: 0 as soon as possible, NEVER when only readings concern it."""
        return 0 if self._edges_due else self._next_time()

    @property
    def waits_since_us(self) -> int | None:
        """The first instant of which something is still to be recorded; safe to ask from the flusher's
        thread."""
        since_us = self._waits_since()
        due = self._edges_due[:1]  # taken at once: the recorder's loop may empty it meanwhile
        if not due:
            return since_us
        return due[0][0] if since_us is None else min(since_us, due[0][0])

    def _mine(self, readings: Readings) -> tuple[NDArray[np.bool_], NDArray[np.intp]]:
        """Which of the readings are of members that are not held off, and of which."""
        mine, members = mine_of(self._member_of, readings.slots)
        if self._off.any():
            on = ~self._off[members]
            mine[np.flatnonzero(mine)] = on
            members = members[on]
        return mine, members

    def stop(self) -> None:
        """It stops, or is held off: samples that are due are taken as things stand, what it held back is
        recorded."""
        while self._edges_due:
            self._take_sample(*self._edges_due[0])
            self._edges_due.pop(0)
        self.finish()

    @abstractmethod
    def _reads(self) -> Sequence[int]:
        """The tags whose readings its mode has to see."""

    @abstractmethod
    def _take(self, readings: Readings) -> None:
        """Takes readings in which one of its tags is."""

    @abstractmethod
    def _pass_time(self, moment: Moment) -> None:
        """Does what its mode has due."""

    @abstractmethod
    def _next_time(self) -> int:
        """When its mode is to be told the time."""

    @abstractmethod
    def ask(self, now_us: int) -> None:
        """A person wants a sample or record now."""

    def _waits_since(self) -> int | None:
        """The first instant of which its mode has still something to record."""
        return None

    def _take_sample(self, ts_us: int, _reason: str) -> None:
        """One sample of all members that are not held off, as they were at an instant."""
        values, on = self._context.live.at(self._slots, ts_us), ~self._off
        times = np.full(int(on.sum()), ts_us, np.int64)
        self._context.emit(Samples(self._histories[on], times, values.bits[on], values.quality[on]))
        self.kept += len(times)

    @property
    def remark(self) -> tuple[str, str, str] | None:
        """State, kind of its reason and reason, where it has something to say of itself."""
        return None


def _positions(logger: Logger, context: StageContext) -> NDArray[np.intp]:
    """The members' histories in the queue."""
    positions = [
        context.queue.position_of(*context.histories[logger.archive, tag_id]) for tag_id in logger.tags
    ]
    return np.array(positions, np.intp)


def members_in(live: LiveTable, slots: Slots) -> NDArray[np.intp]:
    """The member in each slot, -1 where there is none."""
    members = np.full(len(live.tag_ids), -1, np.intp)
    members[slots] = np.arange(len(slots))
    return members


def mine_of(member_of: NDArray[np.intp], slots: Slots) -> tuple[NDArray[np.bool_], NDArray[np.intp]]:
    """Which of the slots belong to members, and to which; slots may be newer than the logger."""
    inside = slots < len(member_of)
    members = np.full(len(slots), -1, np.intp)
    members[inside] = member_of[slots[inside]]
    mine = members >= 0
    return mine, members[mine]
