"""Moist air: saturation pressure, humidity ratio, relative humidity; pressures in Pa, temperatures in °C.

Formulas of the ASHRAE Handbook, Fundamentals, chapter 1 (Hyland and Wexler's saturation pressure over
liquid water, humidity ratio from partial pressure); valid from 0 to 200 °C.
"""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
STANDARD_PRESSURE: Final = 101_325.0
_MASS_RATIO: Final = 0.621945
"""Molar mass of water vapour over that of dry air."""


def saturation_pressure(celsius: Floats) -> Floats:
    """The pressure of saturated water vapour, Pa."""
    t = celsius + 273.15
    exponent = (
        -5.8002206e3 / t
        + 1.3914993
        - 4.8640239e-2 * t
        + 4.1764768e-5 * t**2
        - 1.4452093e-8 * t**3
        + 6.5459673 * np.log(t)
    )
    found: Floats = np.exp(exponent)
    return found


def humidity_ratio(celsius: Floats, relative_humidity: Floats, pressure: float = STANDARD_PRESSURE) -> Floats:
    """kg of water per kg of dry air, from a relative humidity of 0 to 1."""
    vapour = relative_humidity * saturation_pressure(celsius)
    return _MASS_RATIO * vapour / (pressure - vapour)


def relative_humidity(celsius: Floats, ratio: Floats, pressure: float = STANDARD_PRESSURE) -> Floats:
    """0 to 1 (above 1: fog), from kg of water per kg of dry air."""
    vapour = pressure * ratio / (_MASS_RATIO + ratio)
    return vapour / saturation_pressure(celsius)
