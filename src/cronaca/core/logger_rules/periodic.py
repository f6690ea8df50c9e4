"""Periodic recording: the value at each tick of the clock, ticks counted from UTC midnight.

A Bad value is recorded once, at its first tick: repeating "no value" each second stores nothing new.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q


def latest_tick(now_us: int, interval_us: int) -> int:
    """The last tick at or before `now_us`. 1970-01-01 was a UTC midnight, so ticks count from there;
    an interval that does not divide the day keeps its own grid across midnight."""
    return now_us - now_us % interval_us


@dataclass(slots=True)
class PeriodicState:
    """What the rule remembers per member: the quality it recorded last."""

    last_quality: q.QualityArray

    @classmethod
    def fresh(cls, members: int) -> PeriodicState:
        """Nothing recorded yet: the first tick records every member, Bad ones too."""
        return cls(np.full(members, q.GOOD, np.uint16))


def decide_periodic(state: PeriodicState, quality: q.QualityArray) -> NDArray[np.bool_]:
    """Which members are recorded at this tick, given their present quality; updates the state."""
    keep: NDArray[np.bool_] = ~(q.is_bad(quality) & (quality == state.last_quality))
    state.last_quality = quality.copy()
    return keep
