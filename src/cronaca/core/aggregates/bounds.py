"""Bounding values: what a tag was at the edge of an interval, and how that came (Part 13, 3.1 and 4.2.1)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.aggregates import status
from cronaca.core.aggregates.interval_data import IntervalData, Mask
from cronaca.core.aggregates.samples import Floats, as_type
from cronaca.core.aggregates.status import StatusArray
from cronaca.core.model import Times, Values

Index = NDArray[np.intp]


@dataclass(frozen=True, slots=True)
class Bound:
    """Values at some instants, in the tag's own type; `raw` where a sample has the very time. `before` and
    `after` are the positions of the samples they come from, -1 where none is used. A Bad bound has no
    value. `codes` are without bits."""

    values: Values
    codes: StatusArray
    raw: Mask
    before: Index
    after: Index

    @property
    def usable(self) -> Mask:
        """Where there is a value."""
        result: Mask = status.severity(self.codes) < 2
        return result

    @property
    def good(self) -> Mask:
        """Where the value is Good."""
        result: Mask = status.severity(self.codes) == 0
        return result

    @property
    def bits(self) -> NDArray[np.int64]:
        """The bit Interpolated where no sample has the very time."""
        return status.bit(~self.raw & self.usable, status.INTERPOLATED)


def interpolated(data: IntervalData, at_us: Times) -> Bound:
    """Interpolated bounding values: from the nearest usable samples on both sides, across Bad ones."""
    count = data.usable_count
    if not count:
        return _none(data, len(at_us))
    ts, place = data.usable_times, data.usable_place
    i = np.searchsorted(ts, at_us, "right") - 1
    there, before = i >= 0, place(np.maximum(i, 0))
    raw = there & (data.ts_us[before] == at_us)
    following = there & (i + 1 < count)
    after = place(np.minimum(i + 1, count - 1))
    stands = np.searchsorted(data.ts_us, at_us, "right") - 1
    # Stepped values do not look ahead: only what lies between the sample and the instant was skipped.
    reach = stands if data.stepped else np.where(following, after - 1, len(data.ts_us) - 1)
    skipped = reach > before
    beyond = ~following & (at_us > data.end_of_data_us)
    sloped = following & ~raw & (not data.stepped)
    good = data.good[before] & ~skipped & ~beyond & (~sloped | data.good[after])
    codes = np.where(good, status.GOOD, status.UNCERTAIN_SUB_NORMAL).astype(np.uint32)
    codes = np.where(raw, status.from_quality(data.samples.series.quality[before]), codes)
    codes = np.where(there, codes, np.uint32(status.BAD_NO_DATA))
    values = _line(data, at_us, before, np.where(sloped, after, -1))
    values = np.where(~following & (beyond | skipped), _extrapolated(data, at_us, before), values)
    return _bound(data, values, codes, raw, np.where(there, before, -1), np.where(sloped, after, -1))


def simple(data: IntervalData, at_us: Times, *, leaving: bool = False) -> Bound:
    """Simple bounding values: from the neighbouring samples only, never across a Bad one. `leaving` is the
    value just before the instant, as an interval that does not hold the instant ends with it."""
    count = len(data.ts_us)
    if not count:
        return _none(data, len(at_us))
    p = np.searchsorted(data.ts_us, at_us, "left" if leaving else "right") - 1
    there, before = p >= 0, np.maximum(p, 0)
    raw = there & (data.ts_us[before] == at_us)
    following, after = there & (p + 1 < count), np.minimum(p + 1, count - 1)
    bad = data.bad[before] | ~there
    beyond = ~following & (at_us > data.end_of_data_us)
    sloped = following & ~raw & ~data.bad[after] & (not data.stepped)
    broken = following & ~raw & data.bad[after] & (not data.stepped)
    good = data.good[before] & ~beyond & ~broken & (~sloped | data.good[after])
    codes = np.where(good, status.GOOD, status.UNCERTAIN_SUB_NORMAL).astype(np.uint32)
    own = data.samples.series.quality[before]
    codes = np.where(raw, status.from_quality(own), codes)
    # An Uncertain sample that counts as Bad has no code of a Bad one to pass on.
    no_value = np.where(raw & there & (own < q.BAD), status.BAD, status.BAD_NO_DATA)
    no_value = np.where(raw & (own >= q.BAD), status.from_quality(own), no_value).astype(np.uint32)
    codes = np.where(bad, no_value, codes)
    values = _line(data, at_us, before, np.where(sloped, after, -1))
    values = np.where(beyond & ~bad, _extrapolated(data, at_us, before), values)
    return _bound(data, values, codes, raw, np.where(there, before, -1), np.where(sloped, after, -1))


def start_bound(data: IntervalData) -> Bound:
    """The simple bounding value where each interval begins."""
    return data.remember("start bound", lambda: simple(data, data.intervals.begin_us))


def end_bound(data: IntervalData) -> Bound:
    """The simple bounding value where each interval ends: what it was just before that."""
    where = data.intervals
    return data.remember("end bound", lambda: simple(data, where.end_us, leaving=where.forward))


def _line(data: IntervalData, at_us: Times, before: Index, after: Index) -> Values:
    """The value of the sample before, or on the line to the one after where there is one."""
    held = data.values[before]
    if data.stepped:
        return held
    length = np.where(after >= 0, data.ts_us[after] - data.ts_us[before], 1)
    share = (at_us - data.ts_us[before]) / length
    with np.errstate(invalid="ignore", over="ignore"):
        # Weighted sum: the difference of two huge values would overflow.
        line = held * (1 - share) + data.values[after] * share
    return np.where((after >= 0) & (data.values[after] != held), line, held)


def _extrapolated(data: IntervalData, at_us: Times, before: Index) -> Values:
    """Past the last usable sample: held, or on the line of the last two."""
    held = data.values[before]
    u = data.usable_at
    if not data.configuration.sloped_extrapolation or data.stepped or len(u) < 2:
        return held
    (t0, t1), (v0, v1) = data.ts_us[u[-2:]], data.numbers[u[-2:]]
    result: Floats = v1 + (v1 - v0) / (t1 - t0) * (at_us - t1)
    return result


def _bound(
    data: IntervalData, values: Values, codes: StatusArray, raw: Mask, before: Index, after: Index
) -> Bound:
    usable = status.severity(codes) < 2
    empty = np.nan if data.values.dtype == np.float64 else 0
    kept = as_type(np.where(usable, values, empty), data.values)
    return Bound(kept, codes, raw & usable, before, after)


def _none(data: IntervalData, count: int) -> Bound:
    nowhere = np.full(count, -1, np.intp)
    empty = as_type(np.full(count, np.nan if data.values.dtype == np.float64 else 0.0), data.values)
    codes = np.full(count, status.BAD_NO_DATA, np.uint32)
    return Bound(empty, codes, np.zeros(count, np.bool_), nowhere, nowhere)
