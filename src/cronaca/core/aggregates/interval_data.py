"""What the aggregates of one tag over some intervals share; each figure is made when first asked for."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import replace
from functools import cached_property
from typing import TypeVar, cast

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.aggregates import status
from cronaca.core.aggregates.configuration import Configuration
from cronaca.core.aggregates.intervals import Intervals, Segments
from cronaca.core.aggregates.samples import Floats, Samples
from cronaca.core.aggregates.status import StatusArray
from cronaca.core.model import Times, Values, ValueType

Mask = NDArray[np.bool_]
T = TypeVar("T")


class IntervalData:
    """Samples, intervals and configuration together."""

    def __init__(self, samples: Samples, intervals: Intervals, configuration: Configuration) -> None:
        self.samples = samples
        self.intervals = intervals
        self.configuration = configuration
        self._remembered: dict[Hashable, object] = {}

    def remember(self, what: Hashable, make: Callable[[], T]) -> T:
        """Something that several aggregates need, worked out by another module when first asked for."""
        if what not in self._remembered:
            self._remembered[what] = make()
        return cast(T, self._remembered[what])

    @property
    def ts_us(self) -> Times:
        """Times of all samples, marks of holes among them."""
        return self.samples.series.ts_us

    @property
    def values(self) -> Values:
        """Values in the tag's own type."""
        return self.samples.series.values

    @cached_property
    def numbers(self) -> Floats:
        """Values as float64."""
        return self.values.astype(np.float64, copy=False)

    @property
    def stepped(self) -> bool:
        """Whether values hold until the next sample: what is no float never lies on a slope."""
        return self.configuration.stepped or self.samples.series.value_type is not ValueType.FLOAT

    @cached_property
    def all_good(self) -> bool:
        """Whether every sample is plainly Good."""
        return not self.samples.series.quality.any()

    @cached_property
    def good(self) -> Mask:
        """Which samples are Good."""
        return q.is_good(self.samples.series.quality)

    @cached_property
    def bad(self) -> Mask:
        """Which samples count as Bad under the configuration."""
        quality = self.samples.series.quality
        return quality >= (q.UNCERTAIN if self.configuration.treat_uncertain_as_bad else q.BAD)

    @cached_property
    def raw(self) -> Mask:
        """Which ones are recorded samples, not marks of holes."""
        marks = self.samples.marks
        return np.ones(len(self.ts_us), np.bool_) if marks is None else ~marks

    @cached_property
    def usable_at(self) -> NDArray[np.intp]:
        """Positions of the samples that do not count as Bad."""
        return np.flatnonzero(~self.bad)

    @cached_property
    def usable_count(self) -> int:
        """How many samples do not count as Bad."""
        return len(self.ts_us) if self.all_good else len(self.usable_at)

    @cached_property
    def usable_times(self) -> Times:
        """Their times."""
        whole = self.usable_count == len(self.ts_us)
        return self.ts_us if whole else self.ts_us[self.usable_at]

    def usable_place(self, index: NDArray[np.intp]) -> NDArray[np.intp]:
        """The positions among all samples of some of them."""
        whole = self.usable_count == len(self.ts_us)
        return index if whole else self.usable_at[index]

    @cached_property
    def segments(self) -> Segments:
        """Which samples lie in each interval."""
        return Segments.of(self.ts_us, self.intervals)

    @cached_property
    def end_of_data_us(self) -> int:
        """Later than this nothing is known."""
        last = int(self.ts_us[-1]) if len(self.ts_us) else -1
        known = self.samples.known_until_us
        return last if known is None else max(last, known)

    @cached_property
    def past_data(self) -> Mask:
        """Which intervals begin, in time, after the end of data."""
        return self.intervals.lo_us > self.end_of_data_us

    @cached_property
    def partial(self) -> NDArray[np.int64]:
        """The bit Partial: cut by the end of the window, or reaching out of the data on either side."""
        first = int(self.ts_us[0]) if len(self.ts_us) else 0
        outside = (self.intervals.lo_us < first) | (self.intervals.hi_us > self.end_of_data_us)
        return status.bit(self.intervals.cut | outside, status.PARTIAL)

    @cached_property
    def bridged(self) -> IntervalData:
        """The same without the samples that count as Bad, so that lines lead across them."""
        if self.usable_count == len(self.ts_us):
            return self
        usable = self.samples.take(self.usable_at)
        if self.bad[-1]:
            # The last usable value is not known to have held: something else followed.
            usable = replace(usable, known_until_us=None)
        return IntervalData(usable, self.intervals, self.configuration)

    @cached_property
    def raw_counts(self) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]:
        """Recorded samples in each interval: Good, counting as Bad, all."""
        blocks = self.samples.blocks
        if blocks is None:
            good, bad = self.segments.count(self.good & self.raw), self.segments.count(self.bad & self.raw)
            return good, bad, self.segments.count(self.raw)
        counts = [np.where(mask, blocks.counts, 0) for mask in (self.good & self.raw, self.bad & self.raw)]
        good, bad = (self.segments.total(column) for column in counts)
        return good, bad, self.segments.total(np.where(self.raw, blocks.counts, 0))

    def by_values(self) -> StatusArray:
        """The status for aggregates that do not weight by time: shares of the recorded samples."""
        good, bad, total = self.raw_counts
        judged = judge(good, bad, total, self.configuration)
        return np.where(total == 0, np.uint32(status.BAD_NO_DATA), judged)


def judge(
    good: NDArray[np.int64], bad: NDArray[np.int64], whole: NDArray[np.int64], configuration: Configuration
) -> StatusArray:
    """Good, Uncertain or Bad by shares of a whole. Where both limits are met (their sum is 100) the one
    for Good counts (Part 13, 4.2.1.2)."""
    is_good = good * 100 >= configuration.percent_good * whole
    is_bad = bad * 100 >= configuration.percent_bad * whole
    codes = np.where(is_good, status.GOOD, np.where(is_bad, status.BAD, status.UNCERTAIN_SUB_NORMAL))
    return codes.astype(np.uint32)
