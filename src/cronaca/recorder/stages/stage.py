"""What a stage is: a step of the recorder's way, fed with readings and with time; what it finds out it leaves
as outputs.

A new stage is a class below Stage, a row in `stages` where the recorder is put together, and, where it leaves
something new, a kind in core/outputs.py with its handler in services/outputs.py.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import ClassVar

from cronaca.core.model import SECOND, Tag
from cronaca.core.outputs import Output
from cronaca.core.ports import HistoryOf, LastKnown
from cronaca.core.readings import Readings
from cronaca.core.setup.whole import Setup
from cronaca.recorder.live import LiveTable
from cronaca.recorder.outputs.queue import OutputQueue, Samples


@dataclass(frozen=True, slots=True)
class StageContext:
    """What stages work on: present values, the way out, the tags by number, the open histories."""

    live: LiveTable
    queue: OutputQueue
    tags: Mapping[int, Tag]
    histories: HistoryOf

    def emit(self, output: Samples | Output) -> None:
        """Puts an output on its way to the database."""
        self.queue.put(output)


@dataclass(frozen=True, slots=True)
class Moment:
    """A look at the clock. Every reading up to `until_us` was handed on; of each source, up to `sources`."""

    now_us: int
    until_us: int
    sources: Mapping[int, int]


class StageHooks:
    """What only some stages need; the others do nothing."""

    def begin(self, now_us: int) -> None:
        """Recording begins: a recorder may have waited for its lease."""

    def tear(self, now_us: int) -> None:
        """A hole was torn, or the clock was set: nothing is carried across it but what is on record."""

    def finish(self) -> None:
        """The recorder ends: what is held back is left as things stand."""

    def restore(self, last: LastKnown) -> None:
        """What was committed last, before it follows its first set-up."""

    def lower_known(self, known: dict[int, int], now_us: int) -> None:
        """Lowers, of each source, until when all samples of its tags are in the queue; called from the
        flusher's thread."""


class Stage(StageHooks, ABC):
    """A step of the recorder's way. All but `known_until` and `lower_known` is called in the recorder's loop;
    a stage that fails is said, and the others go on."""

    name: ClassVar[str]
    """Under which its state and its faults are kept."""

    @abstractmethod
    def follow(self, setup: Setup, context: StageContext, now_us: int) -> Sequence[Readings]:
        """Goes over to a set-up; what is not touched by it goes on as it is. Returns readings of its own."""

    @abstractmethod
    def wakes_on(self) -> Collection[int]:
        """The tags whose readings it has to see, by the set-up it follows."""

    @abstractmethod
    def on(self, readings: Readings) -> None:
        """Takes readings in which one of its tags is."""

    def on_time(self, moment: Moment) -> Sequence[Readings]:
        """Does what is due. Returns readings of its own, in order of time: the stages behind it get them."""
        del moment
        return ()

    def next_time(self, now_us: int) -> int:
        """When it has something to do even if no reading comes; now, when something waits."""
        return now_us + SECOND

    def known_until(self, now_us: int) -> int:
        """Up to here everything is decided; called from the flusher's thread too."""
        return now_us

    def readings_until(self, now_us: int) -> int:
        """Up to here its own readings were handed on."""
        return now_us

    def snapshot(self) -> bytes:
        """What it needs to know when the recorder begins again; kept with its outputs."""
        return b""
