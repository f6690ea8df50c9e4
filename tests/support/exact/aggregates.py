"""The 37 aggregates as docs/aggregates.md says them, one interval at a time, in fractions."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise
from math import isqrt
from typing import Final

from tests.support.exact.line import BAD, GOOD, NO_DATA, UNCERTAIN, Bound, Line, Sample, Span

CALCULATED, INTERPOLATED, PARTIAL, MULTI_VALUE, DATA_VALUE = 1, 2, 4, 0x10, 0x400
OUT_OF_RANGE: Final = 0x803C << 16
_BEYOND: Final = Fraction(2) ** 1024 - Fraction(2) ** 970
"""From here on float64 rounds to infinity."""


@dataclass(frozen=True)
class Exact:
    """What an aggregate must give. `scale`: the size of the values that rounding is measured by, 0 where the
    result is exact or rounded once. `tied`: an extrapolated value decides which of two is the extreme."""

    value: Fraction | None
    t: int
    code: int
    scale: Fraction = Fraction(0)
    tied: bool = False


def root(square: Fraction) -> Fraction:
    """The square root to some 60 digits."""
    shift = 2 * max(0, 200 - (square.numerator.bit_length() - square.denominator.bit_length()) // 2)
    return Fraction(isqrt((square.numerator << shift) // square.denominator), 1 << (shift // 2))


class Interval:
    """One interval of a line; `discrete`: any change of the value is a transition (states and texts)."""

    def __init__(self, line: Line, span: Span, *, discrete: bool = False) -> None:
        self.line, self.span, self.discrete = line, span, discrete
        self.inside = line.recorded(span)
        self.good = [one for one in self.inside if one.good]
        self.start, self.end = line.simple(span.begin), line.simple(span.end, leaving=span.forward)
        self.size = max((abs(one.value) for one in line.samples if one.quality < 0x8000), default=Fraction(0))

    def aggregate(self, name: str) -> Exact:
        return _ALL[name](self)

    # What several aggregates share.

    @property
    def partial(self) -> int:
        first = self.line.samples[0].t if self.line.samples else 0
        outside = self.span.lo < first or self.span.hi > self.line.end_of_data
        return PARTIAL if self.span.cut or outside else 0

    @property
    def past(self) -> bool:
        return self.span.lo > self.line.end_of_data

    def judged(self, good: int, bad: int, whole: int) -> int:
        rules = self.line.rules
        if good * 100 >= rules.percent_good * whole:
            return GOOD
        return BAD if bad * 100 >= rules.percent_bad * whole else UNCERTAIN

    @property
    def by_samples(self) -> int:
        if not self.inside:
            return NO_DATA
        bad = sum(self.line.counts_bad(one) for one in self.inside)
        return self.judged(len(self.good), bad, len(self.inside))

    @property
    def of_good(self) -> int:
        return self.by_samples if self.good else NO_DATA

    def durations(self, *, stepped: bool) -> tuple[int, int, int]:
        good = uncertain = bad = 0
        for one in self.line.pieces(self.span.lo, self.span.hi):
            if one.first is None:
                bad += one.length
            elif one.good_held if stepped else one.good_sloped:
                good += one.length
            else:
                uncertain += one.length
        return good, uncertain, bad

    def by_time(self, *, stepped: bool) -> int:
        good, _, bad = self.durations(stepped=stepped)
        return NO_DATA if bad == self.span.length else self.judged(good, bad, self.span.length)

    def result(
        self, value: Fraction | int | None, code: int, bits: int = 0, *, t: int | None = None,
        scale: Fraction = Fraction(0), always: bool = False, tied: bool = False,
    ) -> Exact:  # fmt: skip
        """A result, without value and bits where it is Bad, unless there is `always` one."""
        if value is not None and abs(Fraction(value)) >= _BEYOND and code >> 30 < 2:
            code = OUT_OF_RANGE
        if not always and code >> 30 >= 2:
            return Exact(None, self.span.begin, code)
        assert value is not None
        code |= bits | DATA_VALUE if bits else 0
        return Exact(Fraction(value), self.span.begin if t is None else t, code, scale, tied)

    def calculated(self, value: Fraction | int | None, code: int, *, scale: Fraction = Fraction(0)) -> Exact:
        return self.result(0 if value is None else value, code, CALCULATED | self.partial, scale=scale)

    def where_past(self, code: int) -> int:
        return NO_DATA if self.past else code

    # Of samples.

    def average(self) -> Exact:
        mean = sum((one.value for one in self.good), Fraction(0)) / max(len(self.good), 1)
        return self.calculated(mean, self.of_good, scale=self.size)

    def spread(self, *, sample: bool, deviation: bool) -> Exact:
        values = [one.value for one in self.good]
        mean = sum(values, Fraction(0)) / max(len(values), 1)
        square = sum(((one - mean) ** 2 for one in values), Fraction(0)) / max(len(values) - sample, 1)
        away = max(values, default=Fraction(0)) - min(values, default=Fraction(0))
        if deviation:
            return self.calculated(root(square), self.of_good, scale=away)
        return self.calculated(square, self.of_good, scale=away * away)

    def count(self) -> Exact:
        code = self.by_samples if self.inside else GOOD
        return self.result(len(self.good), code, CALCULATED | self.partial, always=True)

    def extreme_code(self, sign: int) -> int:
        if not self.good:
            return NO_DATA
        doubtful = [sign * one.value for one in self.inside if not one.good and not self.line.counts_bad(one)]
        passed = any(self.line.counts_bad(one) for one in self.inside)
        beyond = bool(doubtful) and max(doubtful) > max(sign * one.value for one in self.good)
        return UNCERTAIN if passed or beyond else GOOD

    def extreme(self, sign: int, *, own_time: bool) -> Exact:
        code = self.extreme_code(sign)
        if not self.good:
            return self.result(None, code)
        best = max(sign * one.value for one in self.good)
        equal = [one for one in self.good if sign * one.value == best]
        calculated = code == UNCERTAIN or (not own_time and equal[0].t != self.span.begin)
        bits = (CALCULATED if calculated else 0) | (MULTI_VALUE if len(equal) > 1 else 0) | self.partial
        return self.result(equal[0].value, code, bits, t=equal[0].t if own_time else None)

    def value_range(self) -> Exact:
        values = [one.value for one in self.good]
        width = max(values) - min(values) if values else None
        return self.calculated(width, max(self.extreme_code(1), self.extreme_code(-1)))

    def transitions(self) -> Exact:
        usable, changes = self.line.usable, 0
        own = {one.t for one in self.line.inside(self.span)}
        for before, one in pairwise(usable):
            a, b = (before.value, one.value) if self.discrete else (before.value != 0, one.value != 0)
            changes += a != b and one.t in own
        code = self.by_samples if any(not self.line.counts_bad(one) for one in self.inside) else NO_DATA
        if not self.inside and self.start.value is not None:
            code = GOOD
        return self.calculated(changes, self.where_past(code))

    def end_sample(self, *, first: bool) -> Exact:
        if not self.inside:
            return self.result(None, NO_DATA)
        one = self.inside[0 if first == self.span.forward else -1]
        return Exact(one.value if one.quality < 0x8000 else None, one.t, one.quality << 16)

    def delta(self) -> Exact:
        if not self.good:
            return self.result(None, NO_DATA)
        first, last = self.good[0], self.good[-1]
        whole = first is self.inside[0] and last is self.inside[-1]
        sign = 1 if self.span.forward else -1
        return self.calculated(sign * (last.value - first.value), GOOD if whole else UNCERTAIN)

    def worst(self, *, with_bound: bool) -> Exact:
        codes = [one.quality << 16 for one in self.inside]
        if with_bound:
            at_begin = any(one.t == self.span.begin for one in self.inside)
            if not at_begin:
                codes.append(self.start.code)
            elif self.start.code >> 30 > max(code >> 30 for code in codes):
                # The sample at the very beginning is the bound; an Uncertain one counts as Bad there.
                codes = [self.start.code]
        if not codes:
            return self.result(None, NO_DATA)
        level = max(code >> 30 for code in codes)
        several = [code for code in codes if code >> 30 == level]
        bits = CALCULATED | self.partial | (MULTI_VALUE if len(several) > 1 else 0)
        return self.result(several[0], self.where_past(GOOD), bits)

    def annotations(self) -> Exact:
        notes = [Sample(t, Fraction(0), 0) for t in self.line.notes]
        found = len(replace(self.line, samples=tuple(notes)).inside(self.span))
        return self.result(found, GOOD, CALCULATED | self.partial, always=True)

    # Of bounds.

    def bound(self, bound: Bound, t: int) -> Exact:
        if bound.value is None:
            return Exact(None, t, bound.code)
        code = bound.code | (DATA_VALUE | bound.bits if bound.bits else 0)
        return Exact(bound.value, t, code, Fraction(0) if bound.at_sample else self.size)

    def delta_bounds(self) -> Exact:
        if self.start.value is None or self.end.value is None:
            return self.result(None, NO_DATA)
        code = GOOD if self.start.good and self.end.good else UNCERTAIN
        rise = self.end.value - self.start.value
        exact = self.line.stepped or (self.start.at_sample and self.end.at_sample)
        return self.calculated(rise, self.where_past(code), scale=Fraction(0) if exact else self.size)

    def candidates(self) -> list[tuple[Fraction, int, bool, bool]]:
        """What may be an extreme: value, time, whether it is a bound, whether it is computed by a line."""
        found = [(one.value, one.t, False, False) for one in self.inside if not self.line.counts_bad(one)]
        if self.start.value is not None and not self.start.at_sample:
            found.insert(0, (self.start.value, self.span.begin, True, self.start.computed))
        if self.end.value is not None and not self.line.stepped:
            late = self.span.hi - 1 if self.span.forward else self.span.lo + 1
            found.append((self.end.value, late, True, self.end.computed))
        return found

    def extreme_2(self, sign: int, *, own_time: bool) -> Exact:
        found = self.candidates()
        if not found:
            return self.result(None, NO_DATA)
        best = max(sign * value for value, *_ in found)
        equal = [one for one in found if sign * one[0] == best]
        value, t, is_bound, _ = min(equal, key=lambda one: one[1])
        at_begin = t == self.span.begin
        bits = self.partial | (MULTI_VALUE if len(equal) > 1 else 0)
        bits |= INTERPOLATED if is_bound and (own_time or at_begin) else 0
        bits |= CALCULATED if not own_time and not at_begin else 0
        tied = len(equal) > 1 and any(one[3] for one in equal)
        code = self.by_time(stepped=self.line.stepped)
        scale = self.size if is_bound else Fraction(0)
        return self.result(value, code, bits, t=t if own_time else None, scale=scale, tied=tied)

    def range_2(self) -> Exact:
        values = [value for value, *_ in self.candidates()]
        if not values:
            return self.result(None, NO_DATA)
        exact = self.line.stepped
        width, code = max(values) - min(values), self.by_time(stepped=self.line.stepped)
        return self.calculated(width, code, scale=Fraction(0) if exact else self.size)

    # By time.

    def area(self) -> Fraction:
        pieces = self.line.pieces(self.span.lo, self.span.hi)
        return sum((one.area for one in pieces if one.first is not None), Fraction(0))

    def bridged(self) -> tuple[Fraction, int, int]:
        """Area (value * µs), time covered and code of the line led across Bad samples and carried on."""
        line, span = self.line, self.span
        usable = line.usable
        covered = max(span.hi - max(span.lo, usable[0].t), 0) if usable else 0
        if not covered or self.past:
            return Fraction(0), 1, NO_DATA
        known = None if line.counts_bad(line.samples[-1]) else line.known
        bridge = replace(line, samples=tuple(usable), known=known)
        area = sum(
            (one.area for one in bridge.pieces(span.lo, span.hi) if one.first is not None), Fraction(0)
        )
        beyond = max(span.lo, bridge.end_of_data)
        if beyond < span.hi:
            # Up to the end of data the last value holds; past it, from the line of the last two on.
            ends = bridge.carried_on(beyond), bridge.carried_on(span.hi)
            area += (ends[0] + ends[1]) / 2 * (span.hi - beyond)
        begins = span.lo < usable[0].t or line.interpolated(span.lo).good
        held = span.hi <= line.end_of_data
        ends_good = held if line.stepped else line.interpolated(span.hi).good
        good = all(one.good for one in line.inside(span)) and begins and ends_good
        return area, covered, GOOD if good else UNCERTAIN

    def time_average(self) -> Exact:
        area, covered, code = self.bridged()
        return self.calculated(area / covered, code, scale=self.steepest())

    def total(self) -> Exact:
        area, covered, code = self.bridged()
        return self.calculated(area / 10**6, code, scale=self.steepest() * covered / 10**6)

    def steepest(self) -> Fraction:
        """The largest value that a line carried on reaches."""
        usable = self.line.usable
        beyond = [abs(self.line.carried_on(self.span.hi))] if usable else []
        return max([self.size, *beyond])

    def time_average_2(self) -> Exact:
        good, uncertain, _ = self.durations(stepped=self.line.stepped)
        mean = self.area() / max(good + uncertain, 1)
        return self.calculated(mean, self.by_time(stepped=self.line.stepped), scale=self.size)

    def total_2(self) -> Exact:
        scale = self.size * self.span.length / 10**6
        return self.calculated(self.area() / 10**6, self.by_time(stepped=self.line.stepped), scale=scale)

    def in_state(self, *, zero: bool) -> Exact:
        held = replace(self.line, stepped=True)
        pieces = [one for one in held.pieces(self.span.lo, self.span.hi) if one.first is not None]
        time = sum(one.length for one in pieces if (one.first == 0) == zero)
        return self.calculated(Fraction(time, 1000), self.by_time(stepped=True))

    def quality_time(self, *, good: bool, share: bool) -> Exact:
        durations = self.durations(stepped=True)
        time = durations[0] if good else durations[2]
        value = Fraction(time * 100, self.span.length) if share else Fraction(time, 1000)
        return self.calculated(value, GOOD if self.line.samples else NO_DATA)


_ALL: Final[dict[str, Callable[[Interval], Exact]]] = {
    "Interpolative": lambda one: one.bound(one.line.interpolated(one.span.begin), one.span.begin),
    "Average": Interval.average,
    "TimeAverage": Interval.time_average,
    "TimeAverage2": Interval.time_average_2,
    "Total": Interval.total,
    "Total2": Interval.total_2,
    "Minimum": lambda one: one.extreme(-1, own_time=False),
    "Maximum": lambda one: one.extreme(1, own_time=False),
    "MinimumActualTime": lambda one: one.extreme(-1, own_time=True),
    "MaximumActualTime": lambda one: one.extreme(1, own_time=True),
    "Range": Interval.value_range,
    "Minimum2": lambda one: one.extreme_2(-1, own_time=False),
    "Maximum2": lambda one: one.extreme_2(1, own_time=False),
    "MinimumActualTime2": lambda one: one.extreme_2(-1, own_time=True),
    "MaximumActualTime2": lambda one: one.extreme_2(1, own_time=True),
    "Range2": Interval.range_2,
    "Count": Interval.count,
    "DurationInStateZero": lambda one: one.in_state(zero=True),
    "DurationInStateNonZero": lambda one: one.in_state(zero=False),
    "NumberOfTransitions": Interval.transitions,
    "Start": lambda one: one.end_sample(first=True),
    "End": lambda one: one.end_sample(first=False),
    "Delta": Interval.delta,
    "StartBound": lambda one: one.bound(one.start, one.span.begin),
    "EndBound": lambda one: one.bound(one.end, one.span.end),
    "DeltaBounds": Interval.delta_bounds,
    "DurationGood": lambda one: one.quality_time(good=True, share=False),
    "DurationBad": lambda one: one.quality_time(good=False, share=False),
    "PercentGood": lambda one: one.quality_time(good=True, share=True),
    "PercentBad": lambda one: one.quality_time(good=False, share=True),
    "WorstQuality": lambda one: one.worst(with_bound=False),
    "WorstQuality2": lambda one: one.worst(with_bound=True),
    "AnnotationCount": Interval.annotations,
    "StandardDeviationSample": lambda one: one.spread(sample=True, deviation=True),
    "VarianceSample": lambda one: one.spread(sample=True, deviation=False),
    "StandardDeviationPopulation": lambda one: one.spread(sample=False, deviation=True),
    "VariancePopulation": lambda one: one.spread(sample=False, deviation=False),
}
