"""Constants of control charts for subgroups of 2 to 10 values of a normal distribution.

d2 and d3 are the mean and the standard deviation of the range of n standard normal values; the others
follow: A2 = 3 / (d2 sqrt(n)), D3 = max(0, 1 - 3 d3 / d2), D4 = 1 + 3 d3 / d2 (ISO 7870-2, ASTM manual on
presentation of data and control chart analysis). The tests integrate d2 and d3
anew.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt
from typing import Final

from cronaca.core.errors import InvalidInput

_D2_D3: Final = {
    2: (1.128379, 0.852502),
    3: (1.692569, 0.888368),
    4: (2.058751, 0.879808),
    5: (2.325929, 0.864082),
    6: (2.534413, 0.848040),
    7: (2.704357, 0.833205),
    8: (2.847201, 0.819831),
    9: (2.970026, 0.807834),
    10: (3.077505, 0.797051),
}
LARGEST: Final = max(_D2_D3)


@dataclass(frozen=True, slots=True)
class Constants:
    """Of one size of subgroups, with the three decimals of the published tables: limits are those that one
    reckons by hand from them. `a2`: half width of the limits of means; `lower_range` (D3) and `upper_range`
    (D4): limits of ranges; all in mean ranges."""

    size: int
    d2: float
    d3: float
    a2: float
    lower_range: float
    upper_range: float


def constants_of(size: int) -> Constants:
    """For subgroups of so many values; raises InvalidInput."""
    if size not in _D2_D3:
        raise InvalidInput(
            "size",
            "no-subgroups",
            "there are no subgroups of {size}",
            "Give 2 to {largest}.",
            size=size,
            largest=LARGEST,
        )
    d2, d3 = _D2_D3[size]
    constants = d2, d3, 3.0 / (d2 * sqrt(size)), max(0.0, 1.0 - 3.0 * d3 / d2), 1.0 + 3.0 * d3 / d2
    return Constants(size, *(round(constant, 3) for constant in constants))
