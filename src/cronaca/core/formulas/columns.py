"""Values and qualities at instants, as columns."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.model import Series, Times, ValueType

Floats = NDArray[np.float64]
Flags = NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class Column:
    """Values with their qualities; what is Bad is NaN."""

    values: Floats
    quality: q.QualityArray

    @classmethod
    def of(cls, values: Floats, quality: q.QualityArray) -> Column:
        """Made regular: what is not a number is Bad, out of range, and what is Bad has no value."""
        bad = q.is_bad(quality)
        lost = ~np.isfinite(values) & ~bad
        if lost.any():
            quality = np.where(lost, np.uint16(q.BAD_OUT_OF_RANGE), quality)
            bad = bad | lost
        return cls(np.where(bad, np.nan, values), quality)

    @classmethod
    def constant(cls, value: float, count: int) -> Column:
        """The same Good value at each instant."""
        return cls(np.full(count, value), np.zeros(count, np.uint16))

    @classmethod
    def of_bits(cls, bits: NDArray[np.int64], quality: q.QualityArray, value_type: ValueType) -> Column:
        """From 64-bit values of a tag's type; whole numbers beyond 2^53 are rounded."""
        floats = bits.view(np.float64) if value_type is ValueType.FLOAT else bits.astype(np.float64)
        return cls.of(floats, quality)

    @property
    def usable(self) -> Flags:
        """Where there is a value."""
        return ~q.is_bad(self.quality)

    @property
    def true(self) -> Flags:
        """Where there is a value that is not zero."""
        result: Flags = self.usable & (self.values != 0)
        return result

    def __len__(self) -> int:
        return len(self.values)

    def to_bits(self, value_type: ValueType) -> tuple[NDArray[np.int64], q.QualityArray]:
        """As 64-bit values of a tag's type: rounded for whole numbers, true or false for a boolean; what
        does not fit is Bad, out of range."""
        if value_type is ValueType.FLOAT:
            return self.values.view(np.int64).copy(), self.quality.copy()
        usable, quality = self.usable, self.quality.copy()
        filled = np.where(usable, self.values, 0.0)
        if value_type is ValueType.BOOLEAN:
            return (filled != 0).astype(np.int64), quality
        limit = 2.0**31 if value_type is ValueType.STATE else 2.0**63
        outside = usable & ((filled >= limit) | (filled < -limit))
        quality[outside] = q.BAD_OUT_OF_RANGE
        return np.where(outside, 0.0, np.rint(filled)).astype(np.int64), quality

    def to_series(self, ts_us: Times, value_type: ValueType) -> Series:
        """As samples of a tag's type."""
        bits, quality = self.to_bits(value_type)
        values = bits.view(np.float64) if value_type is ValueType.FLOAT else bits
        return Series.of(value_type, ts_us, values, quality)


@dataclass(frozen=True, slots=True)
class Instants:
    """The instants at which something is evaluated, in order, and the inputs' values there."""

    ts_us: Times
    inputs: Mapping[str, Column]

    def __len__(self) -> int:
        return len(self.ts_us)


def worst(a: q.QualityArray, b: q.QualityArray) -> q.QualityArray:
    """The one of lower standing, at each instant; the first of two alike."""
    return np.where(q.severity(b) > q.severity(a), b, a)
