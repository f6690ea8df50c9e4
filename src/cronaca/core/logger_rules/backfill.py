"""What loggers would have kept of an outage, from what the device remembers of it."""

from __future__ import annotations

import numpy as np

from cronaca.core import quality as q
from cronaca.core.logger_rules.build import rule_for
from cronaca.core.logger_rules.interval import IntervalValues
from cronaca.core.logger_rules.rehearse import replay
from cronaca.core.loggers import OnChange, Periodic
from cronaca.core.model import Keeps, Series, Tag, Times, Window


def backfilled(mode: Periodic[int] | OnChange[int], tag: Tag, readings: Series, window: Window) -> Series:
    """The samples of the window that a logger by the clock or on change makes of readings in order of time.
    The readings may begin before the window, with what was known when the outage began."""
    if isinstance(mode, OnChange):
        kept = replay(rule_for(mode.rule_of(tag.tag_id), tag), readings)
    elif mode.interval_us:
        kept = _at_ticks(mode, tag, readings, window)
    else:
        return Series.empty(readings.value_type)
    return kept.take((kept.ts_us >= window.start_us) & (kept.ts_us < window.end_us))


def _ticks(window: Window, interval_us: int, phase_us: int) -> Times:
    first = -(-(window.start_us - phase_us) // interval_us) * interval_us + phase_us
    return np.arange(first, window.end_us, interval_us, dtype=np.int64)


def _held(readings: Series, ts_us: Times) -> Series:
    """The reading that holds at each time; times before the first one are left out."""
    place = np.searchsorted(readings.ts_us, ts_us, "right") - 1
    known = place >= 0
    held = readings.take(place[known])
    return Series(readings.value_type, ts_us[known], held.values, held.quality)


def _at_ticks(mode: Periodic[int], tag: Tag, readings: Series, window: Window) -> Series:
    ticks = _ticks(window, mode.interval_us, mode.phase_us)
    if mode.keeps is Keeps.VALUE or not len(ticks):
        return _held(readings, ticks)
    return _of_intervals(mode, tag, readings, ticks)


def _of_intervals(mode: Periodic[int], tag: Tag, readings: Series, ticks: Times) -> Series:
    """As if the tag had been read at each of its scans: the very object that the recorder collects with."""
    whole = Window(int(ticks[0]) - mode.interval_us, int(ticks[-1]))
    scans = _held(readings, _ticks(whole, tag.scan_us, 0))
    collected = IntervalValues(1, mode.keeps, mode.interval_us, mode.phase_us)
    member = np.zeros(1, np.intp)
    values, quality = np.empty(len(ticks)), np.empty(len(ticks), np.uint16)
    start = 0
    for i, tick in enumerate(ticks.tolist()):
        end = int(np.searchsorted(scans.ts_us, tick))
        for k in range(start, end):
            value = np.nan_to_num(scans.values[k : k + 1].astype(np.float64))
            collected.offer(member, int(scans.ts_us[k]), value, scans.quality[k : k + 1])
        start = end
        taken, worth = collected.take(tick)
        values[i], quality[i] = taken[0], worth[0]
    kept = values.astype(readings.value_type.dtype)
    return Series.of(readings.value_type, ticks, kept, quality).take(quality != q.BAD_NO_DATA)
