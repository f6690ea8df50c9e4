"""Processing intervals: a window cut by a duration or by given edges, forward or backward in time."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final, Literal

import numpy as np
from numpy.typing import NDArray

from cronaca.core.errors import InvalidInput
from cronaca.core.model import EARLIEST, LATEST, LONGEST_WINDOW, Times, Values

MOST: Final = 1_000_000


@dataclass(frozen=True, slots=True)
class Intervals:
    """Touching intervals in order of time, [lo, hi) each. Backward in time the later end of each is its
    beginning and belongs to it, the earlier end does not: (lo, hi]. `cut` marks one that an end of the
    window cut short."""

    lo_us: Times
    hi_us: Times
    cut: NDArray[np.bool_]
    forward: bool = True

    def __len__(self) -> int:
        return len(self.lo_us)

    @property
    def begin_us(self) -> Times:
        """Where each one begins, in the direction of time."""
        return self.lo_us if self.forward else self.hi_us

    @property
    def end_us(self) -> Times:
        """Where each one ends, in the direction of time."""
        return self.hi_us if self.forward else self.lo_us

    @property
    def effective_end_us(self) -> Times:
        """The last instant that belongs to each one, at our resolution of 1 µs."""
        return self.hi_us - 1 if self.forward else self.lo_us + 1

    @property
    def side(self) -> Literal["left", "right"]:
        """How a sample on an edge is looked up."""
        return "left" if self.forward else "right"

    def take(self, index: slice) -> Intervals:
        """Some of them."""
        return Intervals(self.lo_us[index], self.hi_us[index], self.cut[index], self.forward)


def by_duration(start_us: int, end_us: int, interval_us: int = 0) -> Intervals:
    """The window cut into stretches of `interval_us` counted from its start (0: one stretch); an end before
    the start runs backward. Raises InvalidInput (IEC 62541-11: start = end is an invalid argument)."""
    for field, value in (("start", start_us), ("end", end_us)):
        if not EARLIEST <= value <= LATEST:
            raise InvalidInput(
                field,
                "intervals-lies-outside",
                "{value} µs lies outside 1970 to 9999",
                "Give UTC microseconds.",
                value=value,
            )
    length = abs(end_us - start_us)
    if length == 0:
        raise InvalidInput(
            "end", "window-no-length", "the window has no length", "Give an end that differs from the start."
        )
    if length > LONGEST_WINDOW:
        raise InvalidInput(
            "end", "window-longer-years", "the window is longer than 30 years", "Ask for a shorter window."
        )
    if interval_us < 0:
        raise InvalidInput(
            "interval",
            "interval-negative",
            "it is negative",
            "Give a duration; time runs back when end < start.",
        )
    step = interval_us or length
    count = -(-length // step)
    if count > MOST:
        raise InvalidInput(
            "interval",
            "makes-intervals",
            "it makes {count:,} intervals",
            "Make it longer: at most {most:,}.",
            count=count,
            most=MOST,
        )
    near = np.arange(count, dtype=np.int64) * step
    far = np.minimum(near + step, length)
    cut = far - near < step
    if end_us > start_us:
        return Intervals(start_us + near, start_us + far, cut)
    return Intervals((start_us - far)[::-1], (start_us - near)[::-1], cut[::-1], forward=False)


def by_edges(edges_us: Sequence[int], *, cut_first: bool = False, cut_last: bool = False) -> Intervals:
    """Forward intervals between neighbouring edges, as a calendar cuts them."""
    edges = np.array(edges_us, np.int64)
    if len(edges) < 2 or bool((np.diff(edges) <= 0).any()):
        raise InvalidInput(
            "edges", "not-rise", "they do not rise", "Give at least two edges in order of time."
        )
    cut = np.zeros(len(edges) - 1, np.bool_)
    cut[-1] = cut_last
    cut[0] |= cut_first
    return Intervals(edges[:-1], edges[1:], cut)


def _never_wins(values: Values, ufunc: np.ufunc) -> float | int:
    low = ufunc is np.maximum
    if values.dtype == np.int64:
        return int(np.iinfo(np.int64).min if low else np.iinfo(np.int64).max)
    return float(-np.inf if low else np.inf)


@dataclass(frozen=True, slots=True)
class Segments:
    """Positions [start, end) of a column, one stretch per interval, touching, in rising order."""

    start: NDArray[np.intp]
    end: NDArray[np.intp]

    @classmethod
    def of(cls, ts_us: Times, intervals: Intervals) -> Segments:
        """Which samples lie in each interval."""
        return cls(
            np.searchsorted(ts_us, intervals.lo_us, intervals.side),
            np.searchsorted(ts_us, intervals.hi_us, intervals.side),
        )

    @property
    def counts(self) -> NDArray[np.int64]:
        """How many samples each stretch has."""
        return (self.end - self.start).astype(np.int64)

    def reduce(self, ufunc: np.ufunc, column: NDArray[np.generic], empty: float) -> NDArray[np.float64]:
        """The column reduced over each stretch; `empty` where there is none. Sums are pairwise."""
        result = np.full(len(self.start), empty, np.float64)
        filled = self.end > self.start
        if filled.any():
            result[filled] = ufunc.reduceat(column[: self.end[-1]], self.start[filled])
        return result

    def count(self, mask: NDArray[np.bool_]) -> NDArray[np.int64]:
        """How many of each stretch are set."""
        return self.total(mask.view(np.int8))

    def total(self, column: NDArray[np.integer]) -> NDArray[np.int64]:
        """Exact sums of whole numbers."""
        result = np.zeros(len(self.start), np.int64)
        filled = self.end > self.start
        if filled.any():
            ends = column[: self.end[-1]]
            result[filled] = np.add.reduceat(ends, self.start[filled], dtype=np.int64)
        return result

    def extreme(
        self, values: Values, mask: NDArray[np.bool_], ufunc: np.ufunc
    ) -> tuple[NDArray[np.intp], NDArray[np.int64]]:
        """Position of the first lowest (np.minimum) or highest of the values set in each stretch, -1 where
        there is none; and how many are equal to it."""
        filled = self.end > self.start
        best = np.zeros(len(self.start), values.dtype)
        if filled.any():
            ends = slice(0, self.end[-1])
            candidates = np.where(mask[ends], values[ends], _never_wins(values, ufunc))
            best[filled] = ufunc.reduceat(candidates, self.start[filled])
        hit = np.zeros(len(values), np.bool_)
        inside = slice(int(self.start[0]), int(self.end[-1])) if len(self.start) else slice(0, 0)
        hit[inside] = mask[inside] & (values[inside] == np.repeat(best, self.end - self.start))
        return self.first(hit), self.count(hit)

    def first(self, mask: NDArray[np.bool_]) -> NDArray[np.intp]:
        """The position of the first one set in each stretch; -1 where none is."""
        places = np.flatnonzero(mask)
        result = np.searchsorted(places, self.start)
        if not len(places):
            return np.full(len(self.start), -1, np.intp)
        at = places[np.minimum(result, len(places) - 1)]
        return np.where((result < len(places)) & (at < self.end), at, -1)

    def last(self, mask: NDArray[np.bool_]) -> NDArray[np.intp]:
        """The position of the last one set in each stretch; -1 where none is."""
        places = np.flatnonzero(mask)
        result = np.searchsorted(places, self.end) - 1
        if not len(places):
            return np.full(len(self.start), -1, np.intp)
        at = places[np.maximum(result, 0)]
        return np.where((result >= 0) & (at >= self.start), at, -1)
