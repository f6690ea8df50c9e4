"""The recorder's way: readings go through the stages one after the other, and each sees what those before it
have made of them."""

from __future__ import annotations

import logging
from collections.abc import Callable, Collection, Sequence
from functools import partial
from typing import Final, TypeVar

import numpy as np
from numpy.typing import NDArray

from cronaca.core.model import SECOND
from cronaca.core.outputs import StageState
from cronaca.core.ports import LastKnown
from cronaca.core.readings import Readings, Slots
from cronaca.core.setup.whole import Setup
from cronaca.recorder.live import LiveTable
from cronaca.recorder.outputs.queue import OutputQueue
from cronaca.recorder.stages.stage import Moment, Stage, StageContext

_LONGEST_FAULT: Final = 300
_NO_READINGS: Final[Sequence[Readings]] = ()
_NO_TAGS: Final[Collection[int]] = ()
T = TypeVar("T")
_log = logging.getLogger(__name__)


class Pipeline:
    """Stages in their order. A fault of one is said, and costs the others nothing."""

    def __init__(self, live: LiveTable, queue: OutputQueue, stages: Sequence[Stage]) -> None:
        self._live = live
        self._queue = queue
        self._stages = tuple(stages)
        self._wakes: list[NDArray[np.bool_]] = [np.zeros(0, np.bool_) for _ in stages]
        self._states = {stage.name: b"" for stage in stages}
        self._faults: dict[str, str] = {}

    def follow(self, setup: Setup, context: StageContext, now_us: int) -> None:
        """Goes over to a set-up."""
        self._faults.clear()
        made: list[Sequence[Readings]] = []
        for i, stage in enumerate(self._stages):
            made.append(self._guarded(stage, partial(stage.follow, setup, context, now_us), _NO_READINGS))
            wakes = np.zeros(len(self._live.tag_ids), np.bool_)
            tags = self._guarded(stage, stage.wakes_on, _NO_TAGS)
            wakes[[self._live.slots[tag_id] for tag_id in tags if tag_id in self._live.slots]] = True
            self._wakes[i] = wakes
        for stage in self._stages:
            self._keep_state(stage)
        for readings in [readings for several in made for readings in several]:
            self.offer(readings)

    def offer(self, readings: Readings, first: int = 0) -> None:
        """Hands readings to the stages from one on; they are present values from now on."""
        self._live.update(readings)
        for i, stage in enumerate(self._stages[first:], first):
            if _is_woken(self._wakes[i], readings.slots):
                self._guarded(stage, partial(stage.on, readings), None)
                self._keep_state(stage)

    def on_time(self, moment: Moment) -> bool:
        """Has each stage do what is due; whether one of them has made readings."""
        has_made = False
        for i, stage in enumerate(self._stages):
            for readings in self._guarded(stage, partial(stage.on_time, moment), _NO_READINGS):
                has_made = True
                self.offer(readings, i + 1)
            self._keep_state(stage)
            until_us = min(
                moment.until_us,
                self._guarded(stage, partial(stage.readings_until, moment.now_us), moment.now_us),
            )
            moment = Moment(moment.now_us, until_us, moment.sources)
        return has_made

    def next_time(self, now_us: int) -> int:
        """When a stage has something to do even if no reading comes."""
        return min(
            self._guarded(stage, partial(stage.next_time, now_us), now_us + SECOND) for stage in self._stages
        )

    def known_until(self, now_us: int) -> int:
        """Up to here the stages have decided everything; safe to ask from the flusher's thread."""
        return min(self._guarded(stage, partial(stage.known_until, now_us), now_us) for stage in self._stages)

    def lower_known(self, known: dict[int, int], now_us: int) -> None:
        """Lowers, of each source, until when all samples of its tags are in the queue."""
        for stage in self._stages:
            self._guarded(stage, partial(stage.lower_known, known, now_us), None)

    def begin(self, now_us: int) -> None:
        """Recording begins."""
        self._each(lambda stage: stage.begin(now_us))

    def tear(self, now_us: int) -> None:
        """Nothing is carried across what just happened but what is on record."""
        self._each(lambda stage: stage.tear(now_us))

    def finish(self) -> None:
        """What stages hold back is left."""
        self._each(lambda stage: stage.finish())

    def restore(self, last: LastKnown) -> None:
        """What was committed last is known again."""
        for stage in self._stages:
            self._states[stage.name] = last.state_of(stage.name)
            self._guarded(stage, partial(stage.restore, last), None)

    def faults(self) -> tuple[str, ...]:
        """What stages failed at since the set-up was taken up."""
        return tuple(self._faults.values())

    def _each(self, work: Callable[[Stage], None]) -> None:
        for stage in self._stages:
            self._guarded(stage, partial(work, stage), None)
            self._keep_state(stage)

    def _keep_state(self, stage: Stage) -> None:
        state = self._guarded(stage, stage.snapshot, self._states[stage.name])
        if state != self._states[stage.name]:
            self._states[stage.name] = state
            self._queue.put(StageState(stage.name, state))

    def _guarded(self, stage: Stage, work: Callable[[], T], otherwise: T) -> T:
        try:
            return work()
        except Exception as exc:  # noqa: BLE001 - kept where it happened, and said
            if stage.name not in self._faults:
                # The first fault is the one that explains the others.
                _log.error("The stage %s failed", stage.name, exc_info=exc)
                text = f"The recorder's {stage.name} failed: {type(exc).__name__}: {exc}"
                self._faults[stage.name] = text[:_LONGEST_FAULT]
            return otherwise


def _is_woken(wakes: NDArray[np.bool_], slots: Slots) -> bool:
    """Whether one of the slots wakes; a slot may be newer than the set-up."""
    return bool(wakes[slots[slots < len(wakes)]].any())
