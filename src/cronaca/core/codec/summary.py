"""What of a segment stands beside its bytes as plain columns."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from cronaca.core import quality as q
from cronaca.core.model import Series


@dataclass(frozen=True, slots=True)
class SegmentSummary:
    """Times in µs; `low` and `high` over usable samples, None when there is none. Durations hold each
    sample's quality until the next one, from the first to the last sample."""

    start_us: int
    end_us: int
    samples: int
    low: float | None
    high: float | None
    good_us: int
    uncertain_us: int
    bad_us: int


def summarise(series: Series) -> SegmentSummary:
    """The summary of a series that is not empty."""
    usable = series.values[~q.is_bad(series.quality)]
    held = np.diff(series.ts_us)
    levels = q.severity(series.quality[:-1])
    return SegmentSummary(
        start_us=int(series.ts_us[0]),
        end_us=int(series.ts_us[-1]),
        samples=len(series),
        low=float(usable.min()) if len(usable) else None,
        high=float(usable.max()) if len(usable) else None,
        good_us=int(held[levels == 0].sum()),
        uncertain_us=int(held[levels == 1].sum()),
        bad_us=int(held[levels >= 2].sum()),
    )
