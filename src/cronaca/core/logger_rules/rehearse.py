"""Rehearsing a rule on data: what it would keep, what it would lose, what that costs."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.codec import encode_segment
from cronaca.core.logger_rules.rules import Rule, SampleLists
from cronaca.core.model import DAY, Series, Times, ValueType, Window, concatenate

_SEGMENT: Final = 16_384
_PIECE: Final = 65_536
_YEAR_DAYS: Final = 365.25


@dataclass(frozen=True, slots=True)
class Rehearsal:
    """What a rule makes of readings. Errors are differences between usable readings and what the kept samples
    say at their times (held, or on the line); `missed_us` are the times of changes between zero and not zero
    that the kept samples do not show. `bytes_per_sample` is that of the kept samples as they are stored."""

    kept: Series
    readings: int
    largest_error: float
    rms_error: float
    missed_us: Times
    samples_per_day: float
    bytes_per_sample: float

    @property
    def missed_edges(self) -> int:
        """How many edges the kept samples do not show."""
        return len(self.missed_us)

    @property
    def megabytes_per_year(self) -> float:
        """10^6 bytes in a year like this."""
        return self.samples_per_day * _YEAR_DAYS * self.bytes_per_sample / 1e6


def replay(rule: Rule, readings: Series) -> Series:
    """The samples that a rule keeps of readings in order of time, and at their end of what it held back."""
    # A piece at a time, and what is kept as columns of plain numbers: millions of small objects that live on
    # would be looked through again and again by the garbage collector.
    kept = [_series(rule.offer_all(piece), readings.value_type) for piece in _pieces(readings)]
    held = SampleLists([], [], [])
    held.add(rule.finish())
    return concatenate([*kept, _series(held, readings.value_type)], readings.value_type)


def _pieces(readings: Series) -> Iterator[SampleLists]:
    for start in range(0, len(readings), _PIECE):
        piece = readings.take(slice(start, start + _PIECE))
        yield SampleLists(piece.ts_us.tolist(), piece.values.tolist(), piece.quality.tolist())


def _series(kept: SampleLists, value_type: ValueType) -> Series:
    return Series.of(value_type, kept.ts_us, np.array(kept.values, value_type.dtype), kept.quality)


def rehearse(rule: Rule, readings: Series, window: Window, *, stepped: bool) -> Rehearsal:
    """Replays the readings of a window and compares what is kept with all of them."""
    return compare(replay(rule, readings), readings, window, stepped=stepped)


def compare(kept: Series, readings: Series, window: Window, *, stepped: bool) -> Rehearsal:
    """What samples that were kept of the readings of a window say of all of them, and what they cost."""
    errors = _errors(readings, kept, stepped=stepped)
    parts = [kept.take(slice(i, i + _SEGMENT)) for i in range(0, len(kept), _SEGMENT)]
    size = sum(len(encode_segment(part)) for part in parts)
    return Rehearsal(
        kept, len(readings),
        float(np.abs(errors).max(initial=0.0)), float(np.sqrt(np.mean(errors**2))) if len(errors) else 0.0,
        missed_edges(readings, kept),
        len(kept) * DAY / window.length_us, size / len(kept) if len(kept) else 0.0,
    )  # fmt: skip


def missed_edges(readings: Series, kept: Series) -> Times:
    """The times of changes between zero and not zero, from one usable reading to the next, that usable kept
    samples do not show. Of the changes between two of these, the last one is shown where they differ."""
    on, times = _on(readings)
    kept_on, kept_us = _on(kept)
    edges_us = times[1:][on[1:] != on[:-1]]
    after = np.searchsorted(kept_us, edges_us, "left")
    last = np.r_[after[1:] != after[:-1], True][: len(after)]
    between = (after > 0) & (after < len(kept_us))
    shows = np.zeros(len(after), np.bool_)
    shows[between] = kept_on[after[between]] != kept_on[after[between] - 1]
    missed: Times = edges_us[~(last & shows)]
    return missed


def _on(series: Series) -> tuple[NDArray[np.bool_], Times]:
    """Whether each usable sample is not zero, and when it was taken."""
    usable = ~q.is_bad(series.quality)
    return series.values[usable] != 0, series.ts_us[usable]


def _errors(readings: Series, kept: Series, *, stepped: bool) -> NDArray[np.float64]:
    """Reading minus what the kept samples say, at each usable reading that they cover."""
    usable = ~q.is_bad(readings.quality)
    ts, values = readings.ts_us[usable], readings.values[usable].astype(np.float64)
    if not len(kept) or not len(ts):
        return np.empty(0)
    before = np.searchsorted(kept.ts_us, ts, "right") - 1
    after = np.minimum(before + 1, len(kept) - 1)
    known = (before >= 0) & ~q.is_bad(kept.quality)[np.maximum(before, 0)]
    before = np.maximum(before, 0)
    held = kept.values[before].astype(np.float64)
    if not stepped:
        leads = (after > before) & ~q.is_bad(kept.quality)[after]
        length = np.where(leads, kept.ts_us[after] - kept.ts_us[before], 1)
        share = np.where(leads, (ts - kept.ts_us[before]) / length, 0.0)
        held = held * (1 - share) + np.where(leads, kept.values[after], 0.0) * share
    errors: NDArray[np.float64] = (values - held)[known]
    return errors
