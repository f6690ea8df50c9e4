"""A history as fractions: bounding values, and the pieces of the line inside of an interval."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from itertools import pairwise

GOOD, UNCERTAIN, BAD, NO_DATA = 0, 0x40A4 << 16, 0x8000 << 16, 0x809B << 16
INTERPOLATED = 2


@dataclass(frozen=True)
class Sample:
    """One recorded value; `mark`: the beginning of a hole, which is no recorded value."""

    t: int
    value: Fraction
    quality: int
    mark: bool = False

    @property
    def good(self) -> bool:
        return self.quality < 0x4000


@dataclass(frozen=True)
class Rules:
    """The configuration of the aggregates."""

    uncertain_is_bad: bool = True
    percent_bad: int = 100
    percent_good: int = 100
    slopes_go_on: bool = False
    stepped: bool = False


@dataclass(frozen=True)
class Span:
    """An interval: [lo, hi) forward, (lo, hi] backward; `cut` by an end of the window."""

    lo: int
    hi: int
    forward: bool
    cut: bool

    @property
    def begin(self) -> int:
        return self.lo if self.forward else self.hi

    @property
    def end(self) -> int:
        return self.hi if self.forward else self.lo

    @property
    def length(self) -> int:
        return self.hi - self.lo


@dataclass(frozen=True)
class Bound:
    """A value at an instant: none where the code is Bad. `at_sample`: a sample has that very time.
    `computed`: it comes from an extrapolated line, which floats may round."""

    value: Fraction | None
    code: int
    at_sample: bool = False
    computed: bool = False

    @property
    def good(self) -> bool:
        return self.code >> 30 == 0

    @property
    def bits(self) -> int:
        return 0 if self.at_sample or self.value is None else INTERPOLATED


@dataclass(frozen=True)
class Piece:
    """A stretch of the line with one rule: from `first` at its start to `last` just before its end. None:
    Bad, or not known. `good`: its region is Good, held (`good_held`) or on a slope (`good_sloped`)."""

    start: int
    end: int
    first: Fraction | None
    last: Fraction | None
    good_held: bool
    good_sloped: bool

    @property
    def length(self) -> int:
        return self.end - self.start

    @property
    def ends(self) -> tuple[Fraction, Fraction]:
        """The values at both ends of a usable one."""
        assert self.first is not None and self.last is not None
        return self.first, self.last

    @property
    def area(self) -> Fraction:
        return sum(self.ends, Fraction(0)) / 2 * self.length


@dataclass(frozen=True)
class Line:
    """All samples of a tag in order of time, and until when the last one is known to have held."""

    samples: tuple[Sample, ...]
    known: int | None
    rules: Rules
    stepped: bool
    notes: tuple[int, ...] = field(default=())

    @property
    def end_of_data(self) -> int:
        last = self.samples[-1].t if self.samples else -1
        return last if self.known is None else max(last, self.known)

    def counts_bad(self, one: Sample) -> bool:
        return one.quality >= (0x4000 if self.rules.uncertain_is_bad else 0x8000)

    @property
    def usable(self) -> list[Sample]:
        return [one for one in self.samples if not self.counts_bad(one)]

    def inside(self, span: Span) -> list[Sample]:
        if span.forward:
            return [one for one in self.samples if span.lo <= one.t < span.hi]
        return [one for one in self.samples if span.lo < one.t <= span.hi]

    def recorded(self, span: Span) -> list[Sample]:
        return [one for one in self.inside(span) if not one.mark]

    def between(self, one: Sample, other: Sample, at: int) -> Fraction:
        return one.value + (other.value - one.value) * Fraction(at - one.t, other.t - one.t)

    def carried_on(self, at: int) -> Fraction:
        """Past the last usable sample: held, or on the line of the last two."""
        *_, last = usable = self.usable
        if not self.rules.slopes_go_on or self.stepped or len(usable) < 2:
            return last.value
        return self.between(usable[-2], last, at)

    def interpolated(self, at: int) -> Bound:
        """From the nearest usable samples on both sides, across Bad ones."""
        before = [one for one in self.usable if one.t <= at]
        after = [one for one in self.usable if one.t > at]
        if not before:
            return Bound(None, NO_DATA)
        left = before[-1]
        if left.t == at:
            return Bound(left.value, left.quality << 16, at_sample=True)
        sloped = bool(after) and not self.stepped
        reach = at + 1 if self.stepped else after[0].t if after else self.end_of_data + 1
        skipped = any(left.t < one.t < reach for one in self.samples)
        beyond = not after and at > self.end_of_data
        good = left.good and not skipped and not beyond and (not sloped or after[0].good)
        value = self.between(left, after[0], at) if sloped else left.value
        if not after and (beyond or skipped):
            value = self.carried_on(at)
        return Bound(value, GOOD if good else UNCERTAIN)

    def simple(self, at: int, *, leaving: bool = False) -> Bound:
        """From the neighbouring samples only; `leaving`: just before the instant."""
        before = [one for one in self.samples if (one.t < at if leaving else one.t <= at)]
        after = [one for one in self.samples if one.t >= at and (leaving or one.t > at)]
        if not before:
            return Bound(None, NO_DATA)
        left = before[-1]
        raw = left.t == at
        if self.counts_bad(left):
            own = left.quality << 16 if left.quality >= 0x8000 else BAD
            return Bound(None, own if raw else NO_DATA, raw)
        if raw:
            return Bound(left.value, left.quality << 16, at_sample=True)
        beyond = not after and at > self.end_of_data
        sloped = bool(after) and not self.stepped and not self.counts_bad(after[0])
        good = left.good and not beyond
        if after and not self.stepped:
            good = good and after[0].good
        value = self.between(left, after[0], at) if sloped else left.value
        if beyond:
            value = self.carried_on(at)
        return Bound(value, GOOD if good else UNCERTAIN, computed=beyond)

    def pieces(self, lo: int, hi: int) -> Iterator[Piece]:
        """The line from `lo` to `hi` without a gap between the pieces, also where nothing is known."""
        cuts = sorted(
            {lo, hi, *(one.t for one in self.samples if lo < one.t < hi)} | self._end_within(lo, hi)
        )
        for start, end in pairwise(cuts):
            yield self._piece(start, end)

    def _end_within(self, lo: int, hi: int) -> set[int]:
        return {self.end_of_data} if lo < self.end_of_data < hi else set()

    def _piece(self, start: int, end: int) -> Piece:
        before = [one for one in self.samples if one.t <= start]
        after = [one for one in self.samples if one.t >= end]
        if not before or self.counts_bad(before[-1]) or (not after and start >= self.end_of_data):
            return Piece(start, end, None, None, good_held=False, good_sloped=False)
        left = before[-1]
        first = last = left.value
        if after and not self.stepped and not self.counts_bad(after[0]):
            first, last = self.between(left, after[0], start), self.between(left, after[0], end)
        return Piece(start, end, first, last, left.good, left.good and (not after or after[0].good))
