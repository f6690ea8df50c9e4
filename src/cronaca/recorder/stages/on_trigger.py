"""Triggered loggers at work: one record of all their tags at the instant of each edge."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

import numpy as np

from cronaca.core.bits import from_bits
from cronaca.core.logger_rules.trigger import Trigger, reason_text
from cronaca.core.loggers import Logger, TriggerSpec
from cronaca.core.model import SECOND, Tag
from cronaca.core.outputs import Record
from cronaca.core.readings import Readings
from cronaca.recorder.outputs.queue import Samples
from cronaca.recorder.stages.logger_stage import NEVER, LoggerStage
from cronaca.recorder.stages.stage import Moment, StageContext

PATIENCE_US: Final = SECOND
"""A source that is slower than this does not hold a record up."""
BY_PERSON: Final = "asked for"


class TriggerWatch:
    """Looks for the edges of a trigger tag in readings."""

    def __init__(
        self, spec: TriggerSpec[int] | None, context: StageContext, before: TriggerWatch | None = None
    ) -> None:
        self._spec = spec
        self._live = context.live
        self.tag: Tag | None = None if spec is None or spec.tag is None else context.tags.get(spec.tag)
        self._trigger: Trigger | None = None if spec is None else Trigger(spec.edge)
        if before is not None and before._spec == spec:
            self._trigger = before._trigger

    def wakes_on(self) -> tuple[int, ...]:
        """The trigger tag."""
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


class RecordLogger(LoggerStage):
    """Takes records. One waits until every reading of its instant was handed on."""

    def __init__(self, logger: Logger, context: StageContext, before: RecordLogger | None = None) -> None:
        super().__init__(logger, context, 0 if before is None else before.kept)
        self._pending: list[tuple[int, str]] = [] if before is None else before._pending
        self._watch: TriggerWatch = TriggerWatch(
            logger.trigger, context, None if before is None else before._watch
        )

    def wakes_on(self) -> Sequence[int]:
        """Its trigger tag."""
        return self._watch.wakes_on()

    def on(self, readings: Readings) -> None:
        """Looks for its trigger in readings of different tags."""
        edge = self._watch.edge(readings)
        if edge is not None and not self.held:
            self._pending.append(edge)

    def ask(self, now_us: int) -> None:
        """A person wants one now."""
        self._pending.append((now_us, BY_PERSON))

    @property
    def waits_since_us(self) -> int | None:
        """The instant of the first record that is still to be taken."""
        return self._pending[0][0] if self._pending else None

    def next_time(self) -> int:
        """As soon as possible while something is still to be taken."""
        return 0 if self._pending else NEVER

    def on_time(self, moment: Moment) -> None:
        """Takes the records whose instant is over."""
        while self._pending:
            ts_us, reason = self._pending[0]
            if moment.until_us <= ts_us and moment.now_us < ts_us + PATIENCE_US:
                return
            self._take(ts_us, reason)
            self._pending.pop(0)  # only now: knowledge must not run ahead of what is in the queue

    def _take(self, ts_us: int, reason: str) -> None:
        reading = self._context.live.at(self._slots, ts_us)
        logger = self.setup
        bits, quality = tuple(reading.bits.tolist()), tuple(reading.quality.tolist())
        self._context.emit(Record(logger.logger_id, ts_us, reason, logger.tags, bits, quality))
        ts = np.full(len(self._slots), ts_us, np.int64)
        self._context.emit(Samples(self._histories, ts, reading.bits, reading.quality))
        self.kept += 1

    def finish(self) -> None:
        """It stops: what is still to be taken is taken as things stand."""
        while self._pending:
            self._take(*self._pending.pop(0))

    def tear(self) -> None:
        """What the trigger was before a hole stays known: a lot that changed inside it has its record."""
