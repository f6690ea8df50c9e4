"""Control charts: individuals and moving range, means and ranges, EWMA, CUSUM.

Each takes its limits from a reference, a stretch that is held to be in control, and draws other values
against them. A value that is not there (NaN) breaks a chart's memory nowhere: it is passed over, and its
place stays empty.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from cronaca.core.aggregates.samples import Floats
from cronaca.core.control.constants import constants_of
from cronaca.core.errors import InvalidInput

FEWEST = 2
"""A spread wants two values."""


@dataclass(frozen=True, slots=True)
class Chart:
    """What is drawn, one entry a value or subgroup: NaN where there is none. `sigma` is one standard
    deviation of what is drawn, at the place of each entry."""

    points: Floats
    centre: float
    lower: Floats
    upper: Floats
    sigma: Floats

    @property
    def outside(self) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
        """Which points lie beyond a limit."""
        result: np.ndarray[tuple[int], np.dtype[np.bool_]] = (self.points < self.lower) | (
            self.points > self.upper
        )
        return result


@dataclass(frozen=True, slots=True)
class Pair:
    """A chart of places and one of spreads that belongs to it."""

    places: Chart
    spreads: Chart


@dataclass(frozen=True, slots=True)
class Cusum:
    """Sums of what lies above and below the target by more than the allowance, and what they may reach."""

    high: Floats
    low: Floats
    limit: float

    @property
    def outside(self) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
        """Where one of the sums is beyond its limit."""
        result: np.ndarray[tuple[int], np.dtype[np.bool_]] = (self.high > self.limit) | (
            self.low > self.limit
        )
        return result


def individuals(values: Floats, reference: Floats) -> Pair:
    """Single values with limits of mean ± 3 MR / d2, and their moving ranges of two with D4 MR.

    Source: NIST/SEMATECH e-Handbook of Statistical Methods, 6.3.2.2. Raises InvalidInput for a reference of
    fewer than two values."""
    two = constants_of(2)
    known = _known(reference)
    centre = float(known.mean())
    mean_range = float(np.abs(np.diff(known)).mean())
    sigma = mean_range / two.d2
    ranges = _moving_ranges(values)
    return Pair(
        _level(values, centre, sigma),
        _chart(ranges, mean_range, two.lower_range * mean_range, two.upper_range * mean_range,
               two.d3 * sigma),
    )  # fmt: skip


def means_and_ranges(groups: np.ndarray[tuple[int, int], np.dtype[np.float64]],
                     reference: np.ndarray[tuple[int, int], np.dtype[np.float64]]) -> Pair:  # fmt: skip
    """Means of subgroups (rows) with limits of grand mean ± 3 R / (d2 sqrt(n)), and their ranges with D3 R
    and D4 R. Tables call 3 / (d2 sqrt(n)) A2 and print it with three digits; here it is not rounded.

    Source: NIST/SEMATECH e-Handbook of Statistical Methods, 6.3.2.1. A subgroup with a missing value is
    passed over. Raises InvalidInput."""
    size = int(groups.shape[1])
    constants = constants_of(size)
    known = reference[~np.isnan(reference).any(axis=1)]
    if not len(known):
        raise InvalidInput(
            "reference", "holds-no-whole-subgroup", "it holds no whole subgroup", "Choose a longer reference."
        )
    centre = float(known.mean())
    mean_range = float(np.ptp(known, axis=1).mean())
    sigma = mean_range / constants.d2
    whole = ~np.isnan(groups).any(axis=1)
    means = np.where(whole, np.nan_to_num(groups).mean(axis=1), np.nan)
    ranges = np.where(whole, np.ptp(np.nan_to_num(groups), axis=1), np.nan)
    lower, upper = constants.lower_range * mean_range, constants.upper_range * mean_range
    return Pair(
        _level(means, centre, sigma / np.sqrt(size)),
        _chart(ranges, mean_range, lower, upper, constants.d3 * sigma),
    )


def ewma(
    values: Floats, reference: Floats, *, weight: float = 0.3, widths: float = 3.0, settled: bool = True
) -> Chart:
    """Exponentially weighted moving averages, beginning at the mean of the reference.

    `settled` gives limits of `widths` s sqrt(weight / (2 - weight)) at every point; else those of the first
    points are narrower by sqrt(1 - (1 - weight)^(2 i)). Source: NIST/SEMATECH e-Handbook of Statistical
    Methods, 6.3.2.4. Raises InvalidInput."""
    if not 0.0 < weight <= 1.0:
        raise InvalidInput("weight", "not-above-up", "it is not above 0 and up to 1", "Give 0.2 to 0.3.")
    centre, sigma = mean_and_deviation(reference)
    return smoothed(values, centre, sigma, weight=weight, widths=widths, settled=settled)


def mean_and_deviation(reference: Floats) -> tuple[float, float]:
    """Mean and standard deviation (n - 1) of a reference: what EWMA and CUSUM go by. Source: NIST/SEMATECH
    e-Handbook of Statistical Methods, 6.3.2.4. Raises InvalidInput for fewer than two values."""
    known = _known(reference)
    return float(known.mean()), float(known.std(ddof=1))


def smoothed(
    values: Floats, centre: float, sigma: float, *, weight: float, widths: float, settled: bool
) -> Chart:
    """The same around a mean and a standard deviation that are known."""
    points, now, count = np.full(len(values), np.nan), centre, 0
    spread = np.full(len(values), np.nan)
    for i, value in enumerate(values):
        if not np.isnan(value):
            now, count = weight * float(value) + (1.0 - weight) * now, count + 1
            points[i] = now
        grown = 1.0 if settled else 1.0 - (1.0 - weight) ** (2 * max(count, 1))
        spread[i] = sigma * np.sqrt(weight / (2.0 - weight) * grown)
    return Chart(points, centre, centre - widths * spread, centre + widths * spread, spread)


def cusum(values: Floats, *, target: float, allowance: float, limit: float) -> Cusum:
    """Tabular sums: high = max(0, high + x - target - allowance), low = max(0, low + target - allowance - x).

    `allowance` (k, often half the shift to be found) and `limit` (h) are in the values' unit. Source:
    NIST/SEMATECH e-Handbook of Statistical Methods, 6.3.2.3. Raises InvalidInput."""
    if allowance < 0.0 or limit <= 0.0:
        raise InvalidInput(
            "limit",
            "allowance-limit-not-above",
            "allowance and limit are not above zero",
            "Give half a shift, and four.",
        )
    high, low = np.full(len(values), np.nan), np.full(len(values), np.nan)
    above = below = 0.0
    for i, value in enumerate(values):
        if not np.isnan(value):
            above = max(0.0, above + float(value) - target - allowance)
            below = max(0.0, below + target - allowance - float(value))
            high[i], low[i] = above, below
    return Cusum(high, low, limit)


def _known(reference: Floats) -> Floats:
    known = reference[~np.isnan(reference)]
    if len(known) < FEWEST:
        raise InvalidInput(
            "reference",
            "holds-values",
            "it holds {known} values",
            "Choose a reference of two or more values.",
            known=len(known),
        )
    return known


def _moving_ranges(values: Floats) -> Floats:
    """Between each value and the one known before it; none for the first."""
    ranges = np.full(len(values), np.nan)
    places = np.flatnonzero(~np.isnan(values))
    ranges[places[1:]] = np.abs(np.diff(values[places]))
    return ranges


def _level(points: Floats, centre: float, sigma: float) -> Chart:
    return _chart(points, centre, centre - 3.0 * sigma, centre + 3.0 * sigma, sigma)


def _chart(points: Floats, centre: float, lower: float, upper: float, sigma: float) -> Chart:
    def level(height: float) -> Floats:
        return np.full(len(points), height)

    return Chart(points, centre, level(lower), level(upper), level(sigma))
