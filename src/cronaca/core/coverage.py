"""Where a series has no usable data, and why; and the Bad samples that say so inside the series.

Knowledge comes from three places: the gaps on record (recorder down, queue overflow, ...), the time
until which everything is committed (`known_until`), and the Bad stretches of the series itself.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from cronaca.core import quality as q
from cronaca.core.model import Gap, GapReason, Series, Window, merge


def with_gaps_marked(series: Series, gaps: Sequence[Gap]) -> Series:
    """The series with a Bad, no data, sample at the start of each gap on record, so that nothing
    bridges it. A real sample at that very instant stands; then the mark follows one µs later."""
    inside = sorted(gap.start_us for gap in gaps)
    if not inside:
        return series
    starts = np.unique(np.array(inside, np.int64))
    starts = np.where(np.isin(starts, series.ts_us), starts + 1, starts)
    marks = Series.of(
        series.value_type, starts, np.zeros(len(starts)), np.full(len(starts), q.BAD_NO_DATA, np.uint16)
    )
    return merge([series, marks], series.value_type)


def bad_stretches(series: Series, end_us: int) -> list[Gap]:
    """The stretches of one Bad quality, each to the next sample of another one (or to `end_us`)."""
    codes = np.where(q.is_bad(series.quality), series.quality, q.GOOD)
    if not len(series):
        return []
    starts = np.flatnonzero(np.r_[True, codes[1:] != codes[:-1]])
    found = []
    for first, after in zip(starts.tolist(), [*starts[1:].tolist(), len(series)], strict=True):
        code = int(codes[first])
        if code == q.GOOD:
            continue
        reason = GapReason.SOURCE_DOWN if code == q.BAD_NO_COMMUNICATION else GapReason.BAD_VALUES
        end = int(series.ts_us[after]) if after < len(series) else end_us
        found.append(Gap(int(series.ts_us[first]), end, reason, q.describe(code)))
    return found


def blanks(
    series: Series,
    recorded_gaps: Sequence[Gap],
    window: Window,
    known_until_us: int,
    since_us: int | None,
    silence: GapReason = GapReason.NOT_YET_KNOWN,
) -> list[Gap]:
    """All stretches of the window without usable data, each with its reason, in order of time.

    `series` is without marks; `since_us` is when the tag's recording began, None when it never did;
    `silence` says why nothing is known behind `known_until_us`.
    """
    found = [g for g in recorded_gaps if g.start_us < window.end_us and _end(g, window) > window.start_us]
    # Where a gap is on record, its own reason stands; a Bad value before it ends there.
    stretches = bad_stretches(with_gaps_marked(series, found), min(window.end_us, known_until_us))
    marks = {start + late for start in (g.start_us for g in found) for late in (0, 1)}
    found += [g for g in stretches if g.start_us not in marks and _covers(g, window)]
    first_known = since_us if since_us is not None else window.end_us
    if first_known > window.start_us:
        end = min(first_known, window.end_us)
        found.append(Gap(window.start_us, end, GapReason.NOT_YET_RECORDED))
    if known_until_us < window.end_us:
        start = max(known_until_us, window.start_us)
        found.append(Gap(start, window.end_us, silence))
    return sorted(found, key=lambda g: (g.start_us, g.reason))


def _end(gap: Gap, window: Window) -> int:
    return window.end_us if gap.end_us is None else gap.end_us


def _covers(gap: Gap, window: Window) -> bool:
    return gap.start_us < window.end_us and _end(gap, window) > window.start_us
