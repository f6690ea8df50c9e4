"""Constants of control charts for subgroups of 2 to 10 values of a normal distribution.

d2 and d3 are the mean and the standard deviation of the range of n standard normal values; the others
follow: A2 = 3 / (d2 sqrt(n)), D3 = max(0, 1 - 3 d3 / d2), D4 = 1 + 3 d3 / d2 (ISO 7870-2, ASTM manual on
presentation of data and control chart analysis). The tests integrate d2 and d3 anew.
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
    """Of one size of subgroups."""

    size: int
    d2: float
    d3: float

    @property
    def a2(self) -> float:
        """Half width of the limits of means, in mean ranges."""
        return 3.0 / (self.d2 * sqrt(self.size))

    @property
    def lower_range(self) -> float:
        """D3: the lower limit of ranges, in mean ranges."""
        return max(0.0, 1.0 - 3.0 * self.d3 / self.d2)

    @property
    def upper_range(self) -> float:
        """D4: the upper limit of ranges, in mean ranges."""
        return 1.0 + 3.0 * self.d3 / self.d2


def constants_of(size: int) -> Constants:
    """For subgroups of so many values; raises InvalidInput."""
    if size not in _D2_D3:
        raise InvalidInput("size", f"there are no subgroups of {size}", f"Give 2 to {LARGEST}.")
    return Constants(size, *_D2_D3[size])
