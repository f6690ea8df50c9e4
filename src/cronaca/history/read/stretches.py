"""Which stretches of a history can come from rollups, and which are left to be read from samples."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from cronaca.core.calendar import day_bits, month_of
from cronaca.core.model import DAY, Series, ValueType, Window, merge


def touched_days(waiting: Sequence[Series]) -> dict[int, int]:
    """By month, the days for which samples wait in the journal, as bits: their rollups are not true."""
    if not waiting:
        return {}
    ts_us = np.concatenate([series.ts_us for series in waiting])
    months = month_of(ts_us)
    return {month: day_bits(ts_us[months == month], month) for month in set(months.tolist())}


def joined(parts: Sequence[Series], kind: ValueType) -> Series:
    """Parts of one history, in order of time; a sample that is in two of them is the same one."""
    return merge(sorted((p for p in parts if len(p)), key=lambda p: int(p.ts_us[0])), kind)


def aligned(window: Window, width_us: int) -> Window:
    """The whole buckets inside a window."""
    return Window(-(-window.start_us // width_us) * width_us, window.end_us // width_us * width_us)


def runs(days: int, month: Window) -> list[Window]:
    """The stretches of neighbouring days of a month."""
    result: list[Window] = []
    for day in range(month.length_us // DAY):
        if not days >> day & 1:
            continue
        start = month.start_us + day * DAY
        if result and result[-1].end_us == start:
            result[-1] = Window(result[-1].start_us, start + DAY)
        else:
            result.append(Window(start, start + DAY))
    return result


def between(window: Window, taken: Sequence[Window]) -> list[Window]:
    """What is left of a window. Its ends are always among it, be they empty: the samples around the
    window come with them."""
    result, start = [], window.start_us
    for stretch in sorted(taken, key=lambda w: w.start_us):
        if stretch.start_us > start or start == window.start_us:
            result.append(Window(start, max(stretch.start_us, start)))
        start = max(start, stretch.end_us)
    return [*result, Window(min(start, window.end_us), window.end_us)]
