"""Present values of all tags, in blocks of 256 tags: one small row per block and change."""

from __future__ import annotations

import struct
import zlib
from typing import Final

import numpy as np

from cronaca.core.errors import CorruptPayload
from cronaca.core.ports import LiveValues
from cronaca.db.transaction import Transaction

BLOCK: Final = 256
_ROW: Final = np.dtype([("tag", "<i4"), ("type", "u1"), ("ts", "<i8"), ("bits", "<i8"), ("quality", "<u2")])
_CRC: Final = struct.Struct("<I")
_PUT: Final = """
INSERT INTO current_value (block, epoch, seq, payload) VALUES (%s, %s, %s, %s)
ON DUPLICATE KEY UPDATE epoch = VALUES(epoch), seq = VALUES(seq), payload = VALUES(payload)
"""
_READ: Final = """
SELECT epoch, seq, payload FROM current_value
WHERE epoch > %(epoch)s OR (epoch = %(epoch)s AND seq > %(seq)s) ORDER BY block
"""


def put_current(tx: Transaction, epoch: int, seq: int, live: LiveValues) -> None:
    """Writes the blocks; `live` must hold every tag of each block it touches."""
    rows = np.empty(len(live.tag_ids), _ROW)
    rows["tag"], rows["type"], rows["ts"] = live.tag_ids, live.value_types, live.ts_us
    rows["bits"], rows["quality"] = live.bits, live.quality
    rows = rows[np.argsort(rows["tag"], kind="stable")]
    blocks = rows["tag"] // BLOCK
    edges = np.flatnonzero(np.diff(blocks)) + 1
    tx.execute_many(
        _PUT, [(int(p["tag"][0]) // BLOCK, epoch, seq, _pack(p)) for p in np.split(rows, edges) if len(p)]
    )


def read_current(tx: Transaction, after: tuple[int, int]) -> tuple[tuple[int, int], LiveValues]:
    """The blocks written after (epoch, seq), and the newest (epoch, seq) among them."""
    found_rows = tx.fetch(_READ, epoch=after[0], seq=after[1])
    rows = np.concatenate([np.empty(0, _ROW), *(_unpack(payload) for _, _, payload in found_rows)])
    newest = max(((epoch, seq) for epoch, seq, _ in found_rows), default=after)
    tag_ids, kinds, ts_us, bits = (rows[name].astype(np.int64) for name in ("tag", "type", "ts", "bits"))
    return newest, LiveValues(tag_ids, kinds, ts_us, bits, rows["quality"].astype(np.uint16))


def _pack(rows: np.ndarray[tuple[int], np.dtype[np.void]]) -> bytes:
    body = rows.tobytes()
    return _CRC.pack(zlib.crc32(body)) + body


def _unpack(data: bytes) -> np.ndarray[tuple[int], np.dtype[np.void]]:
    body = data[_CRC.size :]
    if len(data) < _CRC.size or _CRC.unpack_from(data)[0] != zlib.crc32(body) or len(body) % _ROW.itemsize:
        raise CorruptPayload("current values", "the checksum does not match")
    return np.frombuffer(body, _ROW)
