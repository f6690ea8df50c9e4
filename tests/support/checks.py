"""What has to hold after every fault."""

from __future__ import annotations

import time
from typing import Final

import numpy as np

from cronaca.core import quality as q
from cronaca.core.model import SECOND, Gap, GapReason, Window
from cronaca.history.read.series import SeriesAnswer
from tests.support.application import Application


def now_us() -> int:
    return time.time_ns() // 1000


_TOLERANCE_US: Final = 5 * SECOND
"""So long may ticks of a logger once a second be missed without a gap (the default of its set-up)."""
_NOT_YET: Final = q.describe(q.BAD_WAITING_FOR_INITIAL_DATA)


class Checker:
    """Looks at a tag whose samples come once a second."""

    def __init__(self, application: Application) -> None:
        self.application = application
        self.began = now_us()
        self.seen: set[int] = set()

    def look(self) -> SeriesAnswer:
        """No committed sample lost, none twice, order kept; each hole has its reason."""
        answer = self.application.read("head_pressure", Window(self.began, now_us()))
        times = answer.recorded.ts_us
        assert bool((np.diff(times) > 0).all()), "order is kept, none is there twice"
        assert self.seen <= set(times.tolist()), "a committed sample is gone"
        self.seen = set(times.tolist())
        gaps = [g for g in answer.blanks if g.reason is not GapReason.NOT_YET_KNOWN]
        for i in np.flatnonzero(np.diff(times) > SECOND).tolist():
            start, end = int(times[i]), int(times[i + 1])
            if start < self.began:
                continue  # the sample before the window; what is between is not of this test
            held = int(answer.recorded.quality[i]) == q.UNCERTAIN_LAST_USABLE
            if held and end - start <= _TOLERANCE_US:
                continue  # the recorder was held up for a moment: a stretch of its own quality, and no hole
            reasons = [g for g in gaps if g.start_us < end and (g.end_us or end) > start]
            assert reasons, f"no reason for the hole {start} to {end}: {gaps}"
        return answer

    def gaps(self) -> list[Gap]:
        """All gaps but two kinds that belong to any start or machine, not to the fault that is tried, and
        that are on record with reasons of their own: seconds in which the machine stood still, and ticks of
        a recorder that had just begun, before the first answer of the device to its one-second scan."""
        gaps = [g for g in self.look().blanks if g.reason is not GapReason.NOT_YET_KNOWN]
        late = [(g.end_us or now_us()) - g.start_us for g in gaps if g.reason is GapReason.RECORDER_LATE]
        assert sum(late) < 5 * SECOND, f"the recorder itself was late: {gaps}"
        first = [g for g in gaps if g.reason is GapReason.BAD_VALUES and g.detail == _NOT_YET]
        assert all((g.end_us or now_us()) - g.start_us <= 2 * SECOND for g in first), gaps
        return [g for g in gaps if g.reason is not GapReason.RECORDER_LATE and g not in first]
