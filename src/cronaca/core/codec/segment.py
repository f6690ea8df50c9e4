"""A segment: up to 16,384 samples of one tag, compressed, with version and checksum.

Layout: magic "CS", version u8, value type u8, value encoding u8, decimals u8, count u32,
CRC-32 of the body u32; body = times, values, quality, each an integer column (ints.py).

Value encodings, tried in this order, all exact to the bit:
  INTEGER   int64 columns as they are
  DECIMAL   float64 = integer / 10^decimals
  DECIMAL32 float64 that came from a float32 = float32(integer / 10^decimals)
  BITS      the 64 bits of the float
Values of Bad samples are not stored: the last usable one is repeated instead, which costs nothing.
"""

from __future__ import annotations

import struct
import zlib
from enum import IntEnum
from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core import quality as q
from cronaca.core.codec.ints import Ints, pack_ints, unpack_ints
from cronaca.core.errors import CorruptPayload
from cronaca.core.model import Series, ValueType

MAX_SAMPLES: Final = 16_384
_MAGIC: Final = b"CS"
_VERSION: Final = 1
_HEAD: Final = struct.Struct("<2sBBBBII")
_MOST_DECIMALS: Final = 6
_EXACT: Final = float(1 << 53)
_PROBE: Final = 64
"""A column whose first values are not decimal is not tried in full."""

Floats = NDArray[np.float64]


class Encoding(IntEnum):
    """How the values of a segment are held."""

    INTEGER = 0
    DECIMAL = 1
    DECIMAL32 = 2
    BITS = 3


def encode_segment(series: Series) -> bytes:
    """The samples as bytes; times must be in order. Exact for every value, NaN payloads excepted."""
    encoding, decimals, ints = _encode_values(series)
    body = (
        pack_ints(series.ts_us, (1, 2))
        + pack_ints(ints, (0,) if encoding is Encoding.BITS else (0, 1))
        + pack_ints(series.quality.astype(np.int64), (1,))
    )
    head = _HEAD.pack(_MAGIC, _VERSION, series.value_type, encoding, decimals, len(series), zlib.crc32(body))
    return head + body


def decode_segment(data: bytes) -> Series:
    """The samples; raises CorruptPayload when the bytes are not what was written."""
    value_type, encoding, decimals, count, body = _open(data)
    ts, rest = unpack_ints(body, count)
    ints, rest = unpack_ints(rest, count)
    qualities, rest = unpack_ints(rest, count)
    if len(rest):
        raise CorruptPayload("segment", f"{len(rest)} bytes are left over")
    quality = qualities.astype(np.uint16)
    values = _decode_values(ints, encoding, decimals)
    values[q.is_bad(quality)] = np.nan if value_type is ValueType.FLOAT else 0
    return Series(value_type, ts, values, quality)


def _open(data: bytes) -> tuple[ValueType, Encoding, int, int, memoryview]:
    if len(data) < _HEAD.size:
        raise CorruptPayload("segment", "it is cut short")
    magic, version, kind, encoding, decimals, count, crc = _HEAD.unpack_from(data)
    if magic != _MAGIC or version != _VERSION:
        raise CorruptPayload("segment", f"unknown format {magic!r} version {version}")
    body = memoryview(data)[_HEAD.size :]
    if zlib.crc32(body) != crc:
        raise CorruptPayload("segment", "the checksum does not match")
    try:
        return ValueType(kind), Encoding(encoding), decimals, count, body
    except ValueError as exc:
        raise CorruptPayload("segment", str(exc)) from exc


def _encode_values(series: Series) -> tuple[Encoding, int, Ints]:
    values = _fill_bad(series)
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


def _fill_bad(series: Series) -> NDArray[np.float64] | NDArray[np.int64]:
    bad = q.is_bad(series.quality)
    if not bad.any():
        return series.values
    usable = np.where(bad, -1, np.arange(len(series)))
    last = np.maximum.accumulate(usable)
    filled = series.values[np.maximum(last, 0)]
    filled[last < 0] = 0
    return filled


def _as_decimal(floats: Floats, decimals: int, encoding: Encoding) -> Ints | None:
    """The column as integers / 10^decimals, or None when that would not give back the very bits."""
    with np.errstate(over="ignore", invalid="ignore"):
        scaled = np.rint(floats * 10.0**decimals)
        if not bool((np.abs(scaled) < _EXACT).all()):
            return None
        ints = scaled.astype(np.int64)
        back = _decode_values(ints, encoding, decimals)
    return ints if np.array_equal(back.view(np.int64), floats.view(np.int64)) else None


def _decode_values(ints: Ints, encoding: Encoding, decimals: int) -> NDArray[np.float64] | NDArray[np.int64]:
    if encoding is Encoding.INTEGER:
        return ints
    if encoding is Encoding.BITS:
        return ints.view(np.float64)
    floats = ints / 10.0**decimals
    if encoding is Encoding.DECIMAL32:
        return floats.astype(np.float32).astype(np.float64)
    return floats
