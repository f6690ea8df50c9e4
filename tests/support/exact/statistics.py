"""The statistics beyond the standard as docs/aggregates.md says them, one interval at a time,
in fractions."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise
from typing import Final

from tests.support.exact.aggregates import CALCULATED, PARTIAL, Exact, Interval, root
from tests.support.exact.line import GOOD, NO_DATA, Line, Piece

SECOND: Final = 10**6


class Statistics(Interval):
    """The statistics of one interval; `weighted` by time, else each sample counts once."""

    def statistic(self, name: str, *, weighted: bool, percent: Fraction, other: Line) -> Exact:
        found: dict[str, Callable[[], Exact]] = {
            "Percentile": lambda: self.percentile(percent, weighted=weighted),
            "Median": lambda: self.percentile(Fraction(50), weighted=weighted),
            "Deviation": lambda: self.deviation(weighted=weighted),
            "Variation": lambda: self.variation(weighted=weighted),
            "Integral": self.integral,
            "RateOfChange": self.rate,
            "Slope": self.slope,
            "Travel": self.travel,
            "RisingEdges": lambda: self.edges(rising=True),
            "Starts": lambda: self.edges(rising=True),
            "FallingEdges": lambda: self.edges(rising=False),
            "OnTimeLongest": lambda: self.on_time(max),
            "OnTimeShortest": lambda: self.on_time(min),
            "OnTimeMean": lambda: self.on_time(lambda all_: sum(all_, Fraction(0)) / len(all_)),
            "CountWhile": lambda: self.count_while(other),
            "Correlation": lambda: self.correlation(other),
        }
        return found[name]()

    def used(self) -> list[Piece]:
        return [one for one in self.line.pieces(self.span.lo, self.span.hi) if one.first is not None]

    def there(self, value: Fraction | None, code: int, scale: Fraction, bits: int = 0) -> Exact:
        if value is None:
            return self.result(None, NO_DATA)
        return self.result(value, code, CALCULATED | self.partial | bits, scale=scale)

    def code_of(self, *, weighted: bool) -> int:
        return self.by_time(stepped=self.line.stepped) if weighted else self.by_samples

    def percentile(self, percent: Fraction, *, weighted: bool) -> Exact:
        found = self._by_time(percent) if weighted else self._type_7(percent)
        return self.there(found, self.code_of(weighted=weighted), self.size)

    def _type_7(self, percent: Fraction) -> Fraction | None:
        """Hyndman and Fan's type 7: on the line between order statistics."""
        values = sorted(one.value for one in self.good)
        if not values:
            return None
        place = percent / 100 * (len(values) - 1)
        low = place.numerator // place.denominator
        high = min(low + 1, len(values) - 1)
        return values[low] + (values[high] - values[low]) * (place - low)

    def _by_time(self, percent: Fraction) -> Fraction | None:
        """The lowest value at or below which the line was for the share of time."""
        pieces = self.used()
        if not pieces:
            return None
        target = percent / 100 * sum(one.length for one in pieces)
        ends = sorted({end for one in pieces for end in (one.first, one.last) if end is not None})
        below = ends[0]
        if at_most(pieces, below) >= target:
            return below
        for end in ends[1:]:
            # Between two ends the time at or below grows evenly, but for what stands still at the upper one.
            if at_most(pieces, end) >= target:
                before, under = at_most(pieces, below), under_it(pieces, end)
                if under <= target and under != at_most(pieces, end):
                    return end
                return below + (end - below) * (target - before) / (under - before)
            below = end
        return ends[-1]

    def moments(self) -> tuple[Fraction, Fraction] | None:
        pieces = self.used()
        if not pieces:
            return None
        total = sum(one.length for one in pieces)
        mean = sum((one.area for one in pieces), Fraction(0)) / total
        square = Fraction(0)
        for one in pieces:
            a, b = (end - mean for end in one.ends)
            square += (a * a + a * b + b * b) / 3 * one.length
        return mean, root(square / total)

    def deviation(self, *, weighted: bool) -> Exact:
        if not weighted:
            return self.spread(sample=True, deviation=True)
        found = self.moments()
        return self.there(found and found[1], self.code_of(weighted=True), self.size)

    def variation(self, *, weighted: bool) -> Exact:
        if weighted:
            found = self.moments()
        elif self.good:
            mean = sum((one.value for one in self.good), Fraction(0)) / len(self.good)
            found = mean, self.spread(sample=True, deviation=True).value or Fraction(0)
        else:
            found = None
        if found is None or found[0] == 0:
            return self.there(None, NO_DATA, Fraction(0))
        share = found[1] / abs(found[0]) * 100
        # What rounding does to the mean counts as often as the mean is smaller than the values.
        return self.there(share, self.code_of(weighted=weighted), (share + 100) * (self.size / abs(found[0])))

    def integral(self) -> Exact:
        value = self.area() / SECOND if self.used() else None
        return self.there(value, self.code_of(weighted=True), self.size * self.span.length / SECOND)

    def rate(self) -> Exact:
        if self.start.value is None or self.end.value is None:
            return self.there(None, NO_DATA, Fraction(0))
        seconds = Fraction(self.span.end - self.span.begin, SECOND)
        value = (self.end.value - self.start.value) / seconds
        return self.there(value, self.code_of(weighted=True), self.steepest() / abs(seconds))

    def slope(self) -> Exact:
        if len(self.good) < 2:
            return self.there(None, NO_DATA, Fraction(0))
        t_mean = Fraction(sum(one.t for one in self.good), len(self.good))
        mean = sum((one.value for one in self.good), Fraction(0)) / len(self.good)
        above = sum(((one.t - t_mean) * (one.value - mean) for one in self.good), Fraction(0))
        below = sum(((one.t - t_mean) ** 2 for one in self.good), Fraction(0))
        away = max(abs(one.value - mean) for one in self.good)
        return self.there(above / below * SECOND, self.by_samples, away * SECOND / root(below))

    def travel(self) -> Exact:
        if not self.good:
            return self.there(None, NO_DATA, Fraction(0))
        inside = self.line.inside(self.span)
        steps = [abs(b.value - a.value) for a, b in pairwise(inside) if a.good and b.good]
        way = sum(steps, Fraction(0))
        return self.there(way, self.by_samples, way)

    def edges(self, *, rising: bool) -> Exact:
        own = {one.t for one in self.line.inside(self.span)}
        found = sum(
            b.t in own and (a.value == 0) == rising and (b.value != 0) == rising
            for a, b in pairwise(self.line.usable)
        )
        return self.there(Fraction(found), self.by_time(stepped=True), Fraction(0))

    def on_time(self, reduce: Callable[[list[Fraction]], Fraction]) -> Exact:
        held = replace(self.line, stepped=True)
        pieces = list(held.pieces(self.span.lo, self.span.hi))
        stretches: list[tuple[int, int]] = []
        for one in pieces:
            if one.first is None or one.first == 0:
                continue
            joined = bool(stretches) and stretches[-1][1] == one.start
            stretches[-1:] = (
                [(stretches[-1][0], one.end)] if joined else [*stretches[-1:], (one.start, one.end)]
            )
        if not stretches:
            return self.there(None, NO_DATA, Fraction(0))
        value = reduce([Fraction(end - start, SECOND) for start, end in stretches])
        cut = PARTIAL if any(self._may_be_longer(held, *one) for one in stretches) else 0
        return self.there(value, self.by_time(stepped=True), value, cut)

    def _may_be_longer(self, held: Line, start: int, end: int) -> bool:
        """Whether it reaches an edge of what is seen without being known to begin or end there."""
        before = held.simple(start, leaving=True)
        late = end >= min(self.span.hi, held.end_of_data)
        unknown_after = not late and held.simple(end).value is None
        on_before = start == self.span.lo and before.value != 0
        return late or unknown_after or before.value is None or on_before

    def count_while(self, other: Line) -> Exact:
        found = 0
        for one in self.good:
            value = other.simple(one.t).value
            found += value is not None and value > 0
        code = self.by_samples if self.inside else GOOD
        return self.result(found, code, CALCULATED | self.partial, always=True)

    def correlation(self, other: Line) -> Exact:
        """On a grid of an eighth of the interval, from its early edge on, up to the end of it."""
        pairs = []
        for at in range(self.span.lo, self.span.hi, grid(self.span.length)):
            one, two = self.line.simple(at).value, other.simple(at).value
            if one is not None and two is not None:
                pairs.append((one, two))
        found = pearson(pairs)
        return self.there(found, self.code_of(weighted=True), Fraction(1))


