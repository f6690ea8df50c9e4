"""Triggered loggers at work: one record of all their tags at the instant of each edge."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

import numpy as np

from cronaca.core import quality as q
from cronaca.core.loggers import Logger, OnTrigger
from cronaca.core.outputs import Record
from cronaca.core.readings import Readings
from cronaca.recorder.outputs.queue import Samples
from cronaca.recorder.stages.logger_stage import NEVER, PATIENCE_US, EdgeWatch, LoggerStage
from cronaca.recorder.stages.stage import Moment, StageContext

BY_PERSON: Final = "on demand"


class RecordLogger(LoggerStage):
    """Takes records. One waits until every reading of its instant was handed on."""

    def __init__(self, logger: Logger, context: StageContext, before: RecordLogger | None = None) -> None:
        super().__init__(logger, context, before)
        self._pending: list[tuple[int, str]] = [] if before is None else before._pending
        trigger = logger.mode_as(OnTrigger).trigger
        self._watch: EdgeWatch = EdgeWatch(trigger, context, None if before is None else before._watch)

    def _reads(self) -> Sequence[int]:
        """Its trigger tag."""
        return self._watch.wakes_on()

    def _take(self, readings: Readings) -> None:
        """Looks for its trigger in readings of different tags."""
        edge = self._watch.edge(readings)
        if edge is not None and not self.held:
            self._pending.append(edge)

    def ask(self, now_us: int) -> None:
        """A person wants one now."""
        self._pending.append((now_us, BY_PERSON))

    def _waits_since(self) -> int | None:
        """The instant of the first record that is still to be taken."""
        return self._pending[0][0] if self._pending else None

    def _next_time(self) -> int:
        """As soon as possible while something is still to be taken."""
        return 0 if self._pending else NEVER

    def _pass_time(self, moment: Moment) -> None:
        """Takes the records whose instant is over."""
        while self._pending:
            ts_us, reason = self._pending[0]
            if moment.until_us <= ts_us and moment.now_us < ts_us + PATIENCE_US:
                return
            self._record(ts_us, reason)
            self._pending.pop(0)  # only now: knowledge must not run ahead of what is in the queue

    def _record(self, ts_us: int, reason: str) -> None:
        reading = self._context.live.at(self._slots, ts_us)
        logger = self.setup
        # A member that is held off has no value in the record, and no sample in its history.
        quality = np.where(self._off, q.BAD_NO_DATA, reading.quality)
        bits = np.where(self._off, 0, reading.bits)
        columns = tuple(bits.tolist()), tuple(quality.tolist())
        self._context.emit(Record(logger.logger_id, ts_us, reason, logger.tags, *columns))
        on = ~self._off
        ts = np.full(int(on.sum()), ts_us, np.int64)
        self._context.emit(Samples(self._histories[on], ts, reading.bits[on], reading.quality[on]))
        self.kept += 1

    def _take_sample(self, ts_us: int, reason: str) -> None:
        """Its sample is a record."""
        self._record(ts_us, reason)

    def finish(self) -> None:
        """It stops: what is still to be taken is taken as things stand."""
        while self._pending:
            self._record(*self._pending.pop(0))

    def tear(self) -> None:
        """What the trigger was before a hole stays known: a lot that changed inside it has its record."""
