"""A journal batch: the new samples of many histories, as the recorder commits them in one row.

Layout: magic "CB", version u8, CRC-32 of the body u32; body = number of groups u32, number of
samples u32, then the groups' columns (archive, tag, version, value type, count) and the samples'
columns (times, 64-bit values, quality), each an integer column (ints.py).
"""

from __future__ import annotations

import struct
import zlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final, NamedTuple

import numpy as np
from numpy.typing import NDArray

from cronaca.core.codec.ints import pack_ints, unpack_ints
from cronaca.core.errors import CorruptPayload
from cronaca.core.model import Series, ValueType

_MAGIC: Final = b"CB"
_VERSION: Final = 1
_HEAD: Final = struct.Struct("<2sBI")
_COUNTS: Final = struct.Struct("<II")


class HistoryKey(NamedTuple):
    """What a history is: one tag in one archive, in one version of its type and unit."""

    archive_id: int
    tag_id: int
    version: int


@dataclass(frozen=True, slots=True)
class Batch:
    """New samples by history, in the order in which they were taken."""

    series: Mapping[HistoryKey, Series]

    @property
    def sample_count(self) -> int:
        """How many samples the batch holds."""
        return sum(len(s) for s in self.series.values())


def encode_batch(batch: Batch) -> bytes:
    """The batch as bytes."""
    items = [(k, s) for k, s in batch.series.items() if len(s)]
    keys = np.array([k for k, _ in items], np.int64).reshape(len(items), 3)
    body = b"".join(
        (
            _COUNTS.pack(len(items), sum(len(s) for _, s in items)),
            *(pack_ints(keys[:, i]) for i in range(3)),
            pack_ints(np.array([s.value_type for _, s in items], np.int64)),
            pack_ints(np.array([len(s) for _, s in items], np.int64)),
            pack_ints(_joined([s.ts_us for _, s in items])),
            pack_ints(_joined([s.values.view(np.int64) for _, s in items])),
            pack_ints(_joined([s.quality.astype(np.int64) for _, s in items])),
        )
    )
    return _HEAD.pack(_MAGIC, _VERSION, zlib.crc32(body)) + body


def decode_batch(data: bytes) -> Batch:
    """The batch; raises CorruptPayload when the bytes are not what was written."""
    if len(data) < _HEAD.size + _COUNTS.size:
        raise CorruptPayload("journal batch", "it is cut short")
    magic, version, crc = _HEAD.unpack_from(data)
    if magic != _MAGIC or version != _VERSION:
        raise CorruptPayload("journal batch", f"unknown format {magic!r} version {version}")
    body = memoryview(data)[_HEAD.size :]
    if zlib.crc32(body) != crc:
        raise CorruptPayload("journal batch", "the checksum does not match")
    groups, samples = _COUNTS.unpack_from(body)
    columns, rest = [], body[_COUNTS.size :]
    for count in (groups,) * 5 + (samples,) * 3:
        column, rest = unpack_ints(rest, count)
        columns.append(column)
    if int(columns[4].sum()) != samples:
        raise CorruptPayload("journal batch", "the groups do not add up")
    return Batch(_split(columns))


def _joined(parts: Sequence[NDArray[np.int64]]) -> NDArray[np.int64]:
    return np.concatenate(parts) if parts else np.empty(0, np.int64)


def _split(columns: Sequence[NDArray[np.int64]]) -> dict[HistoryKey, Series]:
    archives, tags, versions, kinds, counts, ts, bits, qualities = columns
    quality = qualities.astype(np.uint16)
    ends = np.cumsum(counts).tolist()
    by_key: dict[HistoryKey, Series] = {}
    start = 0
    rows = zip(archives.tolist(), tags.tolist(), versions.tolist(), kinds.tolist(), ends, strict=True)
    for archive_id, tag_id, version, kind, end in rows:
        value_type = ValueType(kind)
        values = bits[start:end].view(value_type.dtype)
        key = HistoryKey(archive_id, tag_id, version)
        by_key[key] = Series(value_type, ts[start:end], values, quality[start:end])
        start = end
    return by_key
