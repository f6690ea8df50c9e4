"""Values as their 64 bits: one int64 column carries every value type."""

from __future__ import annotations

import struct

import numpy as np
from numpy.typing import NDArray

from cronaca.core.model import ValueType


def to_bits(value: float | int | bool, value_type: ValueType) -> int:
    """One value as a signed 64-bit integer; raises OverflowError for an integer beyond int64."""
    if value_type is ValueType.FLOAT:
        return int(struct.unpack("<q", struct.pack("<d", value))[0])
    whole = int(value)
    if not -(1 << 63) <= whole < (1 << 63):
        raise OverflowError(f"{whole} does not fit into 64 bits")
    return whole


def from_bits(bits: int, value_type: ValueType) -> float | int | bool:
    """The value that `to_bits` took."""
    if value_type is ValueType.FLOAT:
        return float(struct.unpack("<d", struct.pack("<q", bits))[0])
    return bool(bits) if value_type is ValueType.BOOLEAN else bits


def column_of_bits(bits: NDArray[np.int64], value_type: ValueType) -> NDArray[np.float64] | NDArray[np.int64]:
    """A column of bits as values of the type."""
    return bits.view(value_type.dtype)
