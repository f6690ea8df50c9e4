"""Run rules: what is unlikely while nothing but chance is at work, though no point is beyond a limit.

Source: L. S. Nelson, The Shewhart Control Chart: Tests for Special Causes, Journal of Quality Technology
16(4), 1984, 237-239; rules 1, 2, 5 and 6 with other lengths already in the Western Electric Statistical
Quality Control Handbook, 1956. From memory.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core.aggregates.samples import Floats
from cronaca.core.control.charts import Chart
from cronaca.core.errors import InvalidInput

Flags = NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class Rule:
    """A rule by its number, and what it says of a point: that a run which breaks it ends there."""

    number: int
    words: str
    test: Callable[[Floats], Flags]


def _windows(z: Floats, length: int) -> NDArray[np.float64]:
    """The last `length` values at each place; NaN before there are so many."""
    padded = np.concatenate([np.full(length - 1, np.nan), z])
    return np.lib.stride_tricks.sliding_window_view(padded, length)


def _whole(flags: Flags) -> Flags:
    """Which rows are true throughout."""
    return np.asarray(flags.all(axis=1))


def _steps(z: Floats, length: int) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Between the last values at each place: up, and down."""
    last = _windows(z, length)
    return last[:, 1:] > last[:, :-1], last[:, 1:] < last[:, :-1]


def _beyond(z: Floats) -> Flags:
    return np.abs(z) > 3.0


def _one_side(z: Floats, length: int = 9) -> Flags:
    last = _windows(z, length)
    return _whole(last > 0) | _whole(last < 0)


def _steady_rise(z: Floats, length: int = 6) -> Flags:
    up, down = _steps(z, length)
    return _whole(up) | _whole(down)


def _up_and_down(z: Floats, length: int = 14) -> Flags:
    up, down = _steps(z, length)
    return _whole((up[:, 1:] & down[:, :-1]) | (down[:, 1:] & up[:, :-1]))


def _some_far(z: Floats, some: int, length: int, distance: float) -> Flags:
    """So many of the last ones farther out on one side, the newest among them."""
    last = _windows(z, length)
    above, below = (last > distance).sum(axis=1) >= some, (last < -distance).sum(axis=1) >= some
    result: Flags = (above & (z > distance)) | (below & (z < -distance))
    return result


def _hugging(z: Floats, length: int = 15) -> Flags:
    return _whole(np.abs(_windows(z, length)) < 1.0)


def _avoiding(z: Floats, length: int = 8) -> Flags:
    return _whole(np.abs(_windows(z, length)) > 1.0)


_ALL: Final = (
    Rule(1, "a point beyond three standard deviations", _beyond),
    Rule(2, "nine points in a row on one side of the centre", _one_side),
    Rule(3, "six points in a row rising, or falling", _steady_rise),
    Rule(4, "fourteen points in a row going up and down in turn", _up_and_down),
    Rule(5, "two of three points in a row beyond two standard deviations on one side",
         lambda z: _some_far(z, 2, 3, 2.0)),
    Rule(6, "four of five points in a row beyond one standard deviation on one side",
         lambda z: _some_far(z, 4, 5, 1.0)),
    Rule(7, "fifteen points in a row within one standard deviation", _hugging),
    Rule(8, "eight points in a row beyond one standard deviation, on either side", _avoiding),
)  # fmt: skip
RULES: Final = {rule.number: rule for rule in _ALL}


def broken(chart: Chart, numbers: Sequence[int]) -> list[tuple[int, ...]]:
    """At each point the numbers of the rules that are broken there. A point that is missing is passed over:
    its neighbours stand side by side. Raises InvalidInput for a rule that is not there."""
    unknown = [number for number in numbers if number not in RULES]
    if unknown:
        raise InvalidInput(
            "rules",
            "no-rule",
            "there is no rule {unknown}",
            "Give 1 to {rules}.",
            unknown=unknown[0],
            rules=len(RULES),
        )
    places = np.flatnonzero(~np.isnan(chart.points))
    sigma = chart.sigma[places]
    away = chart.points[places] - chart.centre
    # Without a spread what is off the centre is infinitely far from it.
    z = np.divide(away, sigma, out=np.where(away > 0, np.inf, -np.inf), where=sigma > 0)
    z[away == 0] = 0.0
    result: list[tuple[int, ...]] = [()] * len(chart.points)
    if not len(places):
        return result
    hits = {number: RULES[number].test(z) for number in sorted(set(numbers))}
    for i, place in enumerate(places.tolist()):
        result[place] = tuple(number for number, flags in hits.items() if flags[i])
    return result
