"""Buckets as bytes, in two parts: the shape that curves need, and the figures that statistics need.

Layout of each: magic "CR" or "CF", version u8, value type u8, width u64, count u32, CRC-32 of head and
body u32, body = integer and value columns. Times are held as offsets from the bucket's start.
"""

from __future__ import annotations

import struct
import zlib
from dataclasses import dataclass
from typing import Final

import numpy as np

from cronaca.core.codec.columns import pack_values, unpack_values
from cronaca.core.codec.ints import pack_ints, unpack_ints
from cronaca.core.errors import CorruptPayload
from cronaca.core.model import Times, ValueType
from cronaca.core.rollup.buckets import COUNTS, FIGURES, NEVER, POINTS, Buckets, Points

_VERSION: Final = 1
_HEAD: Final = struct.Struct("<2sBBQI")
_CRC: Final = struct.Struct("<I")
_SHAPE: Final = b"CR"
_FIGURES: Final = b"CF"


@dataclass(frozen=True, slots=True)
class Shape:
    """The part of buckets that curves need, and how many samples each holds."""

    value_type: ValueType
    width_us: int
    start_us: Times
    samples: Times
    points: dict[str, Points]


def encode_buckets(buckets: Buckets) -> tuple[bytes, bytes]:
    """Shape and figures as bytes."""
    shape = pack_ints(buckets.start_us // buckets.width_us) + pack_ints(buckets.samples)
    for name in POINTS:
        points = buckets.points[name]
        there = points.ts_us != NEVER
        offset = np.where(there, points.ts_us - buckets.start_us, NEVER)
        # Where there is no sample its columns say nothing: a zero costs nothing.
        values = points.values.copy()
        values[~there | np.isnan(values)] = 0
        shape += pack_ints(offset, (0, 1)) + pack_values(values)
        shape += pack_ints(np.where(there, points.quality, 0).astype(np.int64), (0,))
    figures = b"".join(pack_ints(buckets.counts[name], (0,)) for name in COUNTS)
    figures += b"".join(pack_values(buckets.figures[name]) for name in FIGURES)
    return _seal(_SHAPE, buckets, shape), _seal(_FIGURES, buckets, figures)


def decode_shape(data: bytes) -> Shape:
    """The shape; raises CorruptPayload."""
    value_type, width, count, rest = _open(_SHAPE, data)
    numbers, rest = unpack_ints(rest, count)
    samples, rest = unpack_ints(rest, count)
    start_us, points = numbers * width, {}
    for name in POINTS:
        offset, rest = unpack_ints(rest, count)
        values, rest = unpack_values(rest, count)
        quality, rest = unpack_ints(rest, count)
        ts = np.where(offset == NEVER, NEVER, start_us + offset)
        qualities = quality.astype(np.uint16)
        if value_type is ValueType.FLOAT:
            values = np.where(qualities >= 0x8000, np.nan, values)
        points[name] = Points(ts, values, qualities)
    return Shape(value_type, width, start_us, samples, points)


def decode_buckets(shape: bytes, figures: bytes) -> Buckets:
    """The whole buckets; raises CorruptPayload."""
    head = decode_shape(shape)
    value_type, width, count, rest = _open(_FIGURES, figures)
    if (value_type, width, count) != (head.value_type, head.width_us, len(head.start_us)):
        raise CorruptPayload("rollup", "shape and figures do not belong together")
    counts, floats = {}, {}
    for name in COUNTS:
        counts[name], rest = unpack_ints(rest, count)
    for name in FIGURES:
        column, rest = unpack_values(rest, count)
        floats[name] = column.astype(np.float64)
    return Buckets(value_type, width, head.start_us, head.points, counts, floats)


def _seal(magic: bytes, buckets: Buckets, body: bytes) -> bytes:
    head = _HEAD.pack(magic, _VERSION, buckets.value_type, buckets.width_us, len(buckets))
    return head + _CRC.pack(zlib.crc32(body, zlib.crc32(head))) + body


def _open(magic: bytes, data: bytes) -> tuple[ValueType, int, int, memoryview]:
    if len(data) < _HEAD.size + _CRC.size:
        raise CorruptPayload("rollup", "it is cut short")
    start, version, kind, width, count = _HEAD.unpack_from(data)
    if start != magic or version != _VERSION:
        raise CorruptPayload("rollup", f"unknown format {start!r} version {version}")
    body = memoryview(data)[_HEAD.size + _CRC.size :]
    if zlib.crc32(body, zlib.crc32(data[: _HEAD.size])) != _CRC.unpack_from(data, _HEAD.size)[0]:
        raise CorruptPayload("rollup", "the checksum does not match")
    return ValueType(kind), width, count, body
