"""What an aggregate gives: one value with time and status per interval."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.aggregates import status
from cronaca.core.aggregates.interval_data import IntervalData, Mask
from cronaca.core.aggregates.samples import as_type
from cronaca.core.aggregates.status import StatusArray
from cronaca.core.model import Times, Values


@dataclass(frozen=True, slots=True)
class Processed:
    """Columns, one entry per interval in the direction of time. `null` where there is no value; then the
    entry in `values` is NaN or 0."""

    begin_us: Times
    end_us: Times
    ts_us: Times
    values: Values
    null: Mask
    codes: StatusArray

    def __len__(self) -> int:
        return len(self.ts_us)

    def value(self, i: int) -> float | int | None:
        """One value."""
        return None if self.null[i] else self.values[i].item()


def processed(
    data: IntervalData,
    values: Values,
    codes: StatusArray,
    *bits: int | NDArray[np.int64],
    null: Mask | None = None,
    ts_us: Times | None = None,
) -> Processed:
    """Results in the direction of time. A Bad one carries no value, unless `null` says otherwise, and what
    has no value has no bits and stands at the beginning of its interval. A result beyond float64 is Bad,
    out of range."""
    where = data.intervals
    if values.dtype == np.float64:
        too_large = ~np.isfinite(values) & (status.severity(codes) < 2)
        codes = np.where(too_large, np.uint32(q.BAD_OUT_OF_RANGE << 16), codes)
    empty = status.severity(codes) >= 2 if null is None else null
    result = status.with_bits(codes, *bits)
    codes = np.where(empty, codes, result)
    values = as_type(np.where(empty, np.nan if values.dtype == np.float64 else 0, values), values)
    times = where.begin_us if ts_us is None else np.where(empty, where.begin_us, ts_us)
    order = slice(None) if where.forward else slice(None, None, -1)
    return Processed(
        where.begin_us[order], where.end_us[order], times[order], values[order], empty[order], codes[order]
    )


def where_past(data: IntervalData, codes: StatusArray) -> StatusArray:
    """Bad, no data, for the intervals that lie wholly behind the end of data."""
    return np.where(data.past_data, np.uint32(status.BAD_NO_DATA), codes)
