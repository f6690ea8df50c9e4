"""The last minutes of tags that nobody records: frames of readings by block of tags and stretch of time.

A frame is length u32, CRC-32 u32, then rows deflated: tag i4, type u1, time i8 (UTC µs), 64-bit value i8,
quality u2, little-endian. A flush appends one frame to each block that it touches."""

from __future__ import annotations

import struct
import zlib
from collections.abc import Iterator
from typing import Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core.errors import CorruptPayload
from cronaca.core.model import MINUTE, SECOND
from cronaca.core.outputs import RECENT_ROW
from cronaca.db.transaction import Transaction
from cronaca.history.tables.current import BLOCK

KEPT_US: Final = 12 * MINUTE
"""Ten minutes and what stands before them: a value that stays is told once a minute."""
_PERIOD_US: Final = 10 * SECOND
_HEAD: Final = struct.Struct("<II")
_ADD: Final = """
INSERT INTO recent_reading (block, period, payload) VALUES (%s, %s, %s)
ON DUPLICATE KEY UPDATE payload = CONCAT(payload, VALUES(payload))
"""
_READ: Final = """
SELECT payload FROM recent_reading WHERE block = %(block)s AND period >= %(period)s ORDER BY period
"""
_PRUNE: Final = "DELETE FROM recent_reading WHERE period < %(period)s"

Rows = NDArray[np.void]


def add(tx: Transaction, rows: Rows, now_us: int) -> None:
    """Appends readings (rows of `RECENT_ROW`, in any order), and forgets what is too old."""
    period = now_us // _PERIOD_US
    rows = rows[np.argsort(rows["tag"], kind="stable")]
    edges = np.flatnonzero(np.diff(rows["tag"] // BLOCK)) + 1
    parts = [part for part in np.split(rows, edges) if len(part)]
    tx.execute_many(_ADD, [(int(part["tag"][0]) // BLOCK, period, _frame(part)) for part in parts])
    tx.execute(_PRUNE, period=(now_us - KEPT_US) // _PERIOD_US)


def read(tx: Transaction, tag_id: int, since_us: int) -> Rows:
    """The readings of a tag since a moment, and ones before it, in order of time; raises CorruptPayload."""
    period = (since_us - MINUTE) // _PERIOD_US
    found = tx.fetch(_READ, block=tag_id // BLOCK, period=period - 1)
    frames = [rows[rows["tag"] == tag_id] for (payload,) in found for rows in _frames(payload)]
    whole = np.concatenate([np.empty(0, RECENT_ROW), *frames])
    return whole[np.argsort(whole["ts"], kind="stable")]


def _frame(rows: Rows) -> bytes:
    body = zlib.compress(rows.tobytes(), 1)
    return _HEAD.pack(len(body), zlib.crc32(body)) + body


def _frames(payload: bytes) -> Iterator[Rows]:
    at = 0
    while at < len(payload):
        if len(payload) - at < _HEAD.size:
            raise CorruptPayload("recent readings", "the last frame is cut off")
        length, crc = _HEAD.unpack_from(payload, at)
        body = payload[at + _HEAD.size : at + _HEAD.size + length]
        if len(body) != length or zlib.crc32(body) != crc:
            raise CorruptPayload("recent readings", "the checksum does not match")
        yield np.frombuffer(zlib.decompress(body), RECENT_ROW)
        at += _HEAD.size + length
