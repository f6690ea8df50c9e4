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
_HOTTEST: Final = 200.0
_STEPS: Final = 30
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
    pressure: Floats = np.exp(exponent)
    return pressure


def humidity_ratio(celsius: Floats, relative_humidity: Floats, pressure: float = STANDARD_PRESSURE) -> Floats:
    """kg of water per kg of dry air, from a relative humidity of 0 to 1."""
    vapour = relative_humidity * saturation_pressure(celsius)
    return _MASS_RATIO * vapour / (pressure - vapour)


def relative_humidity(celsius: Floats, ratio: Floats, pressure: float = STANDARD_PRESSURE) -> Floats:
    """0 to 1 (above 1: fog), from kg of water per kg of dry air."""
    vapour = pressure * ratio / (_MASS_RATIO + ratio)
    return vapour / saturation_pressure(celsius)


def dew_point(celsius: Floats, relative_humidity: Floats) -> Floats:
    """The temperature at which the vapour would saturate the air, by Newton's method on the logarithm of the
    saturation pressure; NaN below 0 °C, where the formula over liquid water does not hold."""
    vapour = np.asarray(relative_humidity * saturation_pressure(celsius), np.float64)
    with np.errstate(divide="ignore", invalid="ignore"):
        target = np.log(vapour)
        point = np.minimum(np.asarray(celsius, np.float64), _HOTTEST) + 0.0 * vapour
        for _ in range(_STEPS):
            point = np.clip(point - (_log_pressure(point) - target) / _slope(point), -1.0, _HOTTEST)
        return np.where(vapour >= saturation_pressure(np.zeros(1)), point, np.nan)


def wet_bulb(celsius: Floats, relative_humidity: Floats, pressure: float = STANDARD_PRESSURE) -> Floats:
    """The temperature of a wetted thermometer (thermodynamic wet bulb: chapter 1, equation 33 in the edition
    of 2017), by bisection between 0 °C and the air's temperature; NaN below 0 °C."""
    ratio = humidity_ratio(celsius, relative_humidity, pressure)
    high = np.asarray(celsius, np.float64) + 0.0 * ratio
    low = np.zeros_like(high)
    frozen = _ratio_at_wet_bulb(high, low, pressure) > ratio
    for _ in range(60):
        middle = (low + high) / 2
        above = _ratio_at_wet_bulb(celsius, middle, pressure) > ratio
        low, high = np.where(above, low, middle), np.where(above, middle, high)
    return np.where(frozen, np.nan, (low + high) / 2)


def _ratio_at_wet_bulb(celsius: Floats, bulb: Floats, pressure: float) -> Floats:
    """The humidity ratio of air of a temperature whose wet bulb shows another one."""
    saturated = humidity_ratio(bulb, np.ones_like(bulb), pressure)
    ratio: Floats = ((2501 - 2.326 * bulb) * saturated - 1.006 * (celsius - bulb)) / (
        2501 + 1.86 * celsius - 4.186 * bulb
    )
    return ratio


def _log_pressure(celsius: Floats) -> Floats:
    result: Floats = np.log(saturation_pressure(celsius))
    return result


def _slope(celsius: Floats) -> Floats:
    """d ln(saturation pressure) / dT, per K."""
    t = celsius + 273.15
    return 5.8002206e3 / t**2 - 4.8640239e-2 + 2 * 4.1764768e-5 * t - 3 * 1.4452093e-8 * t**2 + 6.5459673 / t
