"""The line of a tag inside one interval, cut into pieces: from sample to sample, and to the edges."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from cronaca.core.aggregates.bounds import simple
from cronaca.core.aggregates.interval_data import IntervalData, Mask
from cronaca.core.aggregates.samples import Floats
from cronaca.core.model import Times


@dataclass(frozen=True, slots=True)
class Pieces:
    """Columns, one entry per piece in order of time: when it begins, how long it is (µs), the value at its
    beginning and just before its end; whether it is usable. Where it is not, the values mean nothing."""

    start_us: Times
    length_us: Times
    first: Floats
    last: Floats
    usable: Mask

    def used(self) -> Pieces:
        """The usable ones."""
        keep = self.usable
        return Pieces(
            self.start_us[keep], self.length_us[keep], self.first[keep], self.last[keep], self.usable[keep]
        )


def pieces_of(data: IntervalData, i: int) -> Pieces:
    """The pieces of interval `i` (in order of time) as far as it is known."""
    lo, hi = int(data.intervals.lo_us[i]), int(data.intervals.hi_us[i])
    inside = slice(int(np.searchsorted(data.ts_us, lo, "right")), int(np.searchsorted(data.ts_us, hi)))
    end = max(min(hi, data.end_of_data_us), lo)
    edges = np.r_[lo, data.ts_us[inside], end]
    start, bound = simple(data, edges[:1]), simple(data, edges[-1:], leaving=True)
    own, bad = data.numbers[inside], data.bad[inside]
    first = np.r_[start.values.astype(np.float64), own]
    usable = np.r_[start.usable, ~bad]
    if data.stepped:
        last = first
    else:
        leads = np.r_[~bad, bound.usable]
        following = np.r_[own, bound.values.astype(np.float64)]
        last = np.where(leads, following, first)
    length = np.diff(edges)
    keep = length > 0
    return Pieces(edges[:-1][keep], length[keep], first[keep], last[keep], usable[keep])
