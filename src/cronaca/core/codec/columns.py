"""A column of values as an encoding and integers: the shortest form that gives back the very bits.

Encodings, tried in this order:
  INTEGER   int64 columns as they are
  DECIMAL   float64 = integer / 10^decimals
  DECIMAL32 float64 that came from a float32 = float32(integer / 10^decimals)
  BITS      the 64 bits of the float
"""

from __future__ import annotations

import struct
from enum import IntEnum
from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core.codec.ints import Ints, pack_ints, unpack_ints
from cronaca.core.errors import CorruptPayload
from cronaca.core.model import Values

Floats = NDArray[np.float64]
_MOST_DECIMALS: Final = 6
_EXACT: Final = float(1 << 53)
_PROBE: Final = 64
"""A column whose first values are not decimal is not tried in full."""
_FORM: Final = struct.Struct("<BB")


class Encoding(IntEnum):
    """How values are held."""

    INTEGER = 0
    DECIMAL = 1
    DECIMAL32 = 2
    BITS = 3

    @property
    def orders(self) -> tuple[int, ...]:
        """The orders of differences worth trying: those of bit patterns say nothing."""
        return (0,) if self is Encoding.BITS else (0, 1)


def to_ints(values: Values) -> tuple[Encoding, int, Ints]:
    """Encoding, decimals and integers of a column."""
    if values.dtype == np.int64:
        return Encoding.INTEGER, 0, values.astype(np.int64)
    floats = values.astype(np.float64)
    for encoding in (Encoding.DECIMAL, Encoding.DECIMAL32):
        for decimals in range(_MOST_DECIMALS + 1):
            if _as_decimal(floats[:_PROBE], decimals, encoding) is None:
                continue
            ints = _as_decimal(floats, decimals, encoding)
            if ints is not None:
                return encoding, decimals, ints
    return Encoding.BITS, 0, floats.view(np.int64)


def from_ints(ints: Ints, encoding: Encoding, decimals: int, out: Values | None = None) -> Values:
    """The column that `to_ints` took; `out`, if given, is filled with it."""
    if encoding is Encoding.INTEGER:
        result: Values = ints
    elif encoding is Encoding.BITS:
        result = ints.view(np.float64)
    elif encoding is Encoding.DECIMAL:
        return np.divide(ints, 10.0**decimals, out=out)
    else:
        result = (ints / 10.0**decimals).astype(np.float32).astype(np.float64)
    if out is None:
        return result
    out[:] = result
    return out


def pack_values(values: Values) -> bytes:
    """A column of values with its own encoding, as bytes."""
    encoding, decimals, ints = to_ints(values)
    return _FORM.pack(encoding, decimals) + pack_ints(ints, encoding.orders)


def unpack_values(data: memoryview, count: int) -> tuple[Values, memoryview]:
    """A column of `count` values and what follows it; raises CorruptPayload."""
    try:
        kind, decimals = _FORM.unpack_from(data)
        encoding = Encoding(kind)
    except (struct.error, ValueError) as exc:
        raise CorruptPayload("value column", str(exc)) from exc
    ints, rest = unpack_ints(data[_FORM.size :], count)
    return from_ints(ints, encoding, decimals), rest


def _as_decimal(floats: Floats, decimals: int, encoding: Encoding) -> Ints | None:
    """The column as integers / 10^decimals, or None when that would not give back the very bits."""
    with np.errstate(over="ignore", invalid="ignore"):
        scaled = np.rint(floats * 10.0**decimals)
        if not bool((np.abs(scaled) < _EXACT).all()):
            return None
        ints = scaled.astype(np.int64)
        back = from_ints(ints, encoding, decimals)
    return ints if np.array_equal(back.view(np.int64), floats.view(np.int64)) else None
