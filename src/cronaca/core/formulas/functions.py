"""The catalogue: what operators and functions do with columns, what they take, in which units.

Unless it says otherwise, a function of a Bad argument is Bad, and its quality is the worst of its arguments'.
What has no finite result (a division by zero, the root of a negative number) is Bad, out of range.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import reduce
from typing import Final

import numpy as np

from cronaca.core import psychrometrics as air
from cronaca.core import quality as q
from cronaca.core.formulas.columns import Column, Flags, Floats, worst

Apply = Callable[..., Floats]
OnColumns = Callable[[Sequence[Column]], Column]


@dataclass(frozen=True, slots=True)
class Function:
    """An operator or function. One that looks back is built anew for each formula (`working.py`)."""

    name: str
    arguments: str
    text: str
    """What it gives, with its units."""
    on_columns: OnColumns | None = None
    optional: int = 0
    durations: tuple[int, ...] = ()
    """Arguments that are lengths of time, in seconds, and constant."""
    named: bool = True
    more: bool = False
    """Takes any number of arguments."""

    @property
    def most(self) -> int:
        """How many arguments it takes at most."""
        return 50 if self.more else len(self.arguments.split(", "))

    @property
    def least(self) -> int:
        """How many arguments it needs."""
        return len(self.arguments.split(", ")) - self.optional

    @property
    def signature(self) -> str:
        """How it is written."""
        return f"{self.name}({self.arguments}{', ...' if self.more else ''})"


def _quality(columns: Sequence[Column]) -> q.QualityArray:
    return reduce(worst, (column.quality for column in columns))


def _plain(apply: Apply) -> OnColumns:
    def on_columns(columns: Sequence[Column]) -> Column:
        with np.errstate(all="ignore"):
            values = np.asarray(apply(*(column.values for column in columns)), np.float64)
        return Column.of(values, _quality(columns))

    return on_columns


def _choose(columns: Sequence[Column]) -> Column:
    condition, then, other = columns
    values = np.where(condition.true, then.values, other.values)
    chosen = np.where(condition.true, then.quality, other.quality)
    return Column.of(values, worst(condition.quality, chosen))


def _and(columns: Sequence[Column]) -> Column:
    """A usable false decides, whatever the other one is."""
    a, b = columns
    quality = _decided(a, b, a.usable & ~a.true, b.usable & ~b.true)
    return Column.of((a.true & b.true).astype(np.float64), quality)


def _or(columns: Sequence[Column]) -> Column:
    """A usable true decides, whatever the other one is."""
    a, b = columns
    quality = _decided(a, b, a.true, b.true)
    return Column.of((a.true | b.true).astype(np.float64), quality)


def _decided(a: Column, b: Column, by_a: Flags, by_b: Flags) -> q.QualityArray:
    """The quality of the one that decides alone, else the worst."""
    both = worst(a.quality, b.quality)
    return np.where(by_a & ~by_b, a.quality, np.where(by_b & ~by_a, b.quality, both))


def _or_else(columns: Sequence[Column]) -> Column:
    first, second = columns
    return Column.of(
        np.where(first.usable, first.values, second.values),
        np.where(first.usable, first.quality, second.quality),
    )


def _usable(columns: Sequence[Column]) -> Column:
    (column,) = columns
    return Column(column.usable.astype(np.float64), np.zeros(len(column), np.uint16))


def _good(columns: Sequence[Column]) -> Column:
    (column,) = columns
    return Column(q.is_good(column.quality).astype(np.float64), np.zeros(len(column), np.uint16))


def _bit(value: Floats, number: Floats) -> Floats:
    return np.floor(value / 2.0**number) % 2


def _round(value: Floats, digits: Floats | None = None) -> Floats:
    factor = 1.0 if digits is None else 10.0 ** np.rint(digits)
    return np.rint(value * factor) / factor


def _fraction(percent: Floats) -> Floats:
    return np.where((percent >= 0) & (percent <= 100), percent / 100, np.nan)


def _dew_point(celsius: Floats, percent: Floats) -> Floats:
    return air.dew_point(celsius, _fraction(percent))


def _wet_bulb(celsius: Floats, percent: Floats) -> Floats:
    return air.wet_bulb(celsius, _fraction(percent))


def _humidity_ratio(celsius: Floats, percent: Floats) -> Floats:
    return air.humidity_ratio(celsius, _fraction(percent))


def _operator(sign: str, count: int, on_columns: OnColumns) -> Function:
    return Function(sign, ", ".join("ab"[:count]), "", on_columns, named=False)


def _compared(apply: Callable[[Floats, Floats], object]) -> Apply:
    return lambda a, b: np.where(np.isnan(a) | np.isnan(b), np.nan, np.asarray(apply(a, b), np.float64))


def _powered(a: Floats, b: Floats) -> Floats:
    return np.power(a, b)


def _all() -> list[Function]:
    return [*_operators(), *_plain_functions(), *_choices(), *_of_air(), *_looking_back()]


def _operators() -> list[Function]:
    return [
        _operator("+", 2, _plain(np.add)),
        _operator("-", 2, _plain(np.subtract)),
        _operator("*", 2, _plain(np.multiply)),
        _operator("/", 2, _plain(np.divide)),
        _operator("%", 2, _plain(np.mod)),
        _operator("^", 2, _plain(_powered)),
        _operator("negative", 1, _plain(np.negative)),
        _operator("=", 2, _plain(_compared(np.equal))),
        _operator("!=", 2, _plain(_compared(np.not_equal))),
        _operator("<", 2, _plain(_compared(np.less))),
        _operator("<=", 2, _plain(_compared(np.less_equal))),
        _operator(">", 2, _plain(_compared(np.greater))),
        _operator(">=", 2, _plain(_compared(np.greater_equal))),
        _operator("not", 1, _plain(lambda a: np.where(np.isnan(a), np.nan, (a == 0).astype(np.float64)))),
        _operator("and", 2, _and),
        _operator("or", 2, _or),
    ]


def _plain_functions() -> list[Function]:
    def lowest(*values: Floats) -> Floats:
        return reduce(np.minimum, values)

    def highest(*values: Floats) -> Floats:
        return reduce(np.maximum, values)

    def mean(*values: Floats) -> Floats:
        return np.asarray(sum(values), np.float64) / len(values)

    return [
        Function("abs", "x", "x without its sign", _plain(np.abs)),
        Function("min", "a, b", "the lowest of them", _plain(lowest), more=True),
        Function("max", "a, b", "the highest of them", _plain(highest), more=True),
        Function("mean", "a, b", "their mean", _plain(mean), more=True),
        Function("round", "x, digits", "x rounded, to even at the middle", _plain(_round), 1),
        Function("floor", "x", "the next whole number below", _plain(np.floor)),
        Function("ceil", "x", "the next whole number above", _plain(np.ceil)),
        Function("clamp", "x, low, high", "x, held between low and high", _plain(_clamped)),
        Function("sqrt", "x", "the square root", _plain(np.sqrt)),
        Function("exp", "x", "e to the power of x", _plain(np.exp)),
        Function("ln", "x", "the natural logarithm", _plain(np.log)),
        Function("log10", "x", "the logarithm to the base of 10", _plain(np.log10)),
        Function("sin", "x", "the sine of x in radians", _plain(np.sin)),
        Function("cos", "x", "the cosine of x in radians", _plain(np.cos)),
        Function("tan", "x", "the tangent of x in radians", _plain(np.tan)),
        Function("bit", "x, n", "bit n of the whole number x, from 0", _plain(_bit)),
    ]


def _clamped(value: Floats, low: Floats, high: Floats) -> Floats:
    return np.where(low > high, np.nan, np.clip(value, low, high))


def _choices() -> list[Function]:
    return [
        Function("if", "condition, then, otherwise", "then where the condition is not zero", _choose),
        Function("or_else", "x, y", "x where it has a value, y where it is Bad", _or_else),
        Function("usable", "x", "1 where x has a value, 0 where it is Bad", _usable),
        Function("good", "x", "1 where the quality of x is Good", _good),
    ]


def _of_air() -> list[Function]:
    given = "from °C and % relative humidity at 101325 Pa (ASHRAE Handbook, Fundamentals, chapter 1)"
    ratio = f"kg of water per kg of dry air, {given}"
    return [
        Function("dew_point", "t, rh", f"dew point in °C, {given}", _plain(_dew_point)),
        Function("wet_bulb", "t, rh", f"wet-bulb temperature in °C, {given}", _plain(_wet_bulb)),
        Function("humidity_ratio", "t, rh", ratio, _plain(_humidity_ratio)),
        Function(
            "saturation_pressure", "t", "of water vapour in Pa, from °C (same source)",
            _plain(air.saturation_pressure),
        ),
    ]  # fmt: skip


def _looking_back() -> list[Function]:
    return [
        Function("average", "x, length", "mean of x over the time before, by time", durations=(1,)),
        Function("lowest", "x, length", "lowest of x over the time before", durations=(1,)),
        Function("highest", "x, length", "highest of x over the time before", durations=(1,)),
        Function("ago", "x, length", "what x was that long before", durations=(1,)),
        Function("rate", "x, length", "change of x a second, over the time before", durations=(1,)),
        Function("since", "condition", "seconds since it held last, 0 while it holds"),
        Function("held", "condition", "seconds for which it has held, 0 while it does not"),
    ]


FUNCTIONS: Final = {one.name: one for one in _all()}
