"""What of the calendar storage and windows need; zones come as tzinfo, never from the machine."""

from __future__ import annotations

import calendar
from datetime import UTC, date, datetime, time, timedelta, tzinfo

import numpy as np
from numpy.typing import NDArray

from cronaca.core.model import DAY, SECOND, Times, Window

_EPOCH = date(1970, 1, 1)


def month_of(ts_us: Times) -> NDArray[np.int64]:
    """Year * 100 + month, in UTC, of each time."""
    months = ts_us.astype("datetime64[us]").astype("datetime64[M]").astype(np.int64)
    result: NDArray[np.int64] = (1970 + months // 12) * 100 + months % 12 + 1
    return result


def month_at(ts_us: int) -> int:
    """Year * 100 + month, in UTC, of one time."""
    day = _EPOCH + timedelta(days=ts_us // DAY)
    return day.year * 100 + day.month


def month_window(month: int) -> Window:
    """The stretch of a month (year * 100 + month, UTC)."""
    first = date(month // 100, month % 100, 1)
    start_us = (first - _EPOCH).days * DAY
    return Window(start_us, start_us + calendar.monthrange(first.year, first.month)[1] * DAY)


def months_between(first: int, last: int) -> list[int]:
    """The months from one to another, both included."""
    count = (last // 100 - first // 100) * 12 + last % 100 - first % 100 + 1
    start = first // 100 * 12 + first % 100 - 1
    return [(start + i) // 12 * 100 + (start + i) % 12 + 1 for i in range(count)]


def split_by_month(ts_us: Times) -> list[tuple[int, slice]]:
    """The months of times in order, each with the positions of its times; none is empty."""
    if not len(ts_us):
        return []
    months = months_between(month_at(int(ts_us[0])), month_at(int(ts_us[-1])))
    ends = np.searchsorted(ts_us, [month_window(month).end_us for month in months]).tolist()
    starts = [0, *ends[:-1]]
    return [(m, slice(a, b)) for m, a, b in zip(months, starts, ends, strict=True) if a < b]


def day_bits(ts_us: Times, month: int) -> int:
    """The days of a month that hold one of these times, which all lie in it: bit 0 is the first."""
    if len(ts_us) == 0:
        return 0
    first = month_window(month).start_us // DAY
    here = np.bincount(ts_us // DAY - first, minlength=1) > 0
    return sum(1 << day for day in np.flatnonzero(here).tolist())


def bits_of_window(window: Window, month: int) -> int:
    """The days of a month that the window touches."""
    whole = month_window(month)
    first = max(window.start_us, whole.start_us) // DAY - whole.start_us // DAY
    last = (min(window.end_us, whole.end_us) - 1) // DAY - whole.start_us // DAY
    return 0 if last < first else (1 << (last + 1)) - (1 << first)


def local_midnights(window: Window, zone: tzinfo) -> list[int]:
    """The starts of the days of a zone that touch the window, and the end of the last one, in µs."""
    first = datetime.fromtimestamp(window.start_us // SECOND, UTC).astimezone(zone).date()
    midnights = []
    while True:
        midnight = datetime.combine(first, time(), zone)
        midnights.append(int(midnight.timestamp()) * SECOND)
        if midnights[-1] >= window.end_us:
            return midnights
        first += timedelta(days=1)
