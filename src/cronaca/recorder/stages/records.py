"""Triggered loggers at work: one record of all their tags at the instant of each edge."""

from __future__ import annotations

import numpy as np

from cronaca.core.bits import from_bits
from cronaca.core.logger_rules.trigger import Trigger, reason_text
from cronaca.core.model import SECOND, Logger, Times
from cronaca.core.ports import Reading, Record
from cronaca.recorder.live import Slots
from cronaca.recorder.outputs.queue import Chunk
from cronaca.recorder.stages.loggers import LoggerContext

_PATIENCE_US = SECOND
"""A source that is slower than this does not hold a record up."""
BY_PERSON = "asked for"


class RecordLogger:
    """Takes records. One waits until every reading of its instant was handed on."""

    def __init__(self, logger: Logger, place: LoggerContext, before: RecordLogger | None = None) -> None:
        self.setup = logger
        self.kept: int = 0 if before is None else before.kept
        self._pending: list[tuple[int, str]] = [] if before is None else before._pending
        self._place = place
        self._slots = place.live.slots_of(logger.tag_ids)
        self._histories = place.positions(logger)
        wish = logger.trigger
        self._tag = None if wish is None or wish.tag_id is None else place.tags.get(wish.tag_id)
        self._trigger: Trigger | None = None if wish is None else Trigger(wish.edge)
        if before is not None and before.setup.trigger == wish:
            self._trigger = before._trigger

    def on_reading(
        self, slots: Slots, ts_us: int | Times, reading: Reading, *, inhibited: bool = False
    ) -> None:
        """Looks for its trigger in readings of different tags."""
        if self._tag is None or self._trigger is None:
            return
        found = np.flatnonzero(slots == self._place.live.slots.get(self._tag.tag_id, -1))
        if not len(found):
            return
        i = int(found[0])
        value = from_bits(int(reading.bits[i]), self._tag.value_type)
        if self._trigger.offer(value, int(reading.quality[i])) and not inhibited:
            at_us = int(np.broadcast_to(ts_us, slots.shape)[i])
            self._pending.append((at_us, reason_text(self._tag.name, self._tag.value_type, value)))

    def ask(self, now_us: int) -> None:
        """A person wants one now."""
        self._pending.append((now_us, BY_PERSON))

    @property
    def waits_since_us(self) -> int | None:
        """The instant of the first record that is still to be taken."""
        return self._pending[0][0] if self._pending else None

    @property
    def needs_time(self) -> bool:
        """Whether something is still to be taken."""
        return bool(self._pending)

    def take_due(self, now_us: int, scanned_until_us: int) -> None:
        """Takes the records whose instant is over."""
        while self._pending:
            ts_us, reason = self._pending[0]
            if scanned_until_us <= ts_us and now_us < ts_us + _PATIENCE_US:
                return
            self._take(ts_us, reason)
            self._pending.pop(0)  # only now: knowledge must not run ahead of what is in the queue

    def _take(self, ts_us: int, reason: str) -> None:
        reading = self._place.live.at(self._slots, ts_us)
        logger = self.setup
        bits, quality = tuple(reading.bits.tolist()), tuple(reading.quality.tolist())
        record = Record(logger.logger_id, ts_us, reason, logger.tag_ids, bits, quality)
        self._place.queue.note_record(record)
        ts = np.full(len(self._slots), ts_us, np.int64)
        self._place.queue.put(Chunk(self._histories, ts, reading.bits, reading.quality))
        self.kept += 1

    def finish(self) -> None:
        """It stops: what is still to be taken is taken as things stand."""
        while self._pending:
            self._take(*self._pending.pop(0))

    def restart(self) -> None:
        """What the trigger was before a hole stays known: a lot that changed inside it has its record."""
