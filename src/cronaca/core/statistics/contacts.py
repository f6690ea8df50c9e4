"""Contacts and states: edges, stretches of on, time in each state. Values are held between samples."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from cronaca.core.aggregates.bounds import simple
from cronaca.core.aggregates.interval_data import IntervalData
from cronaca.core.aggregates.recorded import state_changes
from cronaca.core.model import SECOND
from cronaca.core.statistics.pieces import Pieces, pieces_of

Counts = NDArray[np.int64]


def rising_edges(data: IntervalData) -> Counts:
    """Changes from zero to not zero, against the last usable sample before."""
    return _edges(data, rising=True)


def falling_edges(data: IntervalData) -> Counts:
    """Changes from not zero to zero."""
    return _edges(data, rising=False)


def _edges(data: IntervalData, *, rising: bool) -> Counts:
    on = data.values != 0
    return data.segments.total(np.where(on == rising, state_changes(data), 0))


@dataclass(frozen=True, slots=True)
class OnTimes:
    """The stretches of on in an interval, in seconds, and whether the first or last one is cut by its edge
    (or by a Bad value), so that it may have been longer."""

    seconds: NDArray[np.float64]
    cut: bool


def on_times(data: IntervalData, i: int) -> OnTimes:
    """The stretches in which the usable value was not zero without a break."""
    data = held(data)
    pieces = pieces_of(data, i)
    on = pieces.usable & (pieces.first != 0)
    if not on.any():
        return OnTimes(np.empty(0), cut=False)
    opens = np.flatnonzero(on & ~np.r_[False, on[:-1]])
    ends = np.flatnonzero(on & ~np.r_[on[1:], False])
    ends_us = pieces.start_us + pieces.length_us
    lo, hi = int(data.intervals.lo_us[i]), int(data.intervals.hi_us[i])
    early = int(pieces.start_us[opens[0]]) == lo and _was_on(data, lo)
    late = int(ends_us[ends[-1]]) >= min(hi, data.end_of_data_us)
    cut = early or late or _next_to_bad(pieces, opens, ends)
    return OnTimes((ends_us[ends] - pieces.start_us[opens]) / SECOND, cut)


def held(data: IntervalData) -> IntervalData:
    """The same with values held between samples, as contacts are."""
    if data.stepped:
        return data
    return IntervalData(data.samples, data.intervals, replace(data.configuration, stepped=True))


def _was_on(data: IntervalData, lo_us: int) -> bool:
    """Whether it was on just before an instant, or may have been."""
    before = simple(data, np.array([lo_us]), leaving=True)
    return not bool(before.usable[0]) or bool(before.values[0] != 0)


def _next_to_bad(pieces: Pieces, opens: NDArray[np.intp], ends: NDArray[np.intp]) -> bool:
    before, after = opens[opens > 0] - 1, ends[ends < len(pieces.usable) - 1] + 1
    return bool((~pieces.usable[before]).any() or (~pieces.usable[after]).any())


@dataclass(frozen=True, slots=True)
class StateTime:
    """One state: for how long, how many times it was entered, and its longest stretch; in seconds."""

    state: int
    seconds: float
    entries: int
    longest: float


def time_in_states(data: IntervalData, i: int) -> list[StateTime]:
    """Each state that occurs in an interval, in order of its code; Bad time is in none of them."""
    data = held(data)
    pieces = pieces_of(data, i).used()
    if not len(pieces.start_us):
        return []
    states = _exact_states(data, pieces)
    joined = np.r_[True, (states[1:] != states[:-1]) | _apart(pieces)]
    opens = np.flatnonzero(joined)
    lengths = np.add.reduceat(pieces.length_us, opens)
    owners = states[opens]
    result = []
    for state in np.unique(owners).tolist():
        mine = lengths[owners == state]
        result.append(StateTime(state, int(mine.sum()) / SECOND, len(mine), int(mine.max()) / SECOND))
    return result


def _exact_states(data: IntervalData, pieces: Pieces) -> Counts:
    """The states as whole numbers, as they were recorded."""
    places = np.searchsorted(data.ts_us, pieces.start_us, "right") - 1
    result: Counts = data.values[places].astype(np.int64)
    return result


def _apart(pieces: Pieces) -> NDArray[np.bool_]:
    """Which piece does not follow the one before without a break."""
    result: NDArray[np.bool_] = pieces.start_us[1:] != (pieces.start_us + pieces.length_us)[:-1]
    return result
