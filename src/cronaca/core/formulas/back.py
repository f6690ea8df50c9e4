"""Functions that look back: each remembers what it needs of the time before, and goes on from there, so that
live values, one instant at a time, and history, thousands at once, give the same."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final, Protocol

import numpy as np

from cronaca.core import quality as q
from cronaca.core.formulas.columns import Column, Floats
from cronaca.core.model import SECOND, Times


class Back(Protocol):
    """Something that goes on from instants to later instants."""

    def run(self, ts_us: Times, x: Column) -> Column:
        """The results at these instants, which lie after those of the call before."""
        ...


class _RecentValues:
    """x at the instants of the last `length_us`, and at the last one before: between them it was held."""

    def __init__(self, length_us: int) -> None:
        self.length_us = length_us
        self.ts_us: Times = np.empty(0, np.int64)
        self.x = Column(np.empty(0), np.empty(0, np.uint16))

    def join(self, ts_us: Times, x: Column) -> int:
        """Adds instants; returns the position of the first of them."""
        first = len(self.ts_us)
        self.ts_us = np.append(self.ts_us, ts_us)
        self.x = Column(np.append(self.x.values, x.values), np.append(self.x.quality, x.quality))
        return first

    def held_at(self, ts_us: Times) -> np.ndarray[tuple[int], np.dtype[np.intp]]:
        """The position of what was held at each time; -1 before all of it."""
        return np.searchsorted(self.ts_us, ts_us, side="right") - 1

    def forget(self) -> None:
        """Drops what nobody will ask for."""
        if len(self.ts_us):
            keep = max(int(self.held_at(self.ts_us[-1:] - self.length_us)[0]), 0)
            self.ts_us = self.ts_us[keep:]
            self.x = Column(self.x.values[keep:], self.x.quality[keep:])


class Average:
    """Mean by time over the usable stretches of the last `length_us`. Uncertain where not all of it is known
    and usable; Bad where nothing is."""

    def __init__(self, length_us: int) -> None:
        self._recent = _RecentValues(length_us)

    def run(self, ts_us: Times, x: Column) -> Column:
        """Held between instants; a single instant is its own mean."""
        first = self._recent.join(ts_us, x)
        at, held = self._recent.ts_us, self._recent.x
        begin = at[0]
        spans = np.diff(at) / SECOND
        usable, values = held.usable[:-1], np.nan_to_num(held.values)
        zero = np.zeros(1)
        areas = np.concatenate([zero, np.cumsum(np.where(usable, values[:-1] * spans, 0.0))])
        lengths = np.concatenate([zero, np.cumsum(np.where(usable, spans, 0.0))])
        axis, now = (at - begin) / SECOND, (ts_us - begin) / SECOND
        from_s = np.maximum(now - self._recent.length_us / SECOND, 0.0)
        area = areas[first:] - np.interp(from_s, axis, areas)
        length = lengths[first:] - np.interp(from_s, axis, lengths)
        alone = length <= 0
        with np.errstate(all="ignore"):
            result = np.where(alone, x.values, area / length)
        missing = length < self._recent.length_us / SECOND - 1e-6
        quality = np.where(missing, np.uint16(q.UNCERTAIN_DATA_SUB_NORMAL), self._quality(ts_us))
        quality = np.where(alone & ~x.usable, x.quality, quality)
        self._recent.forget()
        return Column.of(result, quality.astype(np.uint16))

    def _quality(self, ts_us: Times) -> q.QualityArray:
        """Uncertain where something uncertain is inside."""
        at, held = self._recent.ts_us, self._recent.x
        doubts = np.append(0, np.cumsum(~q.is_good(held.quality)))
        start = np.maximum(self._recent.held_at(ts_us - self._recent.length_us), 0)
        inside = doubts[np.searchsorted(at, ts_us, side="right")] > doubts[start]
        return np.where(inside, np.uint16(q.UNCERTAIN_DATA_SUB_NORMAL), np.uint16(q.GOOD))


class Extreme:
    """Lowest or highest over the last `length_us`; Bad samples do not count, and make it Uncertain."""

    def __init__(self, length_us: int, pick: Callable[[Floats, Floats], Floats]) -> None:
        self._recent = _RecentValues(length_us)
        self._pick = pick

    def run(self, ts_us: Times, x: Column) -> Column:
        """The value held at the beginning of the time belongs to it."""
        first = self._recent.join(ts_us, x)
        held = self._recent.x
        start = np.maximum(self._recent.held_at(ts_us - self._recent.length_us), 0)
        end = np.arange(first, first + len(ts_us)) + 1
        values = _extremes(held.values, start, end, self._pick)
        doubts = np.append(0, np.cumsum(~q.is_good(held.quality)))
        doubtful = doubts[end] > doubts[start]
        quality = np.where(doubtful, np.uint16(q.UNCERTAIN_DATA_SUB_NORMAL), np.uint16(q.GOOD))
        quality = np.where(np.isnan(values), np.uint16(q.BAD_NO_DATA), quality)
        self._recent.forget()
        return Column.of(values, quality)


def _extremes(
    values: Floats,
    start: np.ndarray[tuple[int], np.dtype[np.intp]],
    end: np.ndarray[tuple[int], np.dtype[np.intp]],
    pick: Callable[[Floats, Floats], Floats],
) -> Floats:
    """The extreme of each values[start:end], NaN left out: a table of runs of 1, 2, 4, ... values, of which
    two cover any stretch."""
    lengths = end - start
    result = values[start].copy()
    table, run = values, 1
    while True:
        mine = (lengths >= run) & (lengths < 2 * run)
        if mine.any():
            result[mine] = pick(table[start[mine]], table[end[mine] - run])
        if not (lengths >= 2 * run).any():
            return result
        table = pick(table[:-run], table[run:])
        run *= 2


class Ago:
    """What x was `length_us` before; Bad, waiting, while that is not known."""

    def __init__(self, length_us: int) -> None:
        self._recent = _RecentValues(length_us)

    def run(self, ts_us: Times, x: Column) -> Column:
        """Held between instants."""
        self._recent.join(ts_us, x)
        at = self._recent.held_at(ts_us - self._recent.length_us)
        known, held = at >= 0, self._recent.x
        quality = np.where(known, held.quality[at], np.uint16(q.BAD_WAITING_FOR_INITIAL_DATA))
        result = Column.of(np.where(known, held.values[at], np.nan), quality)
        self._recent.forget()
        return result


_NEVER: Final = -1


class Since:
    """Seconds since a condition held last."""

    def __init__(self) -> None:
        self._until_us = _NEVER
        self._held = False

    def run(self, ts_us: Times, x: Column) -> Column:
        """It is held to the instant at which it is found to be over. Bad, waiting, before it has ever
        held."""
        true = x.true
        before = np.concatenate([[self._held], true[:-1]])
        lasted = np.where(true | before, ts_us, _NEVER)
        until = np.maximum(np.maximum.accumulate(lasted), self._until_us)
        self._until_us, self._held = int(until[-1]), bool(true[-1])
        never = until == _NEVER
        quality = np.where(never & x.usable, np.uint16(q.BAD_WAITING_FOR_INITIAL_DATA), x.quality)
        return Column.of(np.where(never, np.nan, (ts_us - until) / SECOND), quality)


class Held:
    """Seconds for which a condition has held without a break."""

    def __init__(self) -> None:
        self._since_us = _NEVER

    def run(self, ts_us: Times, x: Column) -> Column:
        """A Bad condition ends it."""
        true = x.true
        before = np.concatenate([[self._since_us != _NEVER], true[:-1]])
        begun = np.where(true & ~before, ts_us, _NEVER)
        since = np.maximum(np.maximum.accumulate(begun), self._since_us)
        self._since_us = int(since[-1]) if true[-1] else _NEVER
        return Column.of(np.where(true, (ts_us - since) / SECOND, 0.0), x.quality)


def back_for(name: str, length_us: int) -> Back:
    """The function of this name (not `rate`, which is made of `ago`)."""
    if name == "average":
        return Average(length_us)
    if name in ("lowest", "highest"):
        return Extreme(length_us, np.fmin if name == "lowest" else np.fmax)
    if name == "ago":
        return Ago(length_us)
    return Since() if name == "since" else Held()
