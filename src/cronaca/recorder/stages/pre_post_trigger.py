"""Loggers around a trigger: full detail from a time before it to a time after it."""

from __future__ import annotations

from collections import deque
from typing import Final

import numpy as np

from cronaca.core.bits import from_bits
from cronaca.core.logger_rules.trigger import Trigger
from cronaca.core.model import GapReason, Logger, Times
from cronaca.core.ports import CoverageMark, Reading
from cronaca.recorder.live import Slots
from cronaca.recorder.outputs.queue import Chunk
from cronaca.recorder.stages.loggers import LoggerContext, members_in, mine_of

MOST_HELD: Final = 2_000_000
"""Readings in memory for one logger; of more the oldest are let go."""
_WAITING: Final = GapReason.WAITING_FOR_TRIGGER


class PrePostTriggerLogger:
    """Holds the readings of the time before; an edge of its trigger, or a person, has them recorded, and all
    that follow until the time after is over. An edge inside that time makes it longer."""

    def __init__(
        self, logger: Logger, place: LoggerContext, before: PrePostTriggerLogger | None = None
    ) -> None:
        self.setup = logger
        self.kept: int = 0 if before is None else before.kept
        self._place = place
        slots = place.live.slots_of(logger.tag_ids)
        self._member_of = members_in(place.live, slots)
        self._histories = place.positions(logger)
        wish = logger.trigger
        self._tag = None if wish is None or wish.tag_id is None else place.tags.get(wish.tag_id)
        self._trigger: Trigger | None = None if wish is None else Trigger(wish.edge)
        self._held: deque[Chunk] = deque()
        self._count = 0
        self._until_us: int | None = None
        self._fresh = before is None
        if before is not None:
            self._take_over(before)

    def _take_over(self, before: PrePostTriggerLogger) -> None:
        if before.setup.trigger == self.setup.trigger:
            self._trigger = before._trigger
        if before.setup.tag_ids == self.setup.tag_ids:
            self._held, self._count, self._until_us = before._held, before._count, before._until_us
        else:
            before.finish()
            self._fresh = True

    @property
    def waits(self) -> bool:
        """Whether it waits for its trigger."""
        return self._until_us is None

    def on_reading(
        self, slots: Slots, ts_us: int | Times, reading: Reading, *, inhibited: bool = False
    ) -> None:
        """Holds readings of its tags, or records them; looks for its trigger."""
        mine, members = mine_of(self._member_of, slots)
        if len(members):
            times = np.array(np.broadcast_to(ts_us, slots.shape)[mine])
            chunk = Chunk(self._histories[members], times, reading.bits[mine], reading.quality[mine])
            if self._until_us is None:
                self._hold(chunk)
            else:
                self._put(chunk, self._until_us)
        edge_us = self._edge(slots, ts_us, reading)
        if edge_us is not None and not inhibited:
            self._open(edge_us)

    def _edge(self, slots: Slots, ts_us: int | Times, reading: Reading) -> int | None:
        if self._tag is None or self._trigger is None:
            return None
        found = np.flatnonzero(slots == self._place.live.slots.get(self._tag.tag_id, -1))
        if not len(found):
            return None
        i = int(found[0])
        value = from_bits(int(reading.bits[i]), self._tag.value_type)
        fired = self._trigger.offer(value, int(reading.quality[i]))
        return int(np.broadcast_to(ts_us, slots.shape)[i]) if fired else None

    def ask(self, now_us: int) -> None:
        """A person wants it now."""
        self._open(now_us)

    def _open(self, at_us: int) -> None:
        if self._until_us is None:
            start_us = at_us - self.setup.before_us
            self._place.queue.note_coverage(CoverageMark(self._place.keys(self.setup), start_us, None))
            for chunk in self._held:
                chosen = chunk.ts_us >= start_us
                self._record(chunk, chosen)
            self._held.clear()
            self._count = 0
        self._until_us = max(self._until_us or 0, at_us + self.setup.after_us)

    @property
    def needs_time(self) -> bool:
        """Whether it has to be told that time passes."""
        return self._fresh or self._until_us is not None

    def pass_time(self, now_us: int) -> None:
        """Ends what is over."""
        if self._fresh:
            self._fresh = False
            self._close(now_us)
        elif self._until_us is not None and now_us >= self._until_us:
            until_us, self._until_us = self._until_us, None
            self._close(until_us)

    def _close(self, at_us: int) -> None:
        self._place.queue.note_coverage(CoverageMark(self._place.keys(self.setup), at_us, _WAITING))

    def _hold(self, chunk: Chunk) -> None:
        self._held.append(chunk)
        self._count += len(chunk.bits)
        oldest_us = int(chunk.ts_us.max()) - self.setup.before_us
        while self._held and (int(self._held[0].ts_us.max()) < oldest_us or self._count > MOST_HELD):
            self._count -= len(self._held.popleft().bits)

    def _put(self, chunk: Chunk, until_us: int) -> None:
        self._record(chunk, chunk.ts_us < until_us)

    def _record(self, chunk: Chunk, chosen: np.ndarray[tuple[int], np.dtype[np.bool_]]) -> None:
        kept = Chunk(chunk.histories[chosen], chunk.ts_us[chosen], chunk.bits[chosen], chunk.quality[chosen])
        self._place.queue.put(kept)
        self.kept += len(kept.bits)

    def finish(self) -> None:
        """It stops: what waits for a trigger that does not come is let go."""
        self._held.clear()
        self._count, self._until_us = 0, None

    def restart(self) -> None:
        """What was held before a hole stays what it is."""
