"""Buckets: what a stretch of samples of one tag was, in columns, and how buckets merge exactly.

A bucket knows only the samples inside it. Counts, extremes and moments merge by addition; mean and
sum of squared deviations as in Chan, Golub, LeVeque: Updating Formulae and a Pairwise Algorithm for
Computing Sample Variances, Stanford STAN-CS-79-773 (1979). Integrals and durations reach from the
first to the last sample inside; what lies between two buckets is joined from the last sample of the
one and the first of the other, by the very rule that holds inside.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final, TypeVar

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.model import Series, Times, Values, ValueType

_PIECE = 1 << 16
NEVER: Final = -1
"""Stands for a time where there is no such sample."""
Floats = NDArray[np.float64]
Counts = NDArray[np.int64]
Index = NDArray[np.intp]
K = TypeVar("K", bound=np.generic)


@dataclass(frozen=True, slots=True)
class Points:
    """One sample per bucket: its time (NEVER where there is none), value, quality."""

    ts_us: Times
    values: Values
    quality: q.QualityArray

    @classmethod
    def at(cls, series: Series, index: NDArray[np.intp], there: NDArray[np.bool_] | None = None) -> Points:
        """The samples at these positions."""
        ts = series.ts_us[index]
        return cls(
            ts if there is None else np.where(there, ts, NEVER), series.values[index], series.quality[index]
        )

    def take(self, index: NDArray[np.intp] | NDArray[np.bool_] | slice) -> Points:
        """Those of some buckets."""
        return Points(self.ts_us[index], self.values[index], self.quality[index])


POINTS: Final = ("first", "last", "lowest", "highest", "bad_first", "bad_last")
COUNTS: Final = ("good", "uncertain", "bad", "good_us", "uncertain_us", "bad_us", "transitions")
FIGURES: Final = ("mean", "m2", "held", "sloped")
_SPAN_COUNTS: Final = ("good_us", "uncertain_us", "bad_us", "transitions")
_SPAN_FIGURES: Final = ("held", "sloped")


@dataclass(frozen=True, slots=True)
class Buckets:
    """Buckets of one width in order of time, none without a sample; all columns of one length.

    `start_us` are multiples of `width_us`. Points: `lowest` and `highest` are the first lowest and first
    highest usable sample, `bad_first` and `bad_last` the outermost Bad ones. Counts: samples by severity,
    and how long (µs) samples of each severity stood until the next one; `transitions` are changes of
    value or of usability. Figures: `mean` and `m2` (sum of squared deviations) are over usable samples,
    each counting once; `held` integrates each usable value until the next sample, `sloped` draws a
    straight line between usable neighbours and holds a value before a Bad one; both in value * µs.
    """

    value_type: ValueType
    width_us: int
    start_us: Times
    points: dict[str, Points]
    counts: dict[str, Counts]
    figures: dict[str, Floats]

    def __len__(self) -> int:
        return len(self.start_us)

    @property
    def samples(self) -> Counts:
        """How many samples each bucket sums up."""
        return self.counts["good"] + self.counts["uncertain"] + self.counts["bad"]

    def take(self, index: NDArray[np.bool_] | Index) -> Buckets:
        """The chosen buckets."""
        return Buckets(
            self.value_type,
            self.width_us,
            self.start_us[index],
            {name: points.take(index) for name, points in self.points.items()},
            {name: column[index] for name, column in self.counts.items()},
            {name: column[index] for name, column in self.figures.items()},
        )


@dataclass(frozen=True, slots=True)
class Spans:
    """What happens between two neighbouring samples: columns, one entry per pair."""

    counts: dict[str, Counts]
    figures: dict[str, Floats]


def spans(before: Points, after: Points) -> Spans:
    """The stretch from each sample in `before` to the one in `after`."""
    length = after.ts_us - before.ts_us
    if not before.quality.any() and not after.quality.any():
        return _good_spans(before, after, length)
    level, next_level = q.severity(before.quality), q.severity(after.quality)
    usable, both = level < 2, (level < 2) & (next_level < 2)
    value = np.where(usable, before.values, 0).astype(np.float64)
    following = np.where(both, after.values, np.where(usable, before.values, 0)).astype(np.float64)
    changed = (both & (before.values != after.values)) | (usable != (next_level < 2))
    return Spans(
        {
            "good_us": np.where(level == 0, length, 0),
            "uncertain_us": np.where(level == 1, length, 0),
            "bad_us": np.where(level >= 2, length, 0),
            "transitions": changed.astype(np.int64),
        },
        {"held": value * length, "sloped": (value / 2 + following / 2) * length},
    )


def _good_spans(before: Points, after: Points, length: Counts) -> Spans:
    """The usual case, in which all samples are Good: the same sums with a third of the work."""
    nothing = np.zeros(len(length), np.int64)
    value = before.values.astype(np.float64, copy=False)
    following = after.values.astype(np.float64, copy=False)
    changed = (before.values != after.values).astype(np.int64)
    return Spans(
        {"good_us": length, "uncertain_us": nothing, "bad_us": nothing, "transitions": changed},
        {"held": value * length, "sloped": (value / 2 + following / 2) * length},
    )


def bucketise(series: Series, width_us: int) -> Buckets:
    """The buckets of a series in order of time."""
    # Whole buckets in pieces that stay in the processor's cache: twice as quick as all at once.
    opens, _ = _groups(series.ts_us // width_us)
    cuts = np.searchsorted(opens, np.arange(_PIECE, len(series), _PIECE))
    starts = np.unique(np.r_[0, opens[cuts[cuts < len(opens)]]])
    if len(starts) < 2:
        return _bucketise(series, width_us)
    ends = np.r_[starts[1:], len(series)]
    pieces = [series.take(slice(a, b)) for a, b in zip(starts.tolist(), ends.tolist(), strict=True)]
    return concatenate([_bucketise(piece, width_us) for piece in pieces])


@np.errstate(over="ignore", invalid="ignore")  # sums beyond float64 become infinite, and say so
def _bucketise(series: Series, width_us: int) -> Buckets:
    opens, ends = _groups(series.ts_us // width_us)
    whole = Points(series.ts_us, series.values, series.quality)
    count = max(len(series) - 1, 0)
    between = spans(whole.take(slice(count)), whole.take(slice(1, count + 1)))
    level = q.severity(series.quality)
    tests = {"good": level == 0, "uncertain": level == 1, "bad": level >= 2}
    counts = {name: _sum_ints(test, opens) for name, test in tests.items()}
    mean, m2 = _moments(series, level < 2, counts["good"] + counts["uncertain"], opens)
    first_bad, last_bad = _bad_ends(series, level >= 2, opens, ends)
    points = {
        "first": Points.at(series, opens),
        "last": Points.at(series, ends),
        "lowest": _extreme(series, level < 2, opens, ends, np.minimum),
        "highest": _extreme(series, level < 2, opens, ends, np.maximum),
        "bad_first": first_bad,
        "bad_last": last_bad,
    }
    for name in _SPAN_COUNTS:
        counts[name] = _sum_ints(_without_leaving(between.counts[name], ends), opens)
    inner = {n: _sum_floats(_without_leaving(between.figures[n], ends), opens) for n in _SPAN_FIGURES}
    figures = {"mean": mean, "m2": m2, **inner}
    starts_us = series.ts_us[opens] // width_us * width_us
    return Buckets(series.value_type, width_us, starts_us, points, counts, figures)


@np.errstate(over="ignore", invalid="ignore")
def coarsen(fine: Buckets, width_us: int) -> Buckets:
    """Wider buckets, merged exactly from narrower ones."""
    opens, ends = _groups(fine.start_us // width_us)
    count = max(len(fine) - 1, 0)
    between = spans(fine.points["last"].take(slice(count)), fine.points["first"].take(slice(1, count + 1)))
    counts = {name: _sum_ints(column, opens) for name, column in fine.counts.items()}
    for name in _SPAN_COUNTS:
        counts[name] = counts[name] + _sum_ints(_without_leaving(between.counts[name], ends), opens)
    mean, m2 = _merged_moments(fine, opens)
    figures = {"mean": mean, "m2": m2}
    for name in _SPAN_FIGURES:
        edges = _without_leaving(between.figures[name], ends)
        figures[name] = _sum_floats(fine.figures[name] + edges, opens)
    points = {
        "first": fine.points["first"].take(opens),
        "last": fine.points["last"].take(ends),
        "lowest": _best(fine.points["lowest"], opens, ends, np.minimum),
        "highest": _best(fine.points["highest"], opens, ends, np.maximum),
        "bad_first": _outer(fine.points["bad_first"], opens, ends, last=False),
        "bad_last": _outer(fine.points["bad_last"], opens, ends, last=True),
    }
    starts_us = fine.start_us[opens] // width_us * width_us
    return Buckets(fine.value_type, width_us, starts_us, points, counts, figures)


def concatenate(parts: list[Buckets]) -> Buckets:
    """Buckets of one width and type in order of time; no two may have the same start."""
    head = parts[0]
    points = {
        name: Points(
            np.concatenate([p.points[name].ts_us for p in parts]),
            np.concatenate([p.points[name].values for p in parts]),
            np.concatenate([p.points[name].quality for p in parts]),
        )
        for name in POINTS
    }
    counts = {name: np.concatenate([p.counts[name] for p in parts]) for name in COUNTS}
    figures = {name: np.concatenate([p.figures[name] for p in parts]) for name in FIGURES}
    starts = np.concatenate([p.start_us for p in parts])
    whole = Buckets(head.value_type, head.width_us, starts, points, counts, figures)
    return whole.take(np.argsort(starts, kind="stable"))


def key_samples(value_type: ValueType, buckets: Mapping[str, Points]) -> Series:
    """The samples that a curve needs of each bucket (M4, and its outermost Bad ones), in order of time."""
    points = [buckets[name] for name in POINTS]
    ts = np.concatenate([p.ts_us for p in points])
    there = ts != NEVER
    ts, order = np.unique(ts[there], return_index=True)
    values = np.concatenate([p.values for p in points])[there][order]
    quality = np.concatenate([p.quality for p in points])[there][order]
    return Series(value_type, ts, values, quality)


def _groups(numbers: Times) -> tuple[Index, Index]:
    """First and last position of each run of equal numbers."""
    if not len(numbers):
        return np.empty(0, np.intp), np.empty(0, np.intp)
    opens = np.flatnonzero(np.r_[True, numbers[1:] != numbers[:-1]])
    return opens, np.r_[opens[1:], len(numbers)] - 1


def _sum_ints(column: NDArray[np.int64] | NDArray[np.bool_], opens: Index) -> Counts:
    result: Counts = np.add.reduceat(column.astype(np.int64), opens) if len(opens) else np.empty(0, np.int64)
    return result


def _sum_floats(column: Floats, opens: Index) -> Floats:
    result: Floats = np.add.reduceat(column, opens) if len(opens) else np.empty(0)
    return result


def _without_leaving(pairs: NDArray[K], ends: Index) -> NDArray[K]:
    """A column of neighbour pairs, zero for each pair that leaves its group, one entry per element."""
    column = np.append(pairs, np.zeros(min(len(ends), 1), pairs.dtype))
    column[ends] = 0
    return column


def _moments(series: Series, usable: NDArray[np.bool_], count: Counts, opens: Index) -> tuple[Floats, Floats]:
    """Mean and sum of squared deviations; each group is shifted by its first value, so that a large
    offset does not eat the digits."""
    if not len(opens):
        return np.empty(0), np.empty(0)
    sizes = np.diff(np.r_[opens, len(series)])
    values = np.where(usable, series.values, 0).astype(np.float64)
    first = np.maximum.accumulate(np.where(usable, np.arange(len(series)), -1))[opens]
    shift = np.where(usable[opens], values[np.maximum(first, 0)], 0.0)
    away = np.where(usable, values - np.repeat(shift, sizes), 0.0)
    with np.errstate(invalid="ignore", divide="ignore"):
        mean_away = np.add.reduceat(away, opens) / count
    deviation = np.where(usable, away - np.repeat(mean_away, sizes), 0.0)
    return shift + mean_away, np.where(count > 0, np.add.reduceat(deviation * deviation, opens), np.nan)


def _merged_moments(fine: Buckets, opens: Index) -> tuple[Floats, Floats]:
    if not len(opens):
        return np.empty(0), np.empty(0)
    count = (fine.counts["good"] + fine.counts["uncertain"]).astype(np.float64)
    mean, m2 = fine.figures["mean"], fine.figures["m2"]
    sizes = np.diff(np.r_[opens, len(fine)])
    there = count > 0
    shift = np.where(there[opens], np.where(there, mean, 0.0)[opens], 0.0)
    away = np.where(there, mean - np.repeat(shift, sizes), 0.0)
    total = np.add.reduceat(count, opens)
    with np.errstate(invalid="ignore", divide="ignore"):
        mean_away = np.add.reduceat(count * away, opens) / total
    deviation = np.where(there, away - np.repeat(mean_away, sizes), 0.0)
    inside = np.add.reduceat(np.where(there, m2, 0.0), opens)
    whole = inside + np.add.reduceat(count * deviation * deviation, opens)
    return shift + mean_away, np.where(total > 0, whole, np.nan)


def _never_wins(values: Values, reducer: np.ufunc) -> float | int:
    low = reducer is np.maximum
    if values.dtype == np.int64:
        return int(np.iinfo(np.int64).min if low else np.iinfo(np.int64).max)
    return float(-np.inf if low else np.inf)


def _first_hits(hit: NDArray[np.bool_], opens: Index, ends: Index) -> tuple[Index, NDArray[np.bool_]]:
    """Position of the first hit of each group, and whether it has one."""
    places = np.where(hit, np.arange(len(hit)), len(hit))
    hits = np.minimum.reduceat(places, opens) if len(opens) else opens
    there = hits <= ends
    return np.where(there, hits, opens), there


def _extreme(
    series: Series, usable: NDArray[np.bool_], opens: Index, ends: Index, reducer: np.ufunc
) -> Points:
    values = np.where(usable, series.values, _never_wins(series.values, reducer))
    best = reducer.reduceat(values, opens) if len(opens) else values
    hit = usable & (values == np.repeat(best, ends - opens + 1))
    return Points.at(series, *_first_hits(hit, opens, ends))


def _bad_ends(series: Series, bad: NDArray[np.bool_], opens: Index, ends: Index) -> tuple[Points, Points]:
    first, there = _first_hits(bad, opens, ends)
    places = np.where(bad, np.arange(len(bad)), -1)
    last = np.maximum.reduceat(places, opens) if len(opens) else opens
    return Points.at(series, first, there), Points.at(series, np.where(there, last, opens), there)


def _best(points: Points, opens: Index, ends: Index, reducer: np.ufunc) -> Points:
    there = points.ts_us != NEVER
    values = np.where(there, points.values, _never_wins(points.values, reducer))
    best = reducer.reduceat(values, opens) if len(opens) else values
    hits, _ = _first_hits(there & (values == np.repeat(best, ends - opens + 1)), opens, ends)
    return points.take(hits)


def _outer(points: Points, opens: Index, ends: Index, *, last: bool) -> Points:
    there = points.ts_us != NEVER
    if not last:
        return points.take(_first_hits(there, opens, ends)[0])
    places = np.where(there, np.arange(len(there)), -1)
    result = np.maximum.reduceat(places, opens) if len(opens) else opens
    return points.take(np.where(result >= opens, result, opens))
