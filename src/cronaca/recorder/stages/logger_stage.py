"""What the four kinds of loggers have in common."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Sequence
from typing import ClassVar, Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core.codec.batch import HistoryKey
from cronaca.core.loggers import Logger
from cronaca.core.model import Window
from cronaca.core.readings import Readings, Slots
from cronaca.recorder.live import LiveTable
from cronaca.recorder.stages.stage import Moment, StageContext

NEVER: Final = 1 << 62


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


class LoggerStage(LoggerHooks, ABC):
    """A logger at work: a stage of its own, which the set of loggers calls when it has to be."""

    covers_itself: ClassVar[bool] = False
    """Whether it says itself in which stretches it records."""

    def __init__(self, logger: Logger, context: StageContext, kept: int = 0) -> None:
        self.setup = logger
        self.kept = kept
        """Samples kept since the recorder began."""
        self.held = False
        """Held off by its inhibit tag or schedule: it looks on, and records nothing."""
        self._context = context
        self._slots = context.live.slots_of(logger.tags)
        self._histories = _positions(logger, context)

    @property
    def keys(self) -> tuple[HistoryKey, ...]:
        """The histories of its members."""
        logger = self.setup
        return tuple(self._context.histories[logger.archive, tag_id][0] for tag_id in logger.tags)

    @abstractmethod
    def wakes_on(self) -> Sequence[int]:
        """The tags whose readings it has to see."""

    @abstractmethod
    def on(self, readings: Readings) -> None:
        """Takes readings in which one of its tags is."""

    @abstractmethod
    def on_time(self, moment: Moment) -> None:
        """Does what is due."""

    @abstractmethod
    def next_time(self) -> int:
        """When it is to be told the time: 0 as soon as possible, NEVER when only readings concern it."""

    @abstractmethod
    def ask(self, now_us: int) -> None:
        """A person wants a sample or record now."""

    @property
    def waits_since_us(self) -> int | None:
        """The first instant of which something is still to be recorded; safe to ask from the flusher's
        thread."""
        return None

    @property
    def remark(self) -> tuple[str, str, str] | None:
        """State, kind of its reason and reason, where it has something to say of itself."""
        return None


def _positions(logger: Logger, context: StageContext) -> NDArray[np.intp]:
    """The members' histories in the queue."""
    found = [context.queue.position_of(*context.histories[logger.archive, tag_id]) for tag_id in logger.tags]
    return np.array(found, np.intp)


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
