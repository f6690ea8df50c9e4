"""Which samples a table shows: by value and by quality."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.errors import InvalidInput
from cronaca.core.model import Series, ValueType

Mask = NDArray[np.bool_]
Number = int | float

_NUMBER: Final = r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?"
_COMPARED: Final = re.compile(rf"(>=|<=|>|<|=|!=)\s*({_NUMBER})")
_BETWEEN: Final = re.compile(rf"({_NUMBER})\s+to\s+({_NUMBER})")
_COMPARE: Final = {
    ">": np.greater, ">=": np.greater_equal, "<": np.less, "<=": np.less_equal, "=": np.equal,
    "!=": np.not_equal,
}  # fmt: skip
_BOOLEANS: Final = {"true": 1, "false": 0}


class QualityChoice(StrEnum):
    """Samples of which quality are shown."""

    ANY = "any"
    GOOD = "good"
    UNCERTAIN = "uncertain"
    BAD = "bad"
    NOT_GOOD = "not_good"

    def mask(self, quality: q.QualityArray) -> Mask:
        """Which samples have it."""
        good, bad = q.is_good(quality), q.is_bad(quality)
        return {
            QualityChoice.ANY: np.ones(len(quality), np.bool_),
            QualityChoice.GOOD: good,
            QualityChoice.UNCERTAIN: ~good & ~bad,
            QualityChoice.BAD: bad,
            QualityChoice.NOT_GOOD: ~good,
        }[self]


@dataclass(frozen=True, slots=True)
class ValueCondition:
    """What people type to see some values only: `> 80`, `80 to 90`, `!= 0`, or a text that the value or the
    name of its state contains, letters large or small.

    `low` and `high` are the ends of `80 to 90`, both included; `sign` and `low` those of a comparison."""

    text: str
    sign: str = ""
    low: Number | None = None
    high: Number | None = None

    @classmethod
    def parse(cls, text: str) -> ValueCondition | None:
        """None: every value. Raises InvalidInput for a comparison with something else than a number."""
        text = text.strip()
        if not text:
            return None
        if compared := _COMPARED.fullmatch(text):
            return cls(text, compared[1], _number(compared[2]))
        if between := _BETWEEN.fullmatch(text):
            low, high = _number(between[1]), _number(between[2])
            if low > high:
                raise InvalidInput(
                    "value",
                    "ends-before-begins",
                    "{text!r} ends before it begins",
                    "Give the smaller one first.",
                    text=text,
                )
            return cls(text, "", low, high)
        if text[0] in "<>=!":
            raise InvalidInput(
                "value",
                "not-compare-with-number",
                "{text!r} does not compare with a number",
                "Give > 80, <= 2.5, != 0, 80 to 90, or a text.",
                text=text,
            )
        if re.fullmatch(_NUMBER, text):
            return cls(text, "=", _number(text))
        return cls(text)

    def mask(self, series: Series, names: Mapping[int, str]) -> Mask:
        """Which samples meet it; a Bad one has no value that could. `names`: of the states of a state or
        boolean tag, or the texts of a text tag, by the numbers that the samples hold."""
        usable = ~q.is_bad(series.quality)
        if series.value_type is ValueType.TEXT or self.low is None:
            return usable & self._named(series, names)
        met = self._compared(series.values, self.low)
        # What looks like a number may be part of a name: 30 of Recipe 30.
        return usable & (met | self._named(series, names)) if self.sign == "=" else usable & met

    def _compared(self, values: NDArray[Any], low: Number) -> Mask:
        if self.high is not None:
            return _compare(">=", values, low) & _compare("<=", values, self.high)
        return _compare(self.sign, values, low)

    def _named(self, series: Series, names: Mapping[int, str]) -> Mask:
        wanted = self.text.lower()
        codes = [code for code, name in names.items() if wanted in name.lower()]
        if series.value_type is ValueType.BOOLEAN and wanted in _BOOLEANS:
            codes.append(_BOOLEANS[wanted])
        if series.value_type is ValueType.FLOAT or not codes:
            return np.zeros(len(series), np.bool_)
        return np.isin(series.values, codes)


def _number(text: str) -> Number:
    return int(text) if re.fullmatch(r"[+-]?\d+", text) else float(text)


def _compare(sign: str, values: NDArray[Any], limit: Number) -> Mask:
    if values.dtype == np.int64 and isinstance(limit, int) and not -(1 << 63) <= limit < 1 << 63:
        limit = float(limit)
    met: Mask = _COMPARE[sign](values, limit)
    return met


def matching(
    series: Series, condition: ValueCondition | None, quality: QualityChoice, names: Mapping[int, str]
) -> Series:
    """The samples of a series that meet the condition and have the quality."""
    if condition is None and quality is QualityChoice.ANY:
        return series
    mask = quality.mask(series.quality)
    return series.take(mask if condition is None else mask & condition.mask(series, names))
