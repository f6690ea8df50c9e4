"""Readings on their way through the recorder: columns of slot, time, value and quality."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cronaca.core.model import Times
from cronaca.core.quality import QualityArray

Slots = NDArray[np.intp]
"""Where tags have their rows in the table of present values."""


@dataclass(frozen=True, slots=True)
class Values:
    """64-bit values and their qualities as columns of one length, in the order of the tags asked for."""

    bits: NDArray[np.int64]
    quality: QualityArray


@dataclass(frozen=True, slots=True)
class Readings:
    """Readings of different tags as columns of one length; a slot stands in them once. Times are UTC µs."""

    slots: Slots
    ts_us: Times
    bits: NDArray[np.int64]
    quality: QualityArray

    @classmethod
    def of(cls, slots: Slots, ts_us: int | Times, values: Values) -> Readings:
        """Values read at one time, or each at its own."""
        times = ts_us if isinstance(ts_us, np.ndarray) else np.full(len(slots), ts_us, np.int64)
        return cls(slots, times, values.bits, values.quality)

    def __len__(self) -> int:
        return len(self.slots)

    def take(self, chosen: NDArray[np.bool_]) -> Readings:
        """The chosen ones."""
        return Readings(self.slots[chosen], self.ts_us[chosen], self.bits[chosen], self.quality[chosen])

    def find(self, slot: int) -> int | None:
        """The row of a slot, None when it was not read."""
        places = np.flatnonzero(self.slots == slot)
        return int(places[0]) if len(places) else None