def grid(length: int) -> int:
    """The time base that correlations are checked on, µs."""
    return max(length // 8, 1)


def pearson(pairs: list[tuple[Fraction, Fraction]]) -> Fraction | None:
    """Pearson's r; None for fewer than two pairs or where one side does not move."""
    if len(pairs) < 2:
        return None
    x_mean, y_mean = (sum(side, Fraction(0)) / len(pairs) for side in zip(*pairs, strict=True))
    xy = sum(((x - x_mean) * (y - y_mean) for x, y in pairs), Fraction(0))
    xx = sum(((x - x_mean) ** 2 for x, _ in pairs), Fraction(0))
    yy = sum(((y - y_mean) ** 2 for _, y in pairs), Fraction(0))
    return xy / root(xx * yy) if xx * yy else None


def at_most(pieces: list[Piece], value: Fraction) -> Fraction:
    """For how long the line was at or below a value, µs."""
    return _time(pieces, value, with_equal=True)


def under_it(pieces: list[Piece], value: Fraction) -> Fraction:
    """For how long it was below a value."""
    return _time(pieces, value, with_equal=False)


def _time(pieces: list[Piece], value: Fraction, *, with_equal: bool) -> Fraction:
    total = Fraction(0)
    for one in pieces:
        low, high = sorted(one.ends)
        if low == high:
            total += one.length if low < value or (with_equal and low == value) else 0
        else:
            total += one.length * min(max((value - low) / (high - low), Fraction(0)), Fraction(1))
    return total


def bins(interval: Interval, edges: list[Fraction], *, weighted: bool) -> list[Fraction]:
    """Samples, or seconds, in each bin [edge, next edge), the last one with its end."""
    if not weighted:
        values = [one.value for one in interval.good]
        last = edges[-1]
        return [
            Fraction(sum(a <= v < b or (b == last and v == b) for v in values)) for a, b in pairwise(edges)
        ]
    span = interval.span
    pieces = [one for one in interval.line.pieces(span.lo, span.hi) if one.first is not None]
    under = [under_it(pieces, edge) for edge in edges[:-1]] + [at_most(pieces, edges[-1])]
    return [(b - a) / SECOND for a, b in pairwise(under)]


def states(interval: Interval) -> list[tuple[int, Fraction, int, Fraction]]:
    """Each state with its seconds, entries and longest stretch; Bad time is in none of them."""
    held = replace(interval.line, stepped=True)
    stretches: list[tuple[Fraction, int, int]] = []
    for one in held.pieces(interval.span.lo, interval.span.hi):
        if one.first is None:
            continue
        last = stretches[-1] if stretches else None
        if last is not None and last[0] == one.first and last[2] == one.start:
            stretches[-1] = (last[0], last[1], one.end)
        else:
            stretches.append((one.first, one.start, one.end))
    found = []
    for state in sorted({state for state, _, _ in stretches}):
        lengths = [Fraction(end - start, SECOND) for own, start, end in stretches if own == state]
        found.append((int(state), sum(lengths, Fraction(0)), len(lengths), max(lengths)))
    return found
