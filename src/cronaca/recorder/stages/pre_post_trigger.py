"""Loggers around a trigger: full detail from a time before it to a time after it."""

from __future__ import annotations

from collections import deque
from collections.abc import Sequence
from typing import Final

import numpy as np

from cronaca.core.loggers import Logger, PrePostTrigger
from cronaca.core.model import GapReason
from cronaca.core.outputs import CoverageMark
from cronaca.core.readings import Readings
from cronaca.recorder.outputs.queue import Samples
from cronaca.recorder.stages.logger_stage import NEVER, EdgeWatch, LoggerStage
from cronaca.recorder.stages.stage import Moment, StageContext

MOST_HELD: Final = 2_000_000
"""Readings in memory for one logger; of more the oldest are let go."""
_WAITING: Final = GapReason.WAITING_FOR_TRIGGER


class PrePostTriggerLogger(LoggerStage):
    """Holds the readings of the time before; an edge of its trigger, or a person, has them recorded, and all
    that follow until the time after is over. An edge inside that time makes it longer."""

    covers_itself = True

    def __init__(
        self, logger: Logger, context: StageContext, before: PrePostTriggerLogger | None = None
    ) -> None:
        super().__init__(logger, context, before)
        self._mode = logger.mode_as(PrePostTrigger)
        self._watch: EdgeWatch = EdgeWatch(
            self._mode.trigger, context, None if before is None else before._watch
        )
        self._before: deque[Samples] = deque()
        self._count = 0
        self._until_us: int | None = None
        self._fresh = before is None
        if before is not None:
            self._take_over(before)

    def _take_over(self, before: PrePostTriggerLogger) -> None:
        if before.setup.tags == self.setup.tags:
            self._before, self._count, self._until_us = before._before, before._count, before._until_us
        else:
            before.finish()
            self._fresh = True

    @property
    def remark(self) -> tuple[str, str, str] | None:
        """That it waits for its trigger."""
        return ("waiting", "none", "Waiting for its trigger.") if self.waits else None

    @property
    def is_covered(self) -> bool:
        """Only from trigger to trigger."""
        return not self.held and not self.waits

    @property
    def waits(self) -> bool:
        """Whether it waits for its trigger."""
        return self._until_us is None

    def _reads(self) -> Sequence[int]:
        """Its members and its trigger tag."""
        return (*self.setup.tags, *self._watch.wakes_on())

    def _take(self, readings: Readings) -> None:
        """Holds readings of its tags, or records them; looks for its trigger."""
        mine, members = self._mine(readings)
        if len(members):
            offered = readings.take(mine)
            samples = Samples(self._histories[members], offered.ts_us, offered.bits, offered.quality)
            if self._until_us is None:
                self._hold(samples)
            else:
                self._put(samples, self._until_us)
        edge = self._watch.edge(readings)
        if edge is not None and not self.held:
            self._open(edge[0])

    def ask(self, now_us: int) -> None:
        """A person wants it now."""
        self._open(now_us)

    def _open(self, at_us: int) -> None:
        if self._until_us is None:
            start_us = at_us - self._mode.before_us
            self._context.emit(CoverageMark(self.keys_on(), start_us, None))
            for samples in self._before:
                chosen = samples.ts_us >= start_us
                self._record(samples, chosen)
            self._before.clear()
            self._count = 0
        self._until_us = max(self._until_us or 0, at_us + self._mode.after_us)

    def _next_time(self) -> int:
        """As soon as possible while it records, or has not said yet that it waits."""
        return 0 if self._fresh or self._until_us is not None else NEVER

    def _pass_time(self, moment: Moment) -> None:
        """Ends what is over."""
        until_us = moment.until_us
        if self._fresh:
            self._fresh = False
            self._close(until_us)
        elif self._until_us is not None and until_us >= self._until_us:
            end_us, self._until_us = self._until_us, None
            self._close(end_us)

    def _close(self, at_us: int) -> None:
        self._context.emit(CoverageMark(self.keys_on(), at_us, _WAITING))

    def _hold(self, samples: Samples) -> None:
        self._before.append(samples)
        self._count += len(samples.bits)
        oldest_us = int(samples.ts_us.max()) - self._mode.before_us
        while self._before and (int(self._before[0].ts_us.max()) < oldest_us or self._count > MOST_HELD):
            self._count -= len(self._before.popleft().bits)

    def _put(self, samples: Samples, until_us: int) -> None:
        self._record(samples, samples.ts_us < until_us)

    def _record(self, samples: Samples, chosen: np.ndarray[tuple[int], np.dtype[np.bool_]]) -> None:
        kept = Samples(
            samples.histories[chosen], samples.ts_us[chosen], samples.bits[chosen], samples.quality[chosen]
        )
        self._context.emit(kept)
        self.kept += len(kept.bits)

    def finish(self) -> None:
        """It stops: what waits for a trigger that does not come is let go."""
        self._before.clear()
        self._count, self._until_us = 0, None

    def tear(self) -> None:
        """What was held before a hole stays what it is."""
