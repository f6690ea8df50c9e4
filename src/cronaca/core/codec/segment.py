"""A segment: up to 16,384 samples of one tag, compressed, with version and checksum.

Layout: magic "CS", version u8, value type u8, value encoding u8 (columns.py), decimals u8, count u32,
CRC-32 u32 (of the head before it and the body; version 1: of the body only); body = times, values,
quality, each an integer column (ints.py).

Values of Bad samples are not stored: the last usable one is repeated instead, which costs nothing.
"""

from __future__ import annotations

import struct
import zlib
from typing import Final, NamedTuple

import numpy as np

from cronaca.core import quality as q
from cronaca.core.codec.columns import Encoding, from_ints, to_ints
from cronaca.core.codec.ints import pack_ints, unpack_ints, unpack_ints_into
from cronaca.core.errors import CorruptPayload
from cronaca.core.model import Series, Values, ValueType

MAX_SAMPLES: Final = 16_384
_MAGIC: Final = b"CS"
_VERSION: Final = 2
_HEAD: Final = struct.Struct("<2sBBBBI")
_CRC: Final = struct.Struct("<I")


def encode_segment(series: Series) -> bytes:
    """The samples as bytes; times must be in order. Exact for every value, NaN payloads excepted."""
    encoding, decimals, ints = to_ints(_fill_bad(series))
    body = (
        pack_ints(series.ts_us, (1, 2))
        + pack_ints(ints, encoding.orders)
        + pack_ints(series.quality.astype(np.int64), (1,))
    )
    head = _HEAD.pack(_MAGIC, _VERSION, series.value_type, encoding, decimals, len(series))
    return head + _CRC.pack(zlib.crc32(body, zlib.crc32(head))) + body


def decode_segment(data: bytes) -> Series:
    """The samples; raises CorruptPayload when the bytes are not what was written."""
    opened = _open(data)
    series = Series.unfilled(opened.value_type, opened.samples)
    _fill(opened, series)
    return series


def decode_segment_into(data: bytes, out: Series) -> None:
    """Fills `out`, which has as many samples of the same type; raises CorruptPayload."""
    opened = _open(data)
    if (opened.value_type, opened.samples) != (out.value_type, len(out)):
        described = f"{opened.samples} samples of type {opened.value_type.name}"
        raise CorruptPayload("segment", f"it holds {described}, not {len(out)} of {out.value_type.name}")
    _fill(opened, out)


class _Opened(NamedTuple):
    value_type: ValueType
    encoding: Encoding
    decimals: int
    samples: int
    body: memoryview


def _fill(opened: _Opened, out: Series) -> None:
    rest = unpack_ints_into(opened.body, out.ts_us)
    ints, rest = unpack_ints(rest, opened.samples)
    from_ints(ints, opened.encoding, opened.decimals, out.values)
    rest = unpack_ints_into(rest, ints)
    out.quality[:] = ints
    if len(rest):
        raise CorruptPayload("segment", f"{len(rest)} bytes are left over")
    out.values[q.is_bad(out.quality)] = np.nan if opened.value_type is ValueType.FLOAT else 0


def _open(data: bytes) -> _Opened:
    if len(data) < _HEAD.size + _CRC.size:
        raise CorruptPayload("segment", "it is cut short")
    magic, version, kind, encoding, decimals, count = _HEAD.unpack_from(data)
    if magic != _MAGIC or version not in (1, _VERSION):
        raise CorruptPayload("segment", f"unknown format {magic!r} version {version}")
    body = memoryview(data)[_HEAD.size + _CRC.size :]
    seed = 0 if version == 1 else zlib.crc32(data[: _HEAD.size])
    if zlib.crc32(body, seed) != _CRC.unpack_from(data, _HEAD.size)[0]:
        raise CorruptPayload("segment", "the checksum does not match")
    try:
        return _Opened(ValueType(kind), Encoding(encoding), decimals, count, body)
    except ValueError as exc:
        raise CorruptPayload("segment", str(exc)) from exc


def _fill_bad(series: Series) -> Values:
    bad = q.is_bad(series.quality)
    if not bad.any():
        return series.values
    usable = np.where(bad, -1, np.arange(len(series)))
    last = np.maximum.accumulate(usable)
    filled = series.values[np.maximum(last, 0)]
    filled[last < 0] = 0
    return filled
