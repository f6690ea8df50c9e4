"""What is normal for a figure, and where a figure lies beside it.

A band is fixed, comes from limits, or is learnt from figures that are held to be normal: those of the other
pieces of equipment of the same kind, or those of earlier windows. Learnt bands are median ± k MAD: a figure
that is off hardly moves them (F. R. Hampel, Journal of the American Statistical Association 69, 1974; 1.4826
MAD is the standard deviation of a normal distribution).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from math import isfinite
from typing import Final

import numpy as np

from cronaca.core.aggregates.samples import Floats
from cronaca.core.errors import InvalidInput

WIDTHS: Final = 3.0 * 1.4826
"""MADs to either side: three standard deviations, were the figures normally distributed."""
FEWEST: Final = 3
"""So many figures are needed to learn from: of two, either could be the odd one."""


class Verdict(StrEnum):
    """Where a figure lies, in words."""

    FAR_BELOW = "far below"
    BELOW = "below"
    NORMAL = "normal"
    ABOVE = "above"
    FAR_ABOVE = "far above"
    UNKNOWN = "nothing to compare with"
    NO_VALUE = "no value"


@dataclass(frozen=True, slots=True)
class Band:
    """What is normal: from low to high, around a centre, learnt from so many figures (0: set)."""

    low: float
    centre: float
    high: float
    learnt_from: int = 0


@dataclass(frozen=True, slots=True)
class Judged:
    """Where a figure lies: in half widths of the band from its centre, -1 to 1 inside it."""

    position: float | None
    place: Verdict


def fixed_band(low: float, high: float) -> Band:
    """Between two limits; raises InvalidInput."""
    if not (isfinite(low) and isfinite(high) and low < high):
        raise InvalidInput(
            "low",
            "low-not-below",
            "{low} is not below {high}",
            "Give a lower and a higher limit.",
            low=low,
            high=high,
        )
    return Band(low, (low + high) / 2.0, high)


def learnt_band(values: Sequence[float] | Floats, widths: float = WIDTHS, least: float = 0.0) -> Band | None:
    """Median ± `widths` MAD of figures that are held to be normal, but at least ± `least`: what differs by
    less matters to nobody, however alike the others are. Missing figures are left out. None: they are too
    few. Raises InvalidInput for widths that are not above zero."""
    if not (isfinite(widths) and widths > 0.0):
        raise InvalidInput(
            "widths", "not-above-zero", "{widths} is not above zero", "Give 3 to 6.", widths=widths
        )
    known = np.asarray(values, np.float64)
    known = known[np.isfinite(known)]
    if len(known) < FEWEST:
        return None
    middle = float(np.median(known))
    half = max(widths * float(np.median(np.abs(known - middle))), least)
    return Band(middle - half, middle, middle + half, len(known))


def place(value: float | None, band: Band | None) -> Judged:
    """Where a figure lies beside what is normal; more than two half widths from the centre is far."""
    if value is None or not isfinite(value):
        return Judged(None, Verdict.NO_VALUE)
    if band is None:
        return Judged(None, Verdict.UNKNOWN)
    half, away = (band.high - band.low) / 2.0, value - band.centre
    if half == 0.0:
        # All that was learnt from was equal: what is not, is off, but nothing says how far.
        if away == 0.0:
            return Judged(0.0, Verdict.NORMAL)
        return Judged(None, Verdict.ABOVE if away > 0 else Verdict.BELOW)
    position = away / half
    return Judged(position, _word(position))


def _word(position: float) -> Verdict:
    if abs(position) <= 1.0:
        return Verdict.NORMAL
    if position > 0:
        return Verdict.ABOVE if position <= 2.0 else Verdict.FAR_ABOVE
    return Verdict.BELOW if position >= -2.0 else Verdict.FAR_BELOW


@dataclass(frozen=True, slots=True)
class Box:
    """A box plot: quartiles, the farthest figures within 1.5 times their distance, and those beyond.

    Source: J. W. Tukey, Exploratory Data Analysis, 1977; quartiles of type 7 (Hyndman and Fan, The American
    Statistician 50(4), 1996)."""

    low: float
    first: float
    median: float
    third: float
    high: float
    beyond: tuple[float, ...]


def box(values: Sequence[float] | Floats) -> Box | None:
    """The box plot of figures; missing ones are left out. None: there are none."""
    known = np.asarray(values, np.float64)
    known = np.sort(known[np.isfinite(known)])
    if not len(known):
        return None
    first, median, third = (float(x) for x in np.quantile(known, [0.25, 0.5, 0.75]))
    reach = 1.5 * (third - first)
    inside = known[(known >= first - reach) & (known <= third + reach)]
    beyond = known[(known < first - reach) | (known > third + reach)]
    return Box(float(inside[0]), first, median, third, float(inside[-1]), tuple(beyond.tolist()))
