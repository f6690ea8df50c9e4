"""A figure looked at more closely: over time, by state, by how much each piece adds."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import isfinite
from typing import Final

import numpy as np

from cronaca.core import quality as q
from cronaca.core.model import HOUR, MINUTE, Series, Window
from cronaca.core.statistics.norms import Band

ROOM: Final = 0.05
"""Share of the scale that stays free above and below."""
_LENGTHS: Final = (
    MINUTE,
    5 * MINUTE,
    10 * MINUTE,
    30 * MINUTE,
    HOUR,
    2 * HOUR,
    4 * HOUR,
    8 * HOUR,
    24 * HOUR,
)
_MOST_STRETCHES: Final = 24


@dataclass(frozen=True, slots=True)
class Part:
    """What one piece adds to the sum of all: `index` among those asked for; shares from 0 to 1."""

    index: int
    value: float
    share: float
    cumulative: float


def pareto(values: Sequence[float | None]) -> list[Part]:
    """The largest first, with the share that it and those before it add (J. M. Juran, Quality Control
    Handbook, 1951). Missing and negative values are left out; without a sum above zero there is nothing."""
    known = [(i, v) for i, v in enumerate(values) if v is not None and isfinite(v) and v >= 0.0]
    total = sum(value for _, value in known)
    if total <= 0.0:
        return []
    rows, so_far = [], 0.0
    for i, value in sorted(known, key=lambda pair: (-pair[1], pair[0])):
        so_far += value
        rows.append(Part(i, value, value / total, so_far / total))
    return rows


@dataclass(frozen=True, slots=True)
class Stretch:
    """One value from start to end, µs; None: there was none that can be used."""

    start_us: int
    end_us: int
    value: int | None


def timeline(series: Series, window: Window) -> list[Stretch]:
    """What a discrete tag was in, and when: stretches that cover the window without a hole. `series` begins
    with the sample before the window, where there is one."""
    bad = q.is_bad(series.quality).tolist()
    stretches: list[Stretch] = [Stretch(window.start_us, window.end_us, None)]
    for ts_us, value, is_bad in zip(series.ts_us.tolist(), series.values.tolist(), bad, strict=True):
        if ts_us >= window.end_us:
            break
        now = None if is_bad else int(value)
        at_us, last = max(ts_us, window.start_us), stretches[-1]
        if now == last.value:
            continue
        stretches[-1:] = [Stretch(last.start_us, at_us, last.value), Stretch(at_us, window.end_us, now)]
    return _joined([stretch for stretch in stretches if stretch.start_us < stretch.end_us])


def _joined(stretches: Sequence[Stretch]) -> list[Stretch]:
    result: list[Stretch] = []
    for stretch in stretches:
        if result and result[-1].value == stretch.value:
            result[-1] = Stretch(result[-1].start_us, stretch.end_us, stretch.value)
        else:
            result.append(stretch)
    return result


def stretch_length(window: Window) -> int:
    """A round length, µs, of which a window holds at most 24."""
    least = window.length_us / _MOST_STRETCHES
    days = -(-window.length_us // (24 * HOUR * _MOST_STRETCHES)) * 24 * HOUR
    return next((length for length in _LENGTHS if length >= least), days)


NEVER_NEGATIVE: Final = frozenset({
    "Deviation", "StandardDeviationPopulation", "StandardDeviationSample", "VariancePopulation",
    "VarianceSample", "Range", "Travel", "Count", "PercentGood", "PercentBad", "Starts", "RisingEdges",
    "FallingEdges", "DurationInStateNonZero", "DurationInStateZero", "NumberOfTransitions",
})  # fmt: skip
"""Figures of which less than zero cannot be: what is normal for them is drawn from zero on."""


def drawn_band(band: Band | None, stat: str) -> Band | None:
    """The band as far as figures can lie in it."""
    if band is None or stat not in NEVER_NEGATIVE or band.low >= 0.0:
        return band
    return replace(band, low=0.0, high=max(band.high, 0.0))


def common_scale(
    values: Sequence[Sequence[float | None]], bands: Sequence[Band | None]
) -> tuple[float, float]:
    """One scale for all pieces, bands and all; with zero where nothing lies below it and zero is near."""
    known = [v for row in values for v in row if v is not None and isfinite(v)]
    known += [end for band in bands if band is not None for end in (band.low, band.high)]
    if not known:
        return 0.0, 1.0
    low, high = float(np.min(known)), float(np.max(known))
    if 0.0 <= low < high / 2.0:
        return 0.0, high * (1.0 + ROOM)
    room = (high - low) * ROOM or abs(high) * ROOM or 1.0
    return low - room, high + room
